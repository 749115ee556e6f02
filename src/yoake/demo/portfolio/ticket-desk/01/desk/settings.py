"""Settings of desk."""
import os

BASE_DIR = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
SECRET_KEY = os.environ.get("SECRET_KEY", "only-for-the-demo")
DEBUG = False
ALLOWED_HOSTS = ["localhost"]
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "desk.sales",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
]
ROOT_URLCONF = "desk.urls"
DATABASES = {"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": os.path.join(BASE_DIR, "desk.db")}}
LANGUAGE_CODE = "en-gb"
TIME_ZONE = "Europe/London"
USE_I18N = True
USE_L10N = True
STATIC_URL = "/static/"
FILE_CHARSET = "utf-8"
STATICFILES_STORAGE = "django.contrib.staticfiles.storage.StaticFilesStorage"
SESSION_SERIALIZER = "django.contrib.sessions.serializers.PickleSerializer"
