"""The same one view behind the site's own middleware, for someone who is signed in."""

from recensor.site.settings import *  # noqa: F403

ROOT_URLCONF = "benchmarks.bare"
