"""Settings, all by environment variables; the defaults serve a single person on their own machine.

WATTAXIS_VAR: folder for the database, the secret key and outgoing mail (default: var/ in the checkout).
WATTAXIS_HOSTS: comma-separated host names the server answers to (default: local ones).
WATTAXIS_PRODUCTION: "1" behind HTTPS: secure cookies, redirects, HSTS.
WATTAXIS_SOLVERS, WATTAXIS_ANSWERERS: number of processes for results and for questions (default 2 and 1).
WATTAXIS_RUN_SECONDS, WATTAXIS_RUN_MEGABYTES: limits of one calculation;
  WATTAXIS_ANSWER_SECONDS: how long a question may take in all, waiting included (default 600);
  WATTAXIS_START_SECONDS: how long a solver process may take to come up (default 60); WATTAXIS_BEGIN_SECONDS: to begin a request once it is up (10).
WATTAXIS_STUDY_WORKERS, WATTAXIS_STUDY_NICENESS: processes that calculate studies (default 2), and how far they stand behind others (10);
  WATTAXIS_CLUSTER: the address of a scheduler of Dask in their place,
  such as tls://cluster.example:8786; its certificates come by the settings of Dask.
WATTAXIS_READ_SECONDS, WATTAXIS_READ_MEGABYTES: limits of reading one file that somebody sends (10, 600).
WATTAXIS_SESSION_HOURS, WATTAXIS_IDLE_MINUTES: how long a sign-in lasts in all (default two weeks; in production 12 hours), and
  without a request (one week; in production one hour).
WATTAXIS_REQUESTS: requests a minute that one person may make (default 1800; a quarter of it without a sign-in).
WATTAXIS_PAGES: open pages that receive live results, at most (default 500).
WATTAXIS_LOG: "console" for the log as JSON lines on standard error; default is the file wattaxis.log in WATTAXIS_VAR.
"""

import os
import secrets
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("WATTAXIS_VAR", ROOT / "var"))
VAR.mkdir(parents=True, exist_ok=True)
FRONTEND = ROOT / "frontend" / "dist"


def _secret_key() -> str:
    """Made once at set-up and kept beside the database, readable by the owner only; never in the repository."""
    path = VAR / "secret-key"
    if not path.exists():
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT, 0o600)
        with os.fdopen(descriptor, "w") as stream:
            stream.write(secrets.token_urlsafe(64))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
PRODUCTION = os.environ.get("WATTAXIS_PRODUCTION") == "1"
ALLOWED_HOSTS = os.environ.get("WATTAXIS_HOSTS", "127.0.0.1,localhost,[::1],testserver").split(",")

INSTALLED_APPS = [
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "accounts",
    "projects",
    "runs",
]
MIDDLEWARE = [
    "config.middleware.Envelope",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "config.middleware.Compressed",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "accounts.sessions.SessionLimits",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "config.urls"
ASGI_APPLICATION = "config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "wattaxis.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            # FULL: an acknowledged edit survives a loss of power.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
        # A file like the real one: what is only in memory locks whole tables against other threads.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    *(
        {"NAME": f"django.contrib.auth.password_validation.{name}"}
        for name in ("UserAttributeSimilarityValidator", "CommonPasswordValidator", "NumericPasswordValidator")
    ),
]
#: Seconds that the link for a forgotten password holds.
PASSWORD_RESET_TIMEOUT = 3600
LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True
USE_I18N = False

STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
WHITENOISE_ROOT = FRONTEND if FRONTEND.is_dir() else None
WHITENOISE_INDEX_FILE = False

AUTHENTICATION_BACKENDS = ["accounts.backends.SlowedDown"]
SESSION_SECONDS = 3600 * float(os.environ.get("WATTAXIS_SESSION_HOURS", "12" if PRODUCTION else "336"))
IDLE_SECONDS = 60 * float(os.environ.get("WATTAXIS_IDLE_MINUTES", "60" if PRODUCTION else "10080"))
SESSION_COOKIE_AGE = int(SESSION_SECONDS)
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "config.middleware.csrf_failure"
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
DATA_UPLOAD_MAX_MEMORY_SIZE = 9_000_000
if PRODUCTION:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SESSION_COOKIE_NAME = "__Host-session"
    SECURE_SSL_REDIRECT = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True

#: Redis, by which several web processes are one; blank for one alone.
BROKER = os.environ.get("WATTAXIS_BROKER", "")
_HOW = {"socket_timeout": 2.0, "serializer": "config.cache.Plain"}
_SHARED = {"BACKEND": "config.cache.SharedCache", "LOCATION": BROKER, "KEY_PREFIX": "wattaxis", "OPTIONS": _HOW}
CACHES = {"default": _SHARED if BROKER else {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
EMAIL_BACKEND = "django.core.mail.backends.filebased.EmailBackend"
EMAIL_FILE_PATH = VAR / "mail"

SOLVERS = max(1, int(os.environ.get("WATTAXIS_SOLVERS", "2")))
ANSWERERS = max(1, int(os.environ.get("WATTAXIS_ANSWERERS", "1")))
#: Questions under way in all, of one person, and of all who came by one link.
QUESTIONS, QUESTIONS_EACH, QUESTIONS_OF_GUESTS = 40, 4, 2
RUN_SECONDS = float(os.environ.get("WATTAXIS_RUN_SECONDS", "30"))
ANSWER_SECONDS = float(os.environ.get("WATTAXIS_ANSWER_SECONDS", "600"))
START_SECONDS = float(os.environ.get("WATTAXIS_START_SECONDS", "60"))
BEGIN_SECONDS = float(os.environ.get("WATTAXIS_BEGIN_SECONDS", "10"))
STUDY_WORKERS = max(1, int(os.environ.get("WATTAXIS_STUDY_WORKERS", "2")))
#: Behind all that somebody waits for.
STUDY_NICENESS = int(os.environ.get("WATTAXIS_STUDY_NICENESS", "10"))
CLUSTER = os.environ.get("WATTAXIS_CLUSTER", "")
#: Studies that are calculated at once, of one person.
STUDIES_EACH = 3
RUN_MEGABYTES = int(os.environ.get("WATTAXIS_RUN_MEGABYTES", "1500"))

READ_SECONDS = float(os.environ.get("WATTAXIS_READ_SECONDS", "10"))
READ_MEGABYTES = int(os.environ.get("WATTAXIS_READ_MEGABYTES", "600"))

REQUESTS_A_MINUTE = int(os.environ.get("WATTAXIS_REQUESTS", "1800"))
MOST_PAGES = int(os.environ.get("WATTAXIS_PAGES", "500"))

_FILE = {"class": "logging.handlers.RotatingFileHandler", "filename": VAR / "wattaxis.log", "maxBytes": 10_000_000, "backupCount": 5, "delay": True}
_LINES = {"class": "logging.StreamHandler"} if os.environ.get("WATTAXIS_LOG") == "console" else _FILE
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"request": {"()": "config.middleware.RequestId"}},
    "formatters": {
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "fmt": "%(asctime)s %(levelname)s %(name)s %(message)s %(request_id)s",
            "rename_fields": {"asctime": "time", "levelname": "level", "name": "logger"},
        },
        "words": {"format": "%(levelname)s %(name)s %(message)s"},
    },
    "handlers": {
        "lines": {**_LINES, "formatter": "json", "filters": ["request"]},
        "console": {"class": "logging.StreamHandler", "formatter": "words", "level": "WARNING"},
    },
    "root": {"handlers": ["lines"] if os.environ.get("WATTAXIS_LOG") == "console" else ["lines", "console"], "level": "WARNING"},
    "loggers": {"wattaxis": {"level": "INFO"}},
}
