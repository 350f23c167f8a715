"""The account."""

from django.contrib.auth.models import AbstractUser
from django.db import models


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

    @property
    def draws_zigzag(self) -> bool:
        """Whether resistors are drawn as zigzags."""
        return self.resistor_symbol == "zigzag"
