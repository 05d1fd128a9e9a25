"""Settings, all from the environment (:mod:`frostline.server.environment`).

``FROSTLINE_DEMO=1`` is for trying the product on one's own machine: it serves plain HTTP on loopback and
lets anyone enter as a demo technician. Without it the server wants ``FROSTLINE_ALLOWED_HOSTS`` and speaks
only HTTPS, behind a proxy that ends it and that ``FROSTLINE_PROXIES`` names.
"""

import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF

from frostline.server.environment import read

BASE_DIR = Path(__file__).resolve().parent.parent
os.umask(0o077)  # whatever is written here is its owner's alone
_ENVIRONMENT = read(os.environ, BASE_DIR)
DATA_DIR, DEMO, SECRET_KEY = _ENVIRONMENT.data, _ENVIRONMENT.demo, _ENVIRONMENT.secret
ALLOWED_HOSTS, PROXIES = list(_ENVIRONMENT.hosts), _ENVIRONMENT.proxies
ERROR_COMMAND = _ENVIRONMENT.error_command
DEBUG = False

INSTALLED_APPS = [
    "frostline.accounts",  # before Django's own, whose changepassword it replaces
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "axes",
    "frostline.ui",
    "frostline.sheets",
    "frostline.calls",
    "frostline.runs",
    "frostline.bench",
    "frostline.desk",
    "frostline.demo",
]

MIDDLEWARE = [
    "frostline.server.middleware.proxies",
    "frostline.server.middleware.requests",
    "frostline.server.middleware.headers",
    "django.middleware.gzip.GZipMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "frostline.ui.context.in_chosen_degrees",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "frostline.urls"
WSGI_APPLICATION = "frostline.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "frostline.ui.context.interface",
            ],
            "builtins": ["frostline.ui.templatetags.frost"],
        },
    }
]

BUSY_SECONDS = 10
"""So long an entry waits for others to be written."""

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "frostline.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": BUSY_SECONDS,
            # FULL: what was acknowledged is on the disk, also when the power goes in the next moment.
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;"
                f" PRAGMA busy_timeout={BUSY_SECONDS * 1000};"
            ),
        },
    }
}
ATTACHMENTS = DATA_DIR / "attachments"
TEST_RUNNER = "frostline.tests.runner.Runner"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.ScryptPasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",  # those kept before; changed at the next sign-in
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]
LOGIN_URL = "accounts:sign_in"
LOGIN_REDIRECT_URL = "desk:home"
LOGOUT_REDIRECT_URL = "accounts:sign_in"

AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=15)
# By name and address together: who guesses elsewhere locks nobody out here.
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "frostline.server.middleware.client_address"
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False

LANGUAGE_CODE = "en-gb"
TIME_ZONE = _ENVIRONMENT.time_zone
USE_I18N = False
USE_TZ = True

CURRENCY = _ENVIRONMENT.currency
DEGREES = _ENVIRONMENT.degrees

STATIC_URL = "static/"
STATIC_ROOT = DATA_DIR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF],
        "font-src": [SELF],
        "connect-src": [SELF],
        "manifest-src": [SELF],
        "worker-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SECURE_REFERRER_POLICY = "same-origin"
CSRF_FAILURE_VIEW = "frostline.ui.views.csrf_failure"

if not DEMO:
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^health/$"]
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = _ENVIRONMENT.hsts_seconds
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = bool(SECURE_HSTS_SECONDS)
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True

_LINES = "json" if not DEMO or os.environ.get("FROSTLINE_LOG") == "json" else "plain"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "json": {"()": "frostline.server.logs.JsonFormatter"},
        "plain": {"format": "%(levelname)s %(name)s: %(message)s"},
    },
    "handlers": {
        "console": {"class": "logging.StreamHandler", "formatter": _LINES},
        "reports": {"class": "frostline.server.reports.ReportHandler", "level": "ERROR"},
    },
    "loggers": {
        # A refused form (422) or a missing page is the page's business, not the log's.
        "django.request": {"level": "ERROR"},
        "axes": {"level": "ERROR"},
        "frostline.requests": {"level": "WARNING" if _LINES == "plain" else "INFO"},
    },
    "root": {"handlers": ["console", "reports"], "level": "WARNING"},
}
