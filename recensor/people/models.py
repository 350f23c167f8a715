"""The account, and the mark of those that belong to the demo; sign-ins stand in a module of their own."""

import rules
from django.contrib.auth.models import AbstractUser
from django.db import models

from recensor.core.plan import Order, Way
from recensor.drawing.board import Lies
from recensor.drawing.conventions import Conventions
from recensor.people.sessions import Session

__all__ = ["DemoAccount", "Session", "User"]


class User(AbstractUser):
    """A person who signs in, with the school they follow. Names are told apart by case, as every name here."""

    username = models.CharField(
        "name",
        max_length=60,
        unique=True,
        db_collation="utf8mb4_bin",
        validators=[AbstractUser.username_validator],
        error_messages={"unique": "There is an account of this name already."},
    )
    is_supervisor = models.BooleanField(default=False)
    resistor_symbol = models.CharField(max_length=8, choices=[("box", "box"), ("zigzag", "zigzag")], default="box")
    source_letter = models.CharField(max_length=1, choices=[("V", "V"), ("E", "E")], default="V")
    parallel_formula = models.CharField(
        max_length=12,
        choices=[("reciprocal", "sum of reciprocals"), ("product", "product over sum, for two")],
        default="reciprocal",
    )
    voltage_law = models.CharField(
        max_length=8,
        choices=[("sums", "rises equal drops"), ("signed", "signed sum is zero")],
        default="sums",
    )

    line_axes = models.CharField(
        max_length=8,
        choices=[("volts", "volts over amps: the slope is R"), ("amps", "amps over volts: the slope is 1/R")],
        default="volts",
        db_default="volts",
    )
    paper = models.CharField(max_length=8, choices=[("a4", "A4"), ("letter", "Letter")], default="a4", db_default="a4")
    reading_order = models.CharField(
        max_length=20,
        choices=[(order.value, order.value) for order in Order],
        default=Order.VOLTS_FIRST.value,
        db_default=Order.VOLTS_FIRST.value,
    )
    board_lies = models.CharField(
        max_length=24,
        choices=[(lies.value, lies.value) for lies in Lies],
        default=Lies.UPRIGHT.value,
        db_default=Lies.UPRIGHT.value,
    )
    drops_by_size = models.BooleanField(default=False, db_default=False)
    own_calculations = models.BooleanField(default=False, db_default=False)
    opens_by = models.CharField(
        max_length=32,
        choices=[(way.value, way.value) for way in Way],
        default=Way.LINK.value,
        db_default=Way.LINK.value,
    )
    speaks = models.BooleanField(default=False, db_default=False)
    bench_shows = models.CharField(
        max_length=12,
        choices=[("drawing", "the drawing"), ("readings", "the table of readings")],
        default="drawing",
        db_default="drawing",
    )

    def has_perm(self, perm: str, obj: object = None) -> bool:
        """Whether a rule allows it. Nobody stands above the rules: a superuser's account opens nobody else's books."""
        return self.is_active and rules.has_perm(perm, self, obj)

    @property
    def conventions(self) -> Conventions:
        """The school as drawings and worked calculations take it."""
        return Conventions(
            zigzag=self.resistor_symbol == "zigzag",
            source_letter=self.source_letter,
            product_over_sum=self.parallel_formula == "product",
            signed_sum=self.voltage_law == "signed",
            amps_upward=self.line_axes == "amps",
            letter=self.paper == "letter",
        )


class DemoAccount(models.Model):
    """The mark of an account that the demo has made: its password is published, and what it made can be put back."""

    user = models.OneToOneField(User, on_delete=models.CASCADE, primary_key=True, related_name="demo")

    def __str__(self) -> str:
        return self.user.username
