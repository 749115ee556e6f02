"""Captures which addresses packages bring to a Django application that includes their modules, by asking Django's own resolver.

Each package is installed with Django 4.2 into one throw-away environment and asked by itself. What cannot be installed or
wants more than these settings is left out and told.

    python -m bench.capture_addresses FOLDER PYTHON
"""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Final

TARGET: Final = Path(__file__).parents[1] / "src/yoake/core/frameworks/django/captured_addresses.py"
PACKAGES: Final[tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...]] = (
    # package, the modules that are included, further applications they need
    ("django-allauth==0.63.6", ("allauth.urls", "allauth.account.urls", "allauth.socialaccount.urls"), ("allauth", "allauth.account", "allauth.socialaccount")),
    ("django-oauth-toolkit==2.4.0", ("oauth2_provider.urls",), ("oauth2_provider",)),
    ("social-auth-app-django==5.4.3", ("social_django.urls",), ("social_django",)),
    ("django-prometheus==2.3.1", ("django_prometheus.urls",), ("django_prometheus",)),
    ("django-health-check==3.18.3", ("health_check.urls",), ("health_check",)),
    ("django-watchman==1.3.0", ("watchman.urls",), ("watchman",)),
    ("django-simple-captcha==0.6.0", ("captcha.urls",), ("captcha",)),
    ("django-ckeditor==6.7.2", ("ckeditor_uploader.urls",), ("ckeditor", "ckeditor_uploader")),
    ("django-tinymce==4.1.0", ("tinymce.urls",), ("tinymce",)),
    ("django-summernote==0.8.20.0", ("django_summernote.urls",), ("django_summernote",)),
    ("django-markdownx==4.0.7", ("markdownx.urls",), ("markdownx",)),
    ("django-mdeditor==0.1.20", ("mdeditor.urls",), ("mdeditor",)),
    ("django-hijack==3.6.0", ("hijack.urls",), ("hijack",)),
    ("django-impersonate==1.9.4", ("impersonate.urls",), ("impersonate",)),
    ("django-loginas==0.3.11", ("loginas.urls",), ("loginas",)),
    ("django-silk==5.2.0", ("silk.urls",), ("silk",)),
    ("django-debug-toolbar==4.4.6", ("debug_toolbar.urls",), ("debug_toolbar",)),
    ("django-browser-reload==1.15.0", ("django_browser_reload.urls",), ("django_browser_reload",)),
    ("django-sql-explorer==4.3", ("explorer.urls",), ("explorer",)),
    ("dj-rest-auth==6.0.0", ("dj_rest_auth.urls",), ("rest_framework", "rest_framework.authtoken", "dj_rest_auth")),
    ("djoser==2.2.3", ("djoser.urls", "djoser.urls.base", "djoser.urls.authtoken", "djoser.urls.jwt"), ("rest_framework", "rest_framework.authtoken", "djoser")),
    ("django-rest-knox==4.2.0", ("knox.urls",), ("rest_framework", "knox")),
    ("django-rest-passwordreset==1.4.2", ("django_rest_passwordreset.urls",), ("rest_framework", "django_rest_passwordreset")),
    ("django-two-factor-auth[phonenumbers]==1.16.0", ("two_factor.urls",), ("django_otp", "django_otp.plugins.otp_static", "django_otp.plugins.otp_totp", "two_factor")),
    ("django-notifications-hq==1.8.3", ("notifications.urls",), ("notifications",)),
    ("django-rq==2.10.2", ("django_rq.urls",), ("django_rq",)),
    ("django-rosetta==0.10.0", ("rosetta.urls",), ("rosetta",)),
    ("django-grappelli==4.0.1", ("grappelli.urls",), ("grappelli",)),
    ("django-filebrowser==4.0.3", ("filebrowser.urls",), ("grappelli", "filebrowser")),
    ("django-jet-reboot==1.3.10", ("jet.urls", "jet.dashboard.urls"), ("jet", "jet.dashboard")),
    ("django-contrib-comments==2.2.0", ("django_comments.urls",), ("django.contrib.sites", "django_comments")),
    ("django-select2==8.2.1", ("django_select2.urls",), ("django_select2",)),
    ("django-ajax-selects==2.2.1", ("ajax_select.urls",), ("ajax_select",)),
    ("django-smart-selects==1.7.2", ("smart_selects.urls",), ("smart_selects",)),
    ("django-registration==3.4", ("django_registration.backends.activation.urls", "django_registration.backends.one_step.urls"), ("django_registration",)),
    ("django-registration-redux==2.13", ("registration.backends.default.urls", "registration.backends.simple.urls", "registration.auth_urls"), ("registration",)),
    ("django-avatar==8.0.1", ("avatar.urls",), ("avatar",)),
    ("django-robots==6.1", ("robots.urls",), ("django.contrib.sites", "robots")),
    ("django-photologue==3.17", ("photologue.urls",), ("django.contrib.sites", "sortedm2m", "photologue")),
    ("django-filer==3.3.1", ("filer.urls", "filer.server.urls"), ("easy_thumbnails", "filer")),
    ("django-cms==3.11.9", ("cms.urls",), ("django.contrib.sites", "cms", "menus", "treebeard")),
    ("wagtail==5.2.7", ("wagtail.urls", "wagtail.documents.urls", "wagtail.images.urls", "wagtail.admin.urls"), ("wagtail.contrib.forms", "wagtail.contrib.redirects", "wagtail.embeds", "wagtail.sites", "wagtail.users", "wagtail.snippets", "wagtail.documents", "wagtail.images", "wagtail.search", "wagtail.admin", "wagtail", "modelcluster", "taggit")),
    ("mozilla-django-oidc==4.0.1", ("mozilla_django_oidc.urls",), ("mozilla_django_oidc",)),
    ("django-oidc-provider==0.8.2", ("oidc_provider.urls",), ("oidc_provider",)),
    ("djangosaml2==1.9.3", ("djangosaml2.urls",), ("djangosaml2",)),
    ("django-anymail==10.3", ("anymail.urls",), ("anymail",)),
    ("django-webpush==0.3.5", ("webpush.urls",), ("webpush",)),
    ("django-user-sessions==2.0.0", ("user_sessions.urls",), ("user_sessions",)),
    ("django-postman==4.5.1", ("postman.urls",), ("postman",)),
    ("django-invitations==2.1.0", ("invitations.urls",), ("django.contrib.sites", "invitations")),
    ("django-simple-sso==1.2.0", ("simple_sso.sso_server.server",), ("simple_sso",)),
    ("django-cas-server==2.0.0", ("cas_server.urls",), ("cas_server",)),
    ("django-mailman3==1.3.9", ("django_mailman3.urls",), ("allauth", "allauth.account", "allauth.socialaccount", "django_mailman3")),
    ("django-tagging==0.5.0", ("tagging.urls",), ("tagging",)),
    ("django-recaptcha==4.0.0", ("django_recaptcha.urls",), ("django_recaptcha",)),
    ("django-js-reverse==0.10.2", ("django_js_reverse.urls",), ("django_js_reverse",)),
    ("django-ical==1.9.2", ("django_ical.urls",), ("django_ical",)),
    ("django-axes==6.5.2", ("axes.urls",), ("axes",)),
    ("django-admin-interface==0.28.9", ("admin_interface.urls",), ("admin_interface", "colorfield")),
    ("django-nested-admin==4.1.1", ("nested_admin.urls",), ("nested_admin",)),
    ("django-autocomplete-light==3.11.0", ("dal.urls",), ("dal", "dal_select2")),
    ("django-defender==0.9.8", ("defender.urls",), ("defender",)),
    ("django-q2==1.7.6", ("django_q.urls",), ("django_q",)),
    ("django-celery-results==2.5.1", ("django_celery_results.urls",), ("django_celery_results",)),
    ("drf-social-oauth2==2.1.3", ("drf_social_oauth2.urls",), ("oauth2_provider", "social_django", "drf_social_oauth2")),
    ("django-private-storage==3.1.1", ("private_storage.urls",), ("private_storage",)),
    ("django-graphiql-debug-toolbar==0.2.0", ("graphiql_debug_toolbar.urls",), ("graphiql_debug_toolbar",)),
)  # fmt: skip
ASK: Final = """
import json, os, re, sys
from django.conf import settings
apps = [a for a in sys.argv[2].split(",") if a]
base = ["django.contrib.auth", "django.contrib.contenttypes", "django.contrib.sessions", "django.contrib.sites", "django.contrib.messages", "django.contrib.staticfiles", "django.contrib.admin"]
settings.configure(
    SECRET_KEY="x" * 40, INSTALLED_APPS=apps + [b for b in base if b not in apps], ROOT_URLCONF=sys.argv[1], USE_TZ=True, SITE_ID=1,
    DATABASES={"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": ":memory:"}}, STATIC_URL="/static/", MEDIA_URL="/media/",
    MEDIA_ROOT="/nowhere/media", STATIC_ROOT="/nowhere/static", CKEDITOR_UPLOAD_PATH="x/", EXPLORER_CONNECTIONS={"d": "default"}, EXPLORER_DEFAULT_CONNECTION="default", LANGUAGES=[("en", "English")], LANGUAGE_CODE="en", CMS_TEMPLATES=[("a.html", "a")],
    MIDDLEWARE=["django.contrib.sessions.middleware.SessionMiddleware", "django.contrib.auth.middleware.AuthenticationMiddleware",
        "django.contrib.messages.middleware.MessageMiddleware"] + (["allauth.account.middleware.AccountMiddleware"] if "allauth" in apps else []),
    TEMPLATES=[{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True, "OPTIONS": {"context_processors": [
        "django.template.context_processors.request", "django.contrib.auth.context_processors.auth", "django.contrib.messages.context_processors.messages"]}}],
    RQ_QUEUES={"default": {"HOST": "x", "PORT": 1, "DB": 0}}, WAGTAIL_SITE_NAME="x", WAGTAILADMIN_BASE_URL="http://x", CMS_CONFIRM_VERSION4=True,
    OIDC_OP_AUTHORIZATION_ENDPOINT="http://x", OIDC_OP_TOKEN_ENDPOINT="http://x", OIDC_OP_USER_ENDPOINT="http://x", OIDC_RP_CLIENT_ID="x",
    OIDC_RP_CLIENT_SECRET="x", OIDC_RP_SIGN_ALGO="HS256", PRIVATE_STORAGE_ROOT="/nowhere",
)
import django
django.setup()
from django.contrib.admindocs.views import simplify_regex
from django.urls import get_resolver
from django.urls.resolvers import RoutePattern

def written(pattern):
    if isinstance(pattern, RoutePattern):
        return re.sub(r"<(?:[^>:]+:)?(\\w+)>", r"{\\1}", str(pattern))
    return re.sub(r"<(\\w+)>", r"{\\1}", simplify_regex(pattern.regex.pattern).lstrip("/")).replace("\\\\.", ".").replace("\\\\-", "-")

found = []
def walk(patterns, prefix):
    for each in patterns:
        path = prefix + written(each.pattern)
        walk(each.url_patterns, path) if hasattr(each, "url_patterns") else found.append(path)

walk(get_resolver().url_patterns, "")
print("FOUND" + json.dumps(list(dict.fromkeys(found))))
"""


def main(folder: Path, python: str) -> int:
    """Writes the module with what was captured."""
    environment = folder / "addresses"
    if not environment.exists():
        subprocess.run([python, "-m", "venv", str(environment)], check=True)
    inner = str(environment / "bin/python")
    captured: dict[str, list[str]] = {}
    for package, modules, applications in PACKAGES:
        asked = [inner, "-m", "pip", "install", "--quiet", package, "django==4.2.*", "setuptools<70"]
        done = subprocess.run(asked, capture_output=True, text=True, check=False, timeout=600)
        if done.returncode:
            print(package, "could not be installed", flush=True)
            continue
        for module in modules:
            asked = [inner, "-c", ASK, module, ",".join(applications)]
            answer = subprocess.run(asked, capture_output=True, text=True, check=False, timeout=120)
            lines = [line for line in answer.stdout.splitlines() if line.startswith("FOUND")]
            if lines:
                captured[module] = json.loads(lines[0].removeprefix("FOUND"))
            print(package, module, len(captured.get(module, ())) or answer.stderr.strip()[-120:], flush=True)
    rows = "".join(
        f"    {json.dumps(module)}: (\n" + "".join(f"        {json.dumps(path)},\n" for path in paths) + "    ),\n"
        for module, paths in sorted(captured.items())
        if paths
    )
    TARGET.write_text(
        '"""Addresses of packages that applications include, as Django\'s resolver lists them; written by ``bench/capture_addresses.py``."""\n\n'
        "from __future__ import annotations\n\nfrom typing import Final\n\n"
        f"CAPTURED: Final[dict[str, tuple[str, ...]]] = {{\n{rows}}}\n"
        '"""Module that is included → paths below. Methods are not known to the resolver."""\n',
        "utf-8",
    )
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2]))
