"""Settings for tests: the site's own, with quick password hashes and unhashed static files."""

from recensor.site.settings import *  # noqa: F403
from recensor.site.settings import STORAGES

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {**STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
