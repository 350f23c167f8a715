"""Settings for tests: the site's own, with quick password hashes and unhashed static files."""

from recensor.site.settings import *  # noqa: F403
from recensor.site.settings import PASSWORD_HASHERS, STORAGES

OUTBOX_RETRY_MILLISECONDS = 400
REAL_HASHERS = PASSWORD_HASHERS
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
TEST_RUNNER = "tests.runner.TimedRunner"
