"""Settings for tests: the site's own, with quick password hashes and unhashed static files."""

from recensor.site.settings import *  # noqa: F403
from recensor.site.settings import STORAGES

OUTBOX_RETRY_MILLISECONDS = 400
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
