"""Settings of the server. All that differs between machines comes from the environment (see docs/architecture.md)."""

import os
import secrets
from datetime import timedelta
from pathlib import Path

from unladen.replay.upstream import allowed_from

BASE_DIR = Path(__file__).resolve().parent.parent
DATA_DIR = Path(os.environ.get("MULE_DATA") or BASE_DIR / "var").resolve()
# Whole sites of other people lie here, and the key to all sessions.
DATA_DIR.mkdir(parents=True, exist_ok=True, mode=0o700)
os.umask(0o077)
SITES_DIR = Path(os.environ.get("MULE_SITES") or DATA_DIR / "sites").resolve()

PORT = int(os.environ.get("MULE_PORT", "8700"))
PREVIEW_PORT = int(os.environ.get("MULE_PREVIEW_PORT", "8701"))
# Cookies ignore ports, so previews need a host name of their own; every one gets its own label below this name.
PREVIEW_HOST = os.environ.get("MULE_PREVIEW_HOST", "localhost")
IS_DEMO = os.environ.get("MULE_DEMO") == "1"


def _secret() -> str:
    path = DATA_DIR / "secret"
    if not path.exists():
        handle = os.open(path, os.O_WRONLY | os.O_CREAT, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = os.environ.get("MULE_SECRET") or _secret()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", *filter(None, os.environ.get("MULE_HOSTS", "").split(","))]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "django_tasks",
    "django_tasks_db",
    "server.sites",
    "server.reviews",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "server.headers.ContentSecurity",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.upload_guard.UploadGuard",
    "server.audit_log.Log",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "server.urls"
WSGI_APPLICATION = "server.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": os.environ.get("MULE_DATABASE") or DATA_DIR / "mule.sqlite3",
        # Write-ahead log and immediate transactions: without both, a job's writes beside web requests end in
        # "database is locked".
        "OPTIONS": {
            # s; a caller hears within this time that the database is busy. Workers wait longer (`manage.py work`).
            "timeout": 5,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
        },
        # A file, since the in-memory database of tests knows neither of them.
        "TEST": {"NAME": os.environ.get("MULE_TEST_DATABASE") or str(DATA_DIR / "test.sqlite3")},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# After so many wrong passwords for a name from an address, that address waits before it may try the name again.
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "server.accounts.too_often"
AXES_CLIENT_IP_CALLABLE = "server.accounts.address_of"
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"

STATIC_URL = "static/"
WEB_DIR = BASE_DIR / "web" / "dist"
WHITENOISE_ROOT = WEB_DIR
WHITENOISE_INDEX_FILE = True
WHITENOISE_IMMUTABLE_FILE_TEST = r"^.+/assets/.+-[\w-]{8}\.\w+$"

# Behind a front that speaks TLS (docs/security.md): cookies only through it, and browsers keep to it.
IS_BEHIND_TLS = os.environ.get("MULE_TLS") == "1"
if IS_BEHIND_TLS:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS[2:]]
SESSION_COOKIE_AGE = int(float(os.environ.get("MULE_SESSION_HOURS", "336")) * 3600)
CSRF_FAILURE_VIEW = "server.errors.forbidden"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

UPLOAD_LIMIT = int(os.environ.get("MULE_UPLOAD_LIMIT", "500000000"))  # bytes of one archive
USER_LIMIT = int(os.environ.get("MULE_USER_LIMIT", "20000000000"))  # bytes on the disk of all sites of a user
DOCUMENT_LIMIT = 20_000_000  # bytes of a plan, or of a picture of the user's own
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_000_000
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
FILE_UPLOAD_TEMP_DIR = DATA_DIR / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(exist_ok=True)
# Pages that a dropped site is weighed on without asking, the nearest to the root first.
PAGES_AT_ONCE = int(os.environ.get("MULE_PAGES_AT_ONCE", "12"))
# Runs of each weigh-in of a baseline; the median is kept.
RUNS = int(os.environ.get("MULE_RUNS", "3"))
# Whether checks look in haste at the usual devices that nobody weighed on.
GLANCES = os.environ.get("MULE_GLANCES", "1") != "0"
# Whether what takes longest to try out comes in the background of a site's first list.
REFINES = os.environ.get("MULE_REFINES", "1") != "0"
# Processes that carry out jobs. With several, one user's jobs leave at least one of them to others.
WORKERS = int(os.environ.get("MULE_WORKERS", "2"))
JOBS_AT_ONCE = max(1, WORKERS - 1)
JOBS_OF_A_USER = int(os.environ.get("MULE_JOBS_OF_A_USER", "40"))  # waiting and running
# A Dask scheduler that encodes are sent to, such as tls://10.0.0.5:8786; without it they run on this machine.
MACHINES = os.environ.get("MULE_MACHINES", "")
# A mail server as HOST:PORT, for word of sites that are watched; nobody is written to without one.
EMAIL_HOST, _, _MAIL_PORT = os.environ.get("MULE_MAIL", "").partition(":")
EMAIL_PORT = int(_MAIL_PORT or "25")
EMAIL_TIMEOUT = 10  # s
DEFAULT_FROM_EMAIL = os.environ.get("MULE_MAIL_FROM", "mule@localhost")
# What a visit by address may reach beside the open internet: NAME=ADDRESS:PORT entries, or the word private.
VISIT_ALLOWED = allowed_from(os.environ.get("MULE_VISIT", ""))

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # What a caller did wrong is told to the caller.
    "loggers": {
        "django.request": {"level": "ERROR"},
        "django.security.csrf": {"level": "ERROR"},
        "axes": {"level": "ERROR"},
    },
}
