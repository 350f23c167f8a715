"""The account."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """A person who signs in. Names are told apart by case, as every name here."""

    username = models.CharField(
        "name",
        max_length=60,
        unique=True,
        db_collation="utf8mb4_bin",
        validators=[AbstractUser.username_validator],
        error_messages={"unique": "There is an account of this name already."},
    )
