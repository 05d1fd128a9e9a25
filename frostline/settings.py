"""Settings, all from the environment.

``FROSTLINE_DEMO=1`` is for trying the product on one's own machine: it serves plain HTTP on loopback,
keeps a secret key of its own in the data folder and lets anyone enter as a demo technician. Without it
the server wants ``FROSTLINE_SECRET_KEY`` and ``FROSTLINE_ALLOWED_HOSTS`` and speaks only HTTPS (behind a
proxy that ends it).
"""

import os
import secrets
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

BASE_DIR = Path(__file__).resolve().parent.parent
DATA_DIR = Path(os.environ.get("FROSTLINE_DATA", BASE_DIR / "var"))
DEMO = os.environ.get("FROSTLINE_DEMO") == "1"
DEBUG = False


def _demo_secret_key() -> str:
    """The demo's own key, made once and kept beside its database."""
    DATA_DIR.mkdir(parents=True, exist_ok=True)
    path = DATA_DIR / "demo-secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(64), encoding="utf-8")
        path.chmod(0o600)
    return path.read_text(encoding="utf-8")


def _required(name: str, what: str) -> str:
    value = os.environ.get(name, "").strip()
    if not value:
        raise ImproperlyConfigured(
            f"Set {name} to {what}. (To try Frostline on this machine only, run bin/demo.)"
        )
    return value


if DEMO:
    SECRET_KEY = _demo_secret_key()
    ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
else:
    SECRET_KEY = _required(
        "FROSTLINE_SECRET_KEY", "a secret of at least 50 random characters, kept out of the repository"
    )
    if len(SECRET_KEY) < 50 or len(set(SECRET_KEY)) < 5:
        raise ImproperlyConfigured(
            "FROSTLINE_SECRET_KEY is too short or too plain. Set it to at least 50 random characters."
        )
    ALLOWED_HOSTS = [
        host.strip()
        for host in _required(
            "FROSTLINE_ALLOWED_HOSTS", "the host names it serves, with commas between them"
        ).split(",")
        if host.strip()
    ]

INSTALLED_APPS = [
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
    "frostline.accounts",
    "frostline.sheets",
    "frostline.calls",
    "frostline.desk",
    "frostline.demo",
]

MIDDLEWARE = [
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
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False

LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("FROSTLINE_TIME_ZONE", "UTC")
USE_I18N = False
USE_TZ = True

CURRENCY = os.environ.get("FROSTLINE_CURRENCY", "€")

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
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    # A refused form (422) or a missing page is the page's business, not the log's.
    "loggers": {"django.request": {"level": "ERROR"}, "axes": {"level": "ERROR"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
