"""Settings for the type checker: what the site has, without a database to connect to."""

import os

os.environ.setdefault("DATABASE_URL", "mysql://nobody@127.0.0.1/none")
os.environ.setdefault("SECRET_KEY", "for the type checker")

from recensor.site.settings import *  # noqa: F403
