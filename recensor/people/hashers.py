"""How passwords are kept."""

from threading import Lock

from django.contrib.auth.hashers import Argon2PasswordHasher

# A hash takes a core for its time; whoever asks for many at once, in whatever way, gets one after another.
_ONE_AT_A_TIME = Lock()


class LightArgon2(Argon2PasswordHasher):
    """argon2id with 19 MiB, two rounds and one lane: about 50 ms of one core; one at a time in each process.

    Source of the figures: OWASP Password Storage Cheat Sheet, "m=19456 (19 MiB), t=2, p=1" (from memory).
    """

    time_cost, memory_cost, parallelism = 2, 19_456, 1

    def encode(self, password: str, salt: str) -> str:
        """Hash a password."""
        with _ONE_AT_A_TIME:
            return super().encode(password, salt)

    def verify(self, password: str, encoded: str) -> bool:
        """Whether a password is the one that was hashed."""
        with _ONE_AT_A_TIME:
            return super().verify(password, encoded)
