"""Django settings. One machine, one loopback address, SQLite; no figure of the job lives here."""

import os
import secrets
import sys
from pathlib import Path

from server.config.paths import DATA, DATABASE, ROOT
from server.config.paths import SECRET_KEY as KEY_FILE

os.umask(0o077)  # what is stored here is its owner's
DATA.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """A key of this installation's own, made on first use and kept beside the data; whole before it has its name."""
    if not KEY_FILE.exists():
        fresh = KEY_FILE.with_name(f"{KEY_FILE.name}.{os.getpid()}")
        fresh.write_text(secrets.token_urlsafe(50))
        fresh.chmod(0o600)
        os.replace(fresh, KEY_FILE)
    key = KEY_FILE.read_text().strip()
    if not key:
        sys.exit(f"The key in {KEY_FILE} is empty.\nWhat to do: Delete the file and start again: a new one is made, no data is lost by it.")
    return key


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", "testserver"]
ROOT_URLCONF = "server.config.urls"
ASGI_APPLICATION = "server.config.asgi.application"
INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.staticfiles",
    "ninja",
    "server.apps.library",
    "server.apps.jobs",
    "server.apps.bench",
    "server.apps.verdicts",
    "server.apps.build",
    "server.apps.sounds",
    "server.apps.tasks",
    "server.apps.chores",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.common.CommonMiddleware",
    "server.config.guard.Guard",
]
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "frontend" / "dist", ROOT / "src" / "server" / "templates"],
    }
]
# Tests run on a file beside the data: live-server threads on a shared in-memory database lock each other out of tables.
# Its runner turns WAL on once that file has been copied for each process: a copy would miss the side file.
TESTING = "test" in sys.argv[1:2]
JOURNAL = "PRAGMA synchronous=OFF;" if TESTING else "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATABASE,
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            "init_command": f"{JOURNAL} PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": DATA / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TEST_RUNNER = "tests.runner.CountingRunner"
USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"
USE_I18N = False
DATA_UPLOAD_MAX_MEMORY_SIZE = 64 * 1024 * 1024

STATIC_URL = "/static/"
STATIC_ROOT = DATA / "static"
STATIC_ROOT.mkdir(exist_ok=True)
STATICFILES_DIRS = [ROOT / "frontend" / "dist"] if (ROOT / "frontend" / "dist").is_dir() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False


def _immutable(path: str, url: str) -> bool:
    """Vite puts a hash of eight characters into the names of its files."""
    stem = Path(path).stem
    return len(stem) > 9 and stem[-9] == "-"


WHITENOISE_IMMUTABLE_FILE_TEST = _immutable

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "style-src": ["'self'", "'unsafe-inline'"],  # charts and the cutaway set sizes on elements
        "img-src": ["'self'", "data:", "blob:"],
        "font-src": ["'self'", "data:"],  # reports carry their fonts with them
        "frame-ancestors": ["'none'"],
    }
}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "weasyprint": {"level": "ERROR"},  # it warns of each property of style that paper does not have
        "django.security.DisallowedHost": {"level": "CRITICAL"},  # refused in any case; another site must not fill the log
    },
}
