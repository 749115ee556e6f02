"""How many routes are found, against what the framework itself lists when the application runs.

Each application is installed into an environment of its own and asked (``ask_routes.py``, ``ask_routes.cjs``); the source is what was
installed, without what it needs. Django's resolver knows no methods, so there only paths are compared; parameters are compared without their names.

    python -m bench.truth_routes FOLDER [NAME …]
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from dataclasses import dataclass, field
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.values.coordinates import Line
from yoake.runner.snapshots import FolderSnapshot
from yoake.usecases.find_routes import find_routes

HERE = Path(__file__).parent
NEMO = """
SECRET_KEY = "x"; ROOT_URLCONF = "NEMO.urls"; USE_TZ = True; AUTH_USER_MODEL = "NEMO.User"; STATIC_URL = "/static/"; MEDIA_URL = "/media/"
INSTALLED_APPS = ["django.contrib.auth", "django.contrib.contenttypes", "django.contrib.sessions", "django.contrib.messages",
    "django.contrib.staticfiles", "django.contrib.admin", "django.contrib.humanize", "NEMO", "NEMO.apps.kiosk", "NEMO.apps.area_access", "NEMO.apps.sensors", "NEMO.apps.contracts", "rest_framework", "rest_framework.authtoken",
    "django_filters", "auditlog", "mptt"]
DATABASES = {"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": ":memory:"}}; IDENTITY_SERVICE = {"available": False}
ALLOW_CONDITIONAL_URLS = True; MIDDLEWARE = []; LDAP_SERVERS = []; AUTHENTICATION_BACKENDS = []
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
"""
MISAGO = """
from misago.settings import *
SECRET_KEY = "x"; ROOT_URLCONF = "misago.urls"; USE_TZ = True; AUTH_USER_MODEL = "misago_users.User"; STATIC_URL = "/static/"
INSTALLED_APPS = [each for each in INSTALLED_APPS if each != "debug_toolbar"]; MEDIA_URL = "/media/"; MISAGO_ADDRESS = "http://x/"
DATABASES = {"default": {"ENGINE": "django.db.backends.postgresql", "NAME": "x"}}; MEDIA_ROOT = "/tmp/x"
"""
MAILS = "const mails = { on() {}, removeListener() {}, getAllEmail() {} };"
QUEUE = "{ Bull: class { on() {} }, queues: [{ name: 'a', hostId: 'b', type: 'bull', redis: {} }] }"


@dataclass(frozen=True, kw_only=True)
class Asked:
    """An application: its package, the framework, what is asked (``ask_routes``), and the folders that are its source."""

    package: str
    framework: str
    subject: str
    folders: tuple[str, ...]
    settings: str = ""
    apart: bool = False
    more: tuple[str, ...] = field(default=())

    @property
    def name(self) -> str:
        """The name of its package."""
        return re.split(r"==|@(?=\d)", self.package)[0]


ASKED = (
    Asked(package="httpbin==0.7.0", framework="flask", subject="httpbin:app", folders=("httpbin",), more=("flask<2.1", "werkzeug<2.1")),
    Asked(package="whoogle-search==0.8.4", framework="flask", subject="app:app", folders=("app",)),
    Asked(package="locust==2.20.0", framework="flask", subject="locust.env:__import__('locust.web').web.WebUI(Environment(), '', 0).app", folders=("locust",), apart=True),
    Asked(package="zenml[server]==0.50.0", framework="fastapi", subject="zenml.zen_server.zen_server_api:app", folders=("zenml",), apart=True),
    Asked(package="NEMO==5.0.0", framework="django", subject="asked_settings", folders=("NEMO", "resources"), settings=NEMO),
    Asked(package="misago==0.39.0", framework="django", subject="asked_settings", folders=("misago",), settings=MISAGO),
    Asked(
        package="maildev@2.1.0", framework="express",
        subject=f"{MAILS} req('maildev/lib/web.js').start(0, '127.0.0.1', mails, null, null, null, {{}});", folders=("maildev",), apart=True,
    ),
    Asked(package="bull-arena@4.0.0", framework="express", subject=f"req('bull-arena')({QUEUE}, {{ port: 0, disableListen: true }});", folders=("bull-arena",), apart=True),
    Asked(package="kue@0.11.6", framework="express", subject="req('kue').app;", folders=("kue",), apart=True),
    Asked(
        package="redis-commander@0.8.0", framework="express",
        subject="process.chdir('node_modules/redis-commander'); req('redis-commander/lib/app.js')([]);", folders=("redis-commander",), apart=True,
    ),
)  # fmt: skip


def main() -> None:
    """Ask, read, compare, and print a line each."""
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    print("application | framework | listed | recall | precision |")
    for each in ASKED:
        if sys.argv[2:] and each.name not in sys.argv[2:]:
            continue
        listed, source = (_node if each.framework == "express" else _python)(each, folder / each.name.split("[")[0])
        methods = each.framework != "django"
        truth = {_bare(Line(line), methods=methods) for line in listed if " /" in line}
        ours = {_bare(Line(route.name), methods=methods) for route in find_routes(FolderSnapshot(source), KIT.ecosystems).routes}
        both = len(truth & ours)
        row = f"{both / max(len(truth), 1):.3f} | {both / max(len(ours), 1):.3f} | {'apart' if each.apart else 'adjusted'}"
        print(f"{each.package} | {each.framework} | {len(truth)} | {row}", flush=True)
        for sign, routes in (("missing", truth - ours), ("extra", ours - truth)):
            for route in sorted(routes)[:8]:
                print(f"    {sign} {route}")


def _bare(line: Line, *, methods: bool) -> str:
    method, path = line.split(" ", 1)
    plain = re.sub(r"//+", "/", re.sub(r"\{[^{}]*\}", "{}", path.strip().replace("\\", "")))
    return f"{method} {plain.rstrip('/') or '/'}" if methods else plain.rstrip("/") or "/"


def _python(each: Asked, folder: Path) -> tuple[list[str], Path]:
    environment = folder / "env"
    python = environment / "bin" / "python"
    if not python.exists():
        subprocess.run([sys.executable, "-m", "venv", environment], check=True)
        subprocess.run([python, "-m", "pip", "install", "-q", each.package, *each.more], check=True)
    (folder / "asked_settings.py").write_text(each.settings)
    site = next(environment.glob("lib/python3*/site-packages"))
    source = _copied(each, site, folder)
    asked = [python, HERE / "ask_routes.py", each.framework, each.subject]
    done = subprocess.run(asked, cwd=folder, capture_output=True, text=True, timeout=300, check=False)
    return _lines(done), source


def _node(each: Asked, folder: Path) -> tuple[list[str], Path]:
    folder.mkdir(exist_ok=True)
    if not (folder / "node_modules").exists():
        (folder / "package.json").write_text("{}")
        command = ["npm", "install", "--no-audit", "--no-fund", "--ignore-scripts", "--silent", each.package]
        subprocess.run(command, cwd=folder, check=True)
    source = _copied(each, folder / "node_modules", folder)
    asked = ["node", HERE / "ask_routes.cjs", folder, each.subject]
    done = subprocess.run(asked, cwd=folder, capture_output=True, text=True, timeout=300, check=False)
    return _lines(done), source


def _copied(each: Asked, installed: Path, folder: Path) -> Path:
    """Only the application's own files: what it needs is no part of what is read."""
    source = folder / "source"
    shutil.rmtree(source, ignore_errors=True)
    for name in each.folders:
        shutil.copytree(installed / name, source / name, ignore=shutil.ignore_patterns("node_modules", "__pycache__"))
    return source


def _lines(done: subprocess.CompletedProcess[str]) -> list[str]:
    if " /" not in done.stdout:
        sys.stderr.write(done.stderr[-1500:])
    return done.stdout.splitlines()


if __name__ == "__main__":
    main()
