"""Whether every stage of every path can be installed as a whole: all packages that the manifest asks for, peers enforced.

For each application the paths are searched with every package looked up; then each stage's releases are written into a copy of its
``package.json`` and npm is asked for a lock file (``npm install --package-lock-only``), or given to pip of the stage’s own
interpreter (``pip install --dry-run``). What a stage says cannot go along is left out, as it says; what today’s manifest gives by itself
is asked first, so that it can be told what was broken before.

    python -m bench.stages SET [APPLICATION …]
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor, as_completed
from email.parser import HeaderParser
from pathlib import Path

from packaging.requirements import Requirement

from bench.resolves import name_of
from bench.truth import fetch as fetch_python
from bench.truth_node import fetch as fetch_npm
from yoake.runner.clients.python.interpreters import find_interpreters

ADJUSTED = {
    "cncjs@1.9.22": ["npm/react@18", "npm/express@5", "node@24"],
    "@uirouter/angular@6.0.0": ["npm/@angular/core@17", "node@20"],
    "react-datepicker@2.9.6": ["npm/react@18", "node@22"],
    "redoc@2.0.0-rc.20": ["npm/react@18", "npm/webpack@5", "npm/typescript@5"],
    "swagger-ui@3.24.0": ["npm/react@18", "npm/webpack@5"],
    "graphiql@0.17.5": ["npm/react@18"],
    "react-select@3.0.8": ["npm/react@19"],
    "bootstrap-vue@2.1.0": ["npm/jest@29", "npm/eslint@8"],
    "react-big-calendar@0.24.0": ["npm/react@18", "npm/webpack@5"],
    "homebridge@1.0.0": ["node@22", "npm/typescript@5"],
    "@nestjs/swagger@4.0.0": ["npm/@nestjs/common@10", "npm/typescript@5"],
    "react-table@7.0.0": ["npm/react@18"],
    "vue-good-table@2.18.0": ["npm/vue@3"],
    "vuetify@2.2.0": ["npm/vue@3", "npm/typescript@5"],
    "docsify@4.11.0": ["npm/eslint@9", "node@22"],
}
APART = {
    "react-modal@3.11.1": ["npm/react@18", "npm/webpack@5"],
    "react-dropzone@10.2.1": ["npm/react@18"],
    "material-table@1.57.2": ["npm/react@18"],
    "react-draft-wysiwyg@1.14.5": ["npm/react@18", "npm/webpack@5"],
    "react-jsonschema-form@1.8.1": ["npm/react@18"],
    "swagger-editor@3.8.0": ["npm/react@18", "npm/webpack@5"],
    "graphql-playground-react@1.7.20": ["npm/react@18"],
    "react-admin@3.0.0": ["npm/react@18"],
    "strapi-admin@3.0.0": ["npm/react@18", "node@20"],
    "@storybook/react@5.3.0": ["npm/react@18"],
    "buefy@0.8.9": ["npm/vue@3", "npm/jest@29"],
    "vee-validate@2.2.15": ["npm/vue@3", "npm/jest@29"],
    "portal-vue@2.1.7": ["npm/vue@3"],
    "vue2-leaflet@2.5.2": ["npm/vue@3"],
    "vuelidate@0.7.5": ["npm/vue@3", "npm/webpack@5"],
    "nest-winston@1.3.3": ["npm/@nestjs/common@10"],
    "nestjs-pino@1.1.3": ["npm/@nestjs/common@10", "npm/typescript@5"],
    "@nestjs/graphql@7.0.0": ["npm/@nestjs/common@9"],
    "@nestjs/typeorm@7.0.0": ["npm/@nestjs/common@10", "npm/typescript@5"],
    "express-gateway@1.16.9": ["node@22", "npm/express@5"],
    "kuzzle@2.1.0": ["node@22"],
    "pm2@4.2.1": ["node@24"],
    "actionhero@22.0.3": ["node@22", "npm/typescript@5", "npm/jest@29"],
    "eslint-plugin-unicorn@15.0.0": ["npm/eslint@9"],
    "stylelint@13.0.0": ["npm/eslint@8", "npm/jest@29"],
    "angular-oauth2-oidc@9.0.0": ["npm/@angular/core@16"],
    "@ngx-translate/core@12.0.0": ["npm/@angular/core@15"],
}
NEW = {
    "rc-table@7.0.0": ["npm/react@18"],
    "react-toastify@5.5.0": ["npm/react@18"],
    "react-responsive-carousel@3.1.50": ["npm/react@18", "npm/webpack@5"],
    "@material-ui/core@4.9.0": ["npm/react@18"],
    "react-beautiful-dnd@12.2.0": ["npm/react@18"],
    "formik@2.1.0": ["npm/react@18", "npm/typescript@5"],
    "react-dates@21.8.0": ["npm/react@18", "npm/webpack@5"],
    "vue-multiselect@2.1.6": ["npm/vue@3", "npm/webpack@5"],
    "element-ui@2.13.0": ["npm/vue@3"],
    "vue-select@3.4.0": ["npm/vue@3", "npm/jest@29"],
    "vue-i18n@8.15.0": ["npm/vue@3"],
    "vuetable-2@1.7.5": ["npm/vue@3", "npm/webpack@5"],
    "@nestjs/passport@6.1.0": ["npm/@nestjs/common@10"],
    "@nestjs/mongoose@6.3.0": ["npm/@nestjs/common@10", "npm/typescript@5"],
    "nestjs-config@1.4.5": ["npm/@nestjs/common@10", "npm/jest@29"],
    "verdaccio@4.4.0": ["node@22", "npm/express@5"],
    "json-server@0.16.0": ["node@22", "npm/express@5"],
    "node-red@1.0.3": ["node@22", "npm/express@5"],
    "ngx-bootstrap@5.3.2": ["npm/@angular/core@16"],
    "ng-zorro-antd@9.0.0": ["npm/@angular/core@16"],
    "webpack-dev-server@3.10.0": ["npm/webpack@5", "npm/express@5"],
    "eslint-config-airbnb-base@14.0.0": ["npm/eslint@9"],
    "@rjsf/core@2.0.0": ["npm/react@18", "npm/typescript@5"],
}
"""Nobody looked at these before; of those above some taught something."""
PYTHON_ADJUSTED = {
    "Weblate==3.9": ["python@3.12", "pypi/django@5.2"],
    "pretix==3.8.0": ["python@3.12", "pypi/django@4.2"],
    "apache-superset==0.36.0": ["python@3.11", "pypi/sqlalchemy@1.4"],
    "kiwitcms==8.4": ["python@3.12", "pypi/django@4.2"],
    "archivebox==0.6.2": ["python@3.12", "pypi/django@5.2"],
    "mayan-edms==3.5.2": ["python@3.11", "pypi/django@4.2"],
    "flower==0.9.3": ["python@3.13", "pypi/tornado@6.5"],
    "label-studio==1.0.1": ["python@3.13", "pypi/django@5.2"],
}
PYTHON_APART = {
    "django-oscar==2.0.4": ["python@3.12", "pypi/django@4.2"],
    "OctoPrint==1.4.0": ["python@3.12"],
    "jupyterhub==1.1.0": ["python@3.13", "pypi/sqlalchemy@2.0"],
    "HyperKitty==1.3.2": ["python@3.12", "pypi/django@5.2"],
    "postorius==1.3.2": ["python@3.12", "pypi/django@5.2"],
    "buildbot==2.6.0": ["python@3.12", "pypi/sqlalchemy@2.0"],
    "django-cms==3.7.1": ["python@3.12", "pypi/django@4.2"],
    "calibreweb==0.6.12": ["python@3.12"],
    "locust==0.14.5": ["python@3.13"],
    "mitmproxy==5.0.1": ["python@3.12"],
    "mlflow==1.6.0": ["python@3.12", "pypi/pandas@2.2"],
    "Mopidy==3.0.1": ["python@3.12"],
    "FlaskBB==2.0.2": ["python@3.12", "pypi/flask@3.0"],
    "wagtail==2.8": ["python@3.12", "pypi/django@5.2"],
    "celery==4.4.0": ["python@3.13"],
}
SETS = {"adjusted": ADJUSTED, "apart": APART, "new": NEW, "python-adjusted": PYTHON_ADJUSTED, "python-apart": PYTHON_APART}
FROM = "node@12"
FROM_PYTHON = "python@3.7"


def paths_of(folder: Path, to: list[str], said: str) -> dict:
    """What the command line answers, every package looked up."""
    command = [sys.executable, "-m", "yoake", "path", str(folder), "--format", "json", "--look-up", "--from", said]
    for target in to:
        command += ["--to", target]
    done = subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ})
    if done.returncode not in (0, 1) or not done.stdout.startswith("{"):
        raise RuntimeError(done.stderr.strip()[-300:])
    return json.loads(done.stdout)


def npm_accepts(manifest: dict) -> str:
    """Empty when npm makes a lock file of a manifest, else its first words about why not."""
    with tempfile.TemporaryDirectory() as place:
        (Path(place) / "package.json").write_text(json.dumps(manifest))
        command = ["npm", "install", "--package-lock-only", "--ignore-scripts", "--no-audit", "--no-fund"]
        try:
            done = subprocess.run(command, cwd=place, capture_output=True, text=True, check=False, timeout=600)
        except subprocess.TimeoutExpired:
            return "npm did not finish within ten minutes"
    lines = [x.removeprefix("npm error ").strip() for x in done.stderr.splitlines() if x.startswith("npm error")]
    return "" if done.returncode == 0 else " / ".join(x for x in lines if x)[:700]


def npm_manifest(folder: Path, stage: dict | None) -> dict:
    """The manifest of an application, as it is or as a stage has it."""
    held = json.loads((folder / "package.json").read_text())
    taken = {name_of(p["coordinate"]): p for p in stage["packages"]} if stage is not None else {}
    made: dict = {"name": "stage", "version": "1.0.0"}
    for group in ("dependencies", "devDependencies", "optionalDependencies", "peerDependencies"):
        rows = {}
        for name, wanted in (held.get(group) or {}).items():
            said = taken.get(name)
            if said is None or said["state"] == "unknown":
                rows[name] = wanted
            elif said["release"]:
                rows[name] = said["release"]
        made[group] = rows
    return made


def pip_accepts(stage: dict) -> str:
    """Empty when pip resolves all packages of a stage under its interpreter, else its words about why not."""
    line = stage["state"]["pkg:generic/python"]["line"]
    program = find_interpreters().get(line)
    if program is None:
        return ""
    place = Path(tempfile.gettempdir()) / "yoake-truth" / f"pip-{line}"
    if not (place / "bin" / "python").exists():
        subprocess.run([program, "-m", "venv", str(place)], check=True, capture_output=True)
        subprocess.run([place / "bin" / "python", "-m", "pip", "install", "-q", "-U", "pip<24.1"], check=False, capture_output=True)
    wanted = []
    for said in stage["packages"]:
        if not said["coordinate"].startswith("pkg:pypi/"):
            continue
        before = said["before"] if not said["before"][:1].isdigit() else f"=={said['before']}"
        if (said["release"] and said["state"] != "none") or said["state"] == "unknown":
            wanted.append(name_of(said["coordinate"]) + (f"=={said['release']}" if said["release"] else before))
    command = [str(place / "bin" / "python"), "-m", "pip", "install", "--dry-run", "-q", "--ignore-installed", *wanted]
    try:
        done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=900)
    except subprocess.TimeoutExpired:
        return "pip did not finish within fifteen minutes"
    said = [x.strip() for x in done.stderr.splitlines() if "ERROR" in x or "×" in x or "depends on" in x or "requested" in x]
    return "" if done.returncode == 0 else " / ".join(said)[:700]


def with_requirements(folder: Path) -> Path:
    """A wheel's folder with what the wheel asks for as a file of requirements, which is how an application would ask for it."""
    for metadata in sorted(folder.glob("*.dist-info/METADATA")):
        rows = []
        for raw in HeaderParser().parsestr(metadata.read_text("utf-8", "replace")).get_all("Requires-Dist") or ():
            asked = Requirement(raw)
            if "extra" not in str(asked.marker or ""):
                marker = f" ; {asked.marker}" if asked.marker else ""
                rows.append(f"{asked.name}{asked.specifier}{marker}\n")
        (folder / "requirements.txt").write_text("".join(rows))
    return folder


def measure_python(name: str, to: list[str], place: Path) -> tuple[str, int, int, list[str]]:
    """The same for an application of Python."""
    folder = fetch_python(name, place)
    if folder is None:
        return f"{name}: could not be fetched", 0, 0, []
    try:
        answer = paths_of(with_requirements(folder), to, FROM_PYTHON)
    except RuntimeError as error:
        return f"{name}: {error}", 0, 0, []
    seen: dict[str, str] = {}
    said = []
    for path in answer["paths"]:
        for stage in path["stages"] if path["objective"] else ():
            key = json.dumps([stage["packages"], stage["state"]["pkg:generic/python"]], sort_keys=True)
            if key not in seen and any(p["coordinate"].startswith("pkg:pypi/") for p in stage["packages"]):
                seen[key] = pip_accepts(stage)
                if seen[key]:
                    line = stage["state"]["pkg:generic/python"]["line"]
                    said.append(f"{path['objective']} {stage['number']} (Python {line}): {seen[key]}")
    good = sum(not text for text in seen.values())
    left = {p["coordinate"] for path in answer["paths"] for s in path["stages"] for p in s["packages"] if p["state"] == "none"}
    head = f"{name:26} {' '.join(to):40} stages {len(seen)}  accepted {good}  left out {len(left)}"
    return head, len(seen), good, said


def measure(name: str, to: list[str], place: Path) -> tuple[str, int, int, list[str]]:
    """(line to print, stages, those that are accepted, what was said of the others)."""
    folder = fetch_npm(name.split(":", 1)[-1], place / "node")
    if folder is None:
        return f"{name}: could not be fetched", 0, 0, []
    folder = next(p.parent for p in sorted(folder.glob("*/package.json")))
    try:
        answer = paths_of(folder, to, FROM)
    except RuntimeError as error:
        return f"{name}: {error}", 0, 0, []
    today = npm_accepts(npm_manifest(folder, None))
    seen: dict[str, str] = {}
    said = []
    for path in answer["paths"]:
        for stage in path["stages"] if path["objective"] and not path["set"] else ():
            manifest = npm_manifest(folder, stage)
            key = json.dumps(manifest, sort_keys=True)
            if key not in seen:
                seen[key] = npm_accepts(manifest)
                if seen[key]:
                    moves = ", ".join(f"{name_of(m['coordinate'])} {m['to']}" for m in stage["moves"])
                    said.append(f"{path['objective']} {stage['number']} ({moves}): {seen[key]}")
    good = sum(not text for text in seen.values())
    left = {p["coordinate"] for path in answer["paths"] for s in path["stages"] for p in s["packages"] if p["state"] == "none"}
    head = f"{name:34} {' '.join(to):44} today {'yes' if not today else 'no '}  stages {len(seen)}  accepted {good}  left out {len(left)}"
    return head, len(seen), good, said


def main() -> None:
    """Measure and print one line an application, and the totals."""
    place = Path(tempfile.gettempdir()) / "yoake-truth"
    chosen, wanted = SETS[sys.argv[1]], sys.argv[2:]
    table = {name: to for name, to in chosen.items() if not wanted or name in wanted}
    total = good = 0
    with ThreadPoolExecutor(2) as pool:
        asked = measure_python if "python" in sys.argv[1] else measure
        for done in as_completed([pool.submit(asked, name, to, place) for name, to in table.items()]):
            head, stages, fine, said = done.result()
            total, good = total + stages, good + fine
            print(head, flush=True)
            for text in said:
                print(f"      {text}", flush=True)
    print(f"\n{good} of {total} stages are accepted")


if __name__ == "__main__":
    main()
