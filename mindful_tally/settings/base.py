"""What every installation shares."""

from pathlib import Path

from csp.constants import NONCE, NONE, SELF

ROOT = Path(__file__).resolve().parent.parent.parent
VAR = ROOT / "var"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "django.forms",
    "simple_history",
    "axes",
    "django_filters",
    "rooms.common",
    "rooms.staff",
    "rooms.shop",
    "rooms.catalog",
    "rooms.pricebook",
    "rooms.cooler",
    "rooms.layout",
    "rooms.bench",
    "rooms.grinder",
    "rooms.trays",
    "rooms.demand",
    "rooms.planner",
    "rooms.pricing",
    "rooms.recall",
    "rooms.today",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "rooms.common.web.security.Headers",
    "rooms.common.web.plain.Plainly",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "rooms.staff.middleware.AskWho",
    "rooms.shop.middleware.ItsTime",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "mindful_tally.urls"
WSGI_APPLICATION = "mindful_tally.wsgi.application"
AUTH_USER_MODEL = "staff.Person"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "rooms.staff.backends.PinBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = [
    "rooms.staff.hashers.BoundedArgon2",
    "rooms.staff.hashers.BoundedPBKDF2",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
] + [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    }
]

# Lock-out by name and browser: rooms/staff/lockout.py says under which name, and how long.
AXES_LOCKOUT_PARAMETERS = ["username"]
SILENCED_SYSTEM_CHECKS = ["axes.W006"]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = "rooms.staff.lockout.delay"
AXES_USERNAME_CALLABLE = "rooms.staff.lockout.name_of"
AXES_LOCKOUT_CALLABLE = "rooms.staff.lockout.as_it_is"
AXES_USE_ATTEMPT_EXPIRATION = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_ENABLE_ACCESS_FAILURE_LOG = True
AXES_RESET_ON_SUCCESS = True
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
AXES_SENSITIVE_PARAMETERS = ["pin"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
FORM_RENDERER = "django.forms.renderers.TemplatesSetting"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "mindful_tally" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "rooms.common.web.context.rooms",
                "rooms.shop.context.shop",
                "rooms.staff.context.people",
            ],
            "builtins": [
                "rooms.common.templatetags.tally",
                "rooms.common.templatetags.fields",
                "rooms.shop.templatetags.shop",
            ],
        },
    }
]

# SQLite: a writer takes its lock at BEGIN, and a weighing is on the disk before COMMIT returns.
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "shop.sqlite3",
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
    }
}

# A signed cookie names a turn at the block or an office log-in; both are looked up at each request.
SESSION_ENGINE = "django.contrib.sessions.backends.signed_cookies"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 14 * 24 * 3600

LANGUAGE_CODE = "en-us"
# Where a shop begins; its own zone is in its settings.
TIME_ZONE = "America/New_York"
USE_I18N = False
USE_TZ = True

STATIC_URL = "static/"
STATICFILES_DIRS = [ROOT / "mindful_tally" / "static"]
STATIC_ROOT = VAR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "mindful_tally.storage.ModuleStorage"},
}

CSRF_FAILURE_VIEW = "rooms.common.web.plain.forbidden"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
# Only scripts that a page of ours names with its nonce run: none inline, no eval, none of others.
# Pages also listen to the scales' bridges, which rooms/common/web/security.py adds.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [NONCE],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "object-src": [NONE],
    }
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
FILE_UPLOAD_HANDLERS = [
    "rooms.common.web.uploads.Limits",
    "django.core.files.uploadhandler.MemoryFileUploadHandler",
    "django.core.files.uploadhandler.TemporaryFileUploadHandler",
]
DATA_UPLOAD_MAX_NUMBER_FIELDS = 500

# The solver's process: `python -m mindful_tally.solver --port 8004`, on this machine only.
SOLVER_URL = "http://127.0.0.1:8004"

# Where the fat tester answers: `python -m devices.fat_tester --port 8005`; empty where there is none.
TESTER_URL = ""

# Where the label printer answers: `python -m devices.label_printer --port 8006`; empty where there is none.
PRINTER_URL = ""

# What a shop decides for itself is kept with its records: see rooms/shop.

# The cooler's probe signs its readings with this; without one no probe is listened to.
PROBE_KEY = ""
# The panel of a simulated probe, for the demo.
PROBE_PANEL = ""

# Where the first scale's bridge listens; its plate is in the shop's settings.
SCALE_URL = ""
# What the bridge signs its readings with; without one every weight counts as typed.
SCALE_KEY = ""
# Further scales: {"name": "trim", "label": "Trim scale", "url": ..., "key": ...}.
MORE_SCALES = []
SCALE_IS_SIMULATED = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"axes": {"level": "ERROR"}},
}
