"""Settings. Everything that differs between machines comes from IC_* environment variables (bin/start sets them)."""

from datetime import timedelta
from pathlib import Path

import environ
from csp.constants import NONE, SELF

BASE_DIR = Path(__file__).resolve().parent.parent
env = environ.Env()

SECRET_KEY = env("IC_SECRET_KEY")
IC_ADDRESS_KEY = env("IC_ADDRESS_KEY", default=SECRET_KEY)  # changed, it ends every address on paper
DEBUG = env.bool("IC_DEBUG", default=False)
ALLOWED_HOSTS = env.list("IC_ALLOWED_HOSTS", default=["127.0.0.1", "localhost"])

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "ironcompass.apps.OwnStaticFiles",
    "ironcompass.apps.Words",
    "django.contrib.postgres",
    "django.forms",
    "axes",
    "csp",
    "django_htmx",
    "procrastinate.contrib.django",
    "simple_history",
    "workshop",
    "jobs",
    "ledger",
    "practice",
    "demo",
]
MIDDLEWARE = [
    "ironcompass.request_log.RequestLogMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "ironcompass.errors.SilentDatabaseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "workshop.walls.InWorkshopMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "ironcompass.health.ByAnyNameMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "workshop.people.language.OwnLanguageMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "workshop.storable.StorableTextMiddleware",
    "workshop.people.signed_out.AskWhoMiddleware",
    "workshop.people.signed_out.NoStoreMiddleware",
    "simple_history.middleware.HistoryRequestMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = env("IC_URLCONF", default="ironcompass.urls")  # bin/bench adds a bare view to compare with
WSGI_APPLICATION = "ironcompass.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
        },
    }
]

FORM_RENDERER = "workshop.renderer.Renderer"

DATABASES = {"default": env.db("IC_DATABASE_URL")}
DATABASES["default"]["ENGINE"] = "ironcompass.postgresql"
DATABASES["default"]["CONN_MAX_AGE"] = 300
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
_OF_URL = DATABASES["default"].get("OPTIONS", {})  # what the address says of a connection counts
DATABASES["default"]["OPTIONS"] = {"server_side_binding": True, "prepare_threshold": 3, "connect_timeout": 3} | _OF_URL
# Counts of who asks how often (workshop.limits_of_asking), for all processes and machines together; two that ask at
# the very same moment may count as one.
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "asked": {
        "BACKEND": "django.core.cache.backends.db.DatabaseCache",
        "LOCATION": "asked",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    },
}
RATELIMIT_USE_CACHE = "asked"
RATELIMIT_ENABLE = env.bool("IC_LIMIT_ASKING", default=True)
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "workshop.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "workshop.people.backends.DoorBackend",
    "workshop.people.quick_switch.PinBackend",
]
PASSWORD_HASHERS = ["workshop.people.passwords.OneAtATime"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "workshop.people.passwords.NoDates"},
    {"NAME": "workshop.people.passwords.NoNamesOfTheHouse"},
]
LOGIN_URL = "workshop:sign-in"
LOGIN_REDIRECT_URL = "jobs:floor"
LOGOUT_REDIRECT_URL = "workshop:sign-in"
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "workshop/people/locked_out.html"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_ENABLE_ACCESS_FAILURE_LOG = True
SESSION_COOKIE_AGE = round(3600 * env.float("IC_SHIFT_HOURS", default=10))  # a shift and its overtime

LANGUAGE_CODE = "en-gb"
LANGUAGES = [("en-gb", "English"), ("de", "Deutsch")]
LANGUAGE_COOKIE_SAMESITE = "Lax"
FORMAT_MODULE_PATH = "ironcompass.formats"
IC_LIMITS_SOURCE = env("IC_LIMITS_SOURCE", default="workshop.store.limits_service.SimulatedLimits")
TIME_ZONE = env("IC_TIME_ZONE", default="UTC")
USE_I18N = True
USE_TZ = True
LOCALE_PATHS = [BASE_DIR / "locale"]

STATIC_URL = "static/"
STATIC_ROOT = BASE_DIR / "staticfiles"
STATICFILES_DIRS = [BASE_DIR / "static"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "ironcompass.storage.ModuleStorage"},
}

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF],
        "connect-src": [SELF],
        "manifest-src": [SELF],
        "worker-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_SAMESITE = "Lax"
# Behind a proxy that speaks HTTPS and says so in X-Forwarded-Proto (docs/operator.md).
IC_HTTPS = env.bool("IC_HTTPS", default=False)
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = IC_HTTPS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if IC_HTTPS else None
SECURE_HSTS_SECONDS = 31_536_000 if IC_HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = IC_HTTPS
SECURE_REDIRECT_EXEMPT = [r"^health/"]  # a balancer asks on the inside
CSRF_TRUSTED_ORIGINS = env.list("IC_TRUSTED_ORIGINS", default=[])
CSRF_FAILURE_VIEW = "workshop.people.views.page_too_old"
X_FRAME_OPTIONS = "DENY"

IC_LOG = env("IC_LOG", default="quiet")  # "requests": a line of JSON for each, on standard output
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "json": {"()": "pythonjsonlogger.json.JsonFormatter", "format": "%(asctime)s %(levelname)s %(message)s"}
    },
    "handlers": {
        "console": {"class": "logging.StreamHandler"},
        "lines": {"class": "logging.StreamHandler", "stream": "ext://sys.stdout", "formatter": "json"},
    },
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        # Whoever scans the net would fill the log with tracebacks: it is a 400, and a line among the requests.
        "django.security.DisallowedHost": {"level": "CRITICAL"},
        "waitress.queue": {"level": "ERROR"},  # a request that waits for a thread is nothing to tell of
        "ironcompass.requests": {
            "handlers": ["lines"],
            "level": "INFO" if IC_LOG == "requests" else "WARNING",
            "propagate": False,
        },
    },
}
TEST_RUNNER = "ironcompass.testing.CountingRunner"
