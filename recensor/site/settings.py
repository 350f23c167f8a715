"""Settings of the web site, from the environment where it says something.

`DATABASE_URL` names another MariaDB than the private one; `RECENSOR_CLUSTER=1` says that it is a Galera cluster;
`RECENSOR_HOSTS` the host names it is served under; `RECENSOR_HTTPS=1` that it is served over HTTPS; `RECENSOR_PROXIES`
the proxies that stand before it; `RECENSOR_VAR` the folder for what it keeps; `SECRET_KEY` a key of your own;
`EMAIL_URL` and `RECENSOR_MAIL_FROM` how mail is sent, where there is any.
"""

import contextlib
import secrets
from datetime import timedelta
from pathlib import Path

import environ
from csp.constants import NONE, SELF

from recensor.site import logs
from recensor.site.launch import children, private_database

env = environ.Env()
ROOT = Path(__file__).resolve().parents[2]
VAR = Path(env.str("RECENSOR_VAR", default=str(ROOT / "var")))


def _kept_secret(file: Path) -> str:
    """A key made once and kept in a file that only we can read; an empty one, cut off in the making, does not count."""
    if not file.exists() or not file.read_text().strip():
        file.parent.mkdir(parents=True, exist_ok=True)
        children.write_whole(file, secrets.token_urlsafe(50))
    return file.read_text().strip()


SECRET_KEY = env.str("SECRET_KEY", default="") or _kept_secret(VAR / "secret_key")
DEBUG = False
HTTPS = env.bool("RECENSOR_HTTPS", default=False)
# Addresses or networks whose word on who asks is believed. Over HTTPS there is a proxy, by itself on this machine.
PROXIES = env.list("RECENSOR_PROXIES", default=["127.0.0.1", "::1"] if HTTPS else [])
ALLOWED_HOSTS = env.list("RECENSOR_HOSTS", default=["127.0.0.1", "localhost", "[::1]"])

INSTALLED_APPS = [
    "recensor.site",
    "recensor.web",
    "recensor.drawing",
    "recensor.people",
    "recensor.jobs",
    "recensor.meters",
    "recensor.kits",
    "recensor.reference",
    "recensor.experiments",
    "recensor.runs",
    "recensor.bench",
    "recensor.board_page",
    "recensor.run_pages",
    "recensor.reports",
    "recensor.transfer",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "django.forms",
    "axes",
    "csp",
    "django_htmx",
    "django_q",
    "rules.apps.AutodiscoverRulesConfig",
]

MIDDLEWARE = [
    "recensor.site.middleware.BehindProxyMiddleware",
    "recensor.site.middleware.RequestSizeMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "recensor.site.middleware.OnePageAtATime",
    "recensor.site.middleware.NoStore",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "recensor.site.middleware.HtmxUnauthorized",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "recensor.site.urls"
WSGI_APPLICATION = "recensor.site.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
            ],
        },
    },
]

DATABASES = {"default": env.db_url_config(env.str("DATABASE_URL", default=private_database.url(VAR / "mariadb")))}
DATABASES["default"]["CONN_MAX_AGE"] = 300
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
DATABASES["default"].setdefault("OPTIONS", {}).update(
    charset="utf8mb4",
    sql_mode="STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO",
    isolation_level="read committed",
    connect_timeout=5,
)
if env.bool("RECENSOR_CLUSTER", default=False):
    # What one node has acknowledged, every other shows at the next question.
    DATABASES["default"]["OPTIONS"]["init_command"] = "SET SESSION wsrep_sync_wait = 7"
DATABASES["default"]["TEST"] = {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_bin"}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Summaries of runs for list pages: discardable, keyed by run, last entry and version.
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache", "LOCATION": "recensor"}}

# Long work, in a queue over the database: one step of it is one task. A worker that made so many ends, and with it what
# it holds in memory; another begins.
Q_CLUSTER = {
    "name": "recensor",
    "orm": "default",
    "workers": 1,
    "recycle": 20,
    "timeout": 200,  # seconds, for one step; less than a claim on one
    "retry": 300,
    "max_attempts": 3,
    "save_limit": -1,
    "bulk": 1,
    "queue_limit": 2,
    "poll": 1,
    "scheduler": False,
    "log_level": "WARNING",
}

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_LENGTH = 10  # at least
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": PASSWORD_LENGTH},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "recensor.people.passwords.GuessedFirstValidator"},
]
PASSWORD_HASHERS = [
    "recensor.people.hashers.LightArgon2",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",  # of 0.1.0; such a hash is made anew at the next sign-in
]
LOGIN_URL = "people:sign_in"
LOGIN_REDIRECT_URL = "run_pages:runs"
LOGOUT_REDIRECT_URL = "people:sign_in"

# Log-in throttle: by name and address together, so that one bench cannot lock another out; by address alone far more
# widely, since a whole class may sit behind one.
AXES_HANDLER = "recensor.people.throttle.Handler"
AXES_FAILURE_LIMIT = 6
FAILURES_OF_AN_ADDRESS = 120
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "recensor.people.throttle.locked_out"
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False  # the time runs from the last one that was let try
AXES_DISABLE_ACCESS_LOG = True  # the log of security has it
AXES_VERBOSE = False
AXES_SENSITIVE_PARAMETERS = [  # kept as stars beside an attempt
    "username", "ip_address", "csrfmiddlewaretoken", "old_password", "new_password1", "new_password2",
]  # fmt: skip

# A sign-in ends when it is not used for so long, and in any case so long after it began.
SESSION_ENGINE = "recensor.people.sessions"
SESSION_COOKIE_AGE = 8 * 60 * 60
SESSION_LONGEST = timedelta(days=7)
PASSWORD_RESET_TIMEOUT = 3 * 24 * 60 * 60

# Links to set a password are handed over; where there is mail they are sent too.
MAIL = "EMAIL_URL" in env.ENVIRON
vars().update(env.email_url_config(env.str("EMAIL_URL", default="dummymail://")))
DEFAULT_FROM_EMAIL = env.str("RECENSOR_MAIL_FROM", default="recensor@localhost")

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:"],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    },
}
SECURE_REFERRER_POLICY = "same-origin"
SECURE_SSL_REDIRECT = SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = HTTPS
SILENCED_SYSTEM_CHECKS = [
    "security.W021",  # to be on browsers' preload lists is for the owner of the domain to say
    "models.W037",  # MariaDB makes the queue's index without its condition
]
# The browser itself then sees to it that the cookie is of this host and came over HTTPS.
SESSION_COOKIE_NAME = "__Host-session" if HTTPS else "session"
CSRF_COOKIE_NAME = "__Host-csrftoken" if HTTPS else "csrftoken"
CSRF_FAILURE_VIEW = "recensor.site.views.csrf_failure"
DATA_UPLOAD_MAX_MEMORY_SIZE = LARGEST_REQUEST = 3_000_000  # bytes, files included
LONGEST_WAIT_FOR_A_TURN = 10  # seconds

# A page that got no answer sends again what was typed.
OUTBOX_RETRY_MILLISECONDS = 4000

STATIC_URL = "static/"
STATIC_ROOT = VAR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "recensor.site.static_storage.Storage"},
}

# The demo's accounts as it makes them; which there are is marked in the database.
DEMO_ACCOUNTS = ("bench-1", "bench-2", "technician", "instructor")
DEMO_PASSWORD = "wind-vane"  # noqa: S105 (meant to be read)

FORM_RENDERER = "recensor.web.forms.FieldRenderer"
LANGUAGE_CODE = "en-gb"
TIME_ZONE = env.str("TZ", default="UTC")
USE_TZ = True
USE_I18N = False

LOGS = VAR / "log"
with contextlib.suppress(OSError):
    LOGS.mkdir(mode=0o700, parents=True, exist_ok=True)
LOGGING = logs.configuration(LOGS)
