"""How right a scan is about libraries other than Django, asked of the real releases in throw-away environments.

The truth: a use (file, line, symbol) in unguarded code whose symbol can be imported and reached in the old release and not in
the new one. Candidates come from ``bench/walk.py``.

    python -m bench.truth_libraries [LIBRARY …]
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.truth import HERE, Score, fetch, report, tally
from yoake.core.coordinates import line_of, parse_target, pypi
from yoake.runner.extraction import Extractor, FactsCache
from yoake.runner.interpreters import find_interpreters
from yoake.runner.knowledge_files import load_knowledge
from yoake.runner.snapshots import FolderSnapshot
from yoake.work.scanning import Control, scan_snapshot

PYTHONS = ("3.8", "3.12")
LIBRARIES: dict[str, tuple[str, str, list[str]]] = {
    "numpy": ("1.19.5", "2.0.2", ["scikit-image==0.16.2", "statsmodels==0.10.2", "gensim==3.8.0", "imgaug==0.3.0", "bokeh==1.4.0"]),
    "pandas": ("1.0.5", "2.2.3", ["statsmodels==0.10.2", "dask==2.0.0", "tsfresh==0.12.0", "featuretools==0.10.0", "seaborn==0.9.0"]),
    "sqlalchemy": ("1.3.24", "2.0.36", ["apache-superset==0.34.0", "apache-airflow==1.10.9", "Flask-AppBuilder==2.2.0", "SQLAlchemy-Utils==0.36.0", "buildbot==2.10.0"]),
    "werkzeug": ("0.16.1", "3.0.6", ["flask-restplus==0.13.0", "Eve==1.0", "Flask-AppBuilder==2.2.0", "connexion==2.6.0", "moto==1.3.14"]),
    "jinja2": ("2.11.3", "3.1.4", ["Sphinx==2.4.4", "ansible==2.9.0", "pelican==4.2.0", "nbconvert==5.6.1", "Flask-Admin==1.5.5"]),
    "tornado": ("4.5.3", "6.4.1", ["salt==2018.3.4", "luigi==2.8.0", "notebook==5.2.0", "jupyterhub==0.8.1", "bokeh==0.12.16"]),
    "pillow": ("8.4.0", "10.4.0", ["imgaug==0.3.0", "scikit-image==0.16.2", "django-oscar==2.0", "wagtail==2.9", "easy-thumbnails==2.7"]),
    "scikit-learn": ("0.22.2.post1", "1.5.2", ["imbalanced-learn==0.6.2", "tsfresh==0.12.0", "featuretools==0.10.0", "TPOT==0.11.0", "eli5==0.10.1"]),
    "networkx": ("2.5", "3.3", ["osmnx==0.12", "python-louvain==0.15", "pgmpy==0.1.10", "scikit-image==0.16.2", "dask==2.0.0"]),
    "celery": ("4.4.7", "5.4.0", ["apache-airflow==1.10.9", "flower==0.9.3", "apache-superset==0.34.0", "Weblate==3.9", "django-celery-results==1.1.2"]),
    "sphinx": ("1.8.6", "7.4.7", ["sphinx-gallery==0.4.0", "breathe==4.13.0", "nbsphinx==0.4.2", "recommonmark==0.5.0", "sphinxcontrib-httpdomain==1.7.0"]),
    "pymongo": ("3.12.3", "4.8.0", ["mongoengine==0.20.0", "Eve==1.0", "pymodm==0.4.3", "Flask-PyMongo==2.3.0", "motor==2.1.0"]),
    "marshmallow": ("2.21.0", "3.22.0", ["flask-marshmallow==0.10.0", "marshmallow-jsonapi==0.20.0", "apispec==0.39.0", "webargs==4.4.1", "Flask-AppBuilder==2.2.0"]),
    "pydantic": ("1.10.18", "2.9.2", ["fastapi==0.68.0", "great-expectations==0.15.50", "spacy==3.4.4", "fastapi-users==9.3.0", "prefect==2.4.0"]),
}  # fmt: skip
_TOPS = {"scikit-learn": "sklearn", "pillow": "PIL"}
_WITH = {"pandas": ["numpy<2"], "scikit-learn": ["numpy<2"], "networkx": ["numpy<2", "scipy", "matplotlib"], "sphinx": ["sphinxcontrib-applehelp", "docutils<0.19"]}  # fmt: skip
_WITH_NEW = {"scikit-learn": ["numpy"], "pandas": ["numpy"], "networkx": ["numpy", "scipy", "matplotlib"]}


def environment(name: str, release: str, line: str, folder: Path, *, new: bool) -> Path:
    """A throw-away environment with one release."""
    place = folder / f"{name}-{release}"
    program = place / "bin" / "python"
    done = place / "ready"
    if not done.exists():
        subprocess.run([find_interpreters()[line], "-m", "venv", str(place)], check=True)
        extra = (_WITH_NEW if new else _WITH).get(name, [])
        old = [] if new else ["markupsafe<2.1", "setuptools<60", "itsdangerous<2.1"]
        command = [program, "-m", "pip", "install", "-q", f"{name}=={release}", *extra, *old]
        subprocess.run(command, check=True, capture_output=True)
        done.write_text("")
    return program


def measure(name: str, folder: Path, programs: tuple[Path, Path], extractor: Extractor) -> Score:
    """Score one unpacked project against one library."""
    knowledge = load_knowledge()
    old, new, _ = LIBRARIES[name]
    coordinate = pypi(name)
    to = [parse_target(f"pypi/{name}@{line_of(coordinate, new)}")]
    said = [parse_target(f"pypi/{name}@{line_of(coordinate, old)}")]
    result = scan_snapshot(FolderSnapshot(folder), knowledge, to, said, extractor, Control(), folder.name).result
    places = [(f, p) for f in result.findings for p in f.places if p.level == "error"]
    errors = {(p.file, p.first_line or p.line, p.symbol) for _, p in places}
    forms = ("import", "name", "attribute", "call")
    removed = {
        (p.file, p.first_line or p.line, p.symbol) for f, p in places if f.kind == "removed" and p.form in forms
    }
    tops = tuple(knowledge.top_levels(coordinate.purl))
    own = {path.name.split(".")[0] for path in folder.iterdir()}
    done = subprocess.run(
        [find_interpreters()[PYTHONS[0]], str(HERE / "walk.py"), str(folder)], capture_output=True, text=True, check=True
    )
    rows = {
        (f, n, s)
        for f, n, s, guarded in json.loads(done.stdout)
        if not guarded and s.split(".")[0] in tops and s.split(".")[0] not in own
    }
    paths = sorted({s for _, _, s in rows} | {s for _, _, s in removed})
    before, after = (_ask(program, paths) for program in programs)
    return tally(rows, errors, removed, before, after)


def _ask(program: Path, paths: list[str]) -> dict[str, bool | None]:
    done = subprocess.run(
        [str(program), "-W", "ignore", str(HERE / "ask.py")],
        input=json.dumps(paths), capture_output=True, text=True, check=True,
    )  # fmt: skip
    return json.loads(done.stdout)


def main() -> None:
    """Measure and print one line a project, the misses and the totals of each library."""
    folder = Path(tempfile.gettempdir()) / "yoake-truth"
    folder.mkdir(exist_ok=True)
    extractor = Extractor(FactsCache(folder / "facts.sqlite"))
    for name in sys.argv[1:] or LIBRARIES:
        old, new, projects = LIBRARIES[name]
        print(f"\n{name} {old} → {new}", flush=True)
        try:
            programs = (
                environment(name, old, PYTHONS[0], folder, new=False),
                environment(name, new, PYTHONS[1], folder, new=True),
            )
        except subprocess.CalledProcessError as error:
            print("  no environment:", str(error.stderr)[-300:])
            continue
        scores = {}
        for requirement in projects:
            place = fetch(requirement, folder)
            if place is None:
                print(f"  {requirement}: could not be fetched")
                continue
            scores[requirement] = measure(name, place, programs, extractor)
        report(scores)
    extractor.close()


if __name__ == "__main__":
    main()
