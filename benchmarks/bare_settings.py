"""The barest site on the same tables: one view that inserts one row, without any middleware."""

from recensor.site.settings import *  # noqa: F403

MIDDLEWARE = []
ROOT_URLCONF = "benchmarks.bare"
