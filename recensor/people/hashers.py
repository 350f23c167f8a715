"""How passwords are kept."""

from django.contrib.auth.hashers import Argon2PasswordHasher


class LightArgon2(Argon2PasswordHasher):
    """argon2id with 19 MiB, two rounds and one lane: about 50 ms of one core.

    Source of the figures: OWASP Password Storage Cheat Sheet, "m=19456 (19 MiB), t=2, p=1" (from memory).
    """

    time_cost, memory_cost, parallelism = 2, 19_456, 1
