"""Settings for tests: the site's own, with quick password hashes, unhashed static files and no migrations.

The tables are made from the models; tests.site.test_launch runs the migrations and sees that they make the same.
"""

from recensor.site.settings import *  # noqa: F403
from recensor.site.settings import DATABASES, PASSWORD_HASHERS, STORAGES

OUTBOX_RETRY_MILLISECONDS = 400
REAL_HASHERS = PASSWORD_HASHERS
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
DATABASES = {"default": {**DATABASES["default"], "TEST": {**DATABASES["default"].get("TEST", {}), "MIGRATE": False}}}
TEST_RUNNER = "tests.runner.TimedRunner"
