"""The barest site on the same tables: no middleware, one view that inserts one row."""

from recensor.site.settings import *  # noqa: F403

MIDDLEWARE = []
ROOT_URLCONF = "benchmarks.bare"
WSGI_APPLICATION = "benchmarks.bare.application"
