"""How right a scan is about libraries other than Django, asked of the real releases in throw-away environments.

The truth: a use (file, line, symbol) in unguarded code whose symbol can be imported and reached in the old release and not in
the new one. Candidates come from ``bench/walk.py``.

    python -m bench.truth_libraries [apart] [LIBRARY …]
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.truth import HERE, Score, fetch, report, tally
from yoake.shipped import KIT
from yoake.core.ecosystems.python.names import pypi
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import parse_target, Line
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

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
APART: dict[str, str] = {
    "marshmallow": "flask-rest-api==0.13.0 marshmallow-sqlalchemy==0.16.0 marshmallow-enum==1.4.1 connexion==1.5.0 apispec==0.20.0 webargs==5.0.0 flask-apispec==0.8.0 marshmallow-polyfield==3.0 marshmallow-oneofschema==1.0.5 umongo==1.0.0 marshmallow-jsonschema==0.5.0 marshmallow-mongoengine==0.9.1 swagger-marshmallow-codegen==0.3 marshmallow-form==0.1 invenio-records-rest==1.4.0 django-rest-marshmallow==3.1.1 flask-resty==1.0.0 smore==0.2.0 prestans==2.0 flask-marshmallow==0.9.0 kim==1.0 polyaxon-schemas==0.4.0 polyaxon-cli==0.4.0 cloudify==5.0 renku==0.5.0 requests-toolbelt==0.9 faust-avro==0.1",
    "werkzeug": "Flask-Cache==0.13.1 flask-restful==0.3.7 Flask-Security==3.0.0 Flask-Login==0.4.1 Flask-DebugToolbar==0.10.1 trytond==5.0.0 httpbin==0.7.0 localstack==0.10.0 bentoml==0.6.0 mlflow==1.8.0 Flask==1.0.2 pytest-flask==0.15.0 Flask-OAuthlib==0.9.5 zeep==3.4.0",
    "jinja2": "mkdocs==1.0.4 cookiecutter==1.6.0 dbt-core==0.14.0 lektor==3.1.3 jinja2-cli==0.7.0 django-jinja==2.4.1 Flask-Babel==0.12.2 jupyter-server==1.0.0 jinja2-time==0.2.0 nikola==8.0.0 Pylons==1.0.3 pyramid-jinja2==2.8 cactus==3.3.3 hyde==0.8.9 piecrust==3.3.0 tinydb==3.0.0 webassets==0.12.1 sprox==0.10.0 localstack==0.10.0",
    "networkx": "nxviz==0.3.6 pgmpy==0.1.6 networkx-viewer==0.1.0 grave==0.0.3 pm4py==1.2.0 snakemake==5.5.0 qiskit-terra==0.9.0 karateclub==1.0.0 stellargraph==0.8.0 momepy==0.1.0 pygsp==0.5.1 ndlib==4.0.0 dwave-networkx==0.8.0 pyvis==0.1.7 conpot==0.6.0 mapclassify==2.1.0 cdlib==0.1.0 matminer==0.5.0",
    "pymongo": "pymongo-inmemory==0.1.0 django-mongodb-engine==0.6.0 djongo==1.3.0 ming==0.7.0 mongomock==3.14.0 scrapy-mongodb==0.12.0 txmongo==19.2.0 mongokit==0.9.1.1 mongo-connector==3.1.1 flask-mongoengine==0.9.5 umongo==2.1.0 beanie==0.1.0 sacred==0.8.0 rethinkdb==2.4.2 apscheduler==3.6.0 kombu==4.5.0 mongo-orchestration==0.6.12 mtools==1.5.0 monary==0.5.0 arctic==1.79.0 ramses==0.5.1 nefertari==0.7.0 nefertari-mongodb==0.4.2 hyperopt==0.1.2 fireworks==1.9.0 Eve==0.7.0 Eve==0.5.3",
    "celery": "django-celery-beat==1.5.0 Flask-CeleryExt==0.3.0 django-celery==3.3.1 celery-once==3.0.0 celery-redbeat==0.11.0 celerymon==1.0.3 taskflow==3.0.0 thorn==1.5.0 celery-batches==0.2 scrapydweb==1.4.0 elastic-apm==5.0.0 sentry-sdk==0.10.0 cubes==1.1 celery-haystack==0.10 django-celery-transactions==0.3.6 raven==6.10.0 rq==1.0",
    "sqlalchemy": "alembic==1.4.0 Flask-SQLAlchemy==2.4.0 oslo.db==5.0.0 sqlalchemy-migrate==0.13.0 GeoAlchemy2==0.6.3 Kotti==2.0.0 mlflow==1.8.0 agate-sql==0.5.4 barman==2.10 openfoodfacts==0.1 pgcli==2.2.0 sqlacodegen==2.3.0",
    "pydantic": "fastapi==0.95.2 sqlmodel==0.0.8 fastapi-utils==0.2.1 ormar==0.12.0 beanie==1.18.0 odmantic==0.9.2 openapi-schema-pydantic==1.2.4 datamodel-code-generator==0.17.0 llama-index==0.6.0 bentoml==1.0.0 docarray==0.30.0 pydantic-factories==1.17.0 starlite==1.51.0 esmerald==0.1.0 dbt-core==1.5.0 feast==0.31.0 mlserver==1.3.0 kedro==0.18.0 gradio==3.35.0 haystack-ai==2.0.0 fastapi-pagination==0.12.0 fastapi-jwt-auth==0.5.0 fastapi-mail==1.2.0 pydantic-xml==0.6.0 pyserde==0.9.0 cfn-lint-serverless==0.3.0 aws-lambda-powertools==2.15.0 django-ninja==0.22.0 strawberry-graphql==0.180.0 argilla==1.9.0 guardrails-ai==0.2.0",
    "tornado": "ipykernel==4.8.0 distributed==1.20.0 pyzmq==16.0.0 flower==0.9.0 circus==0.14.0 rainbowstream==1.3.7 tornado-redis==2.4.18 motor==1.1 pynsq==0.8.0 thumbor==6.4.0 streamlit==0.40.0 TorMySQL==0.4.2 tornado-mysql==0.5.1 graphite-api==1.1.3 sprockets.http==1.5.0 rejected==3.20.0 jupyter-kernel-gateway==2.0.0 sockjs-tornado==1.0.3 locustio==0.8.0",
    "sphinx": "sphinx-rtd-theme==0.4.3 numpydoc==0.9.0 sphinxcontrib-plantuml==0.17 sphinx-autoapi==1.0.0 cloud-sptheme==1.10.0 hieroglyph==2.0.0 guzzle-sphinx-theme==0.7.11 sphinxcontrib-napoleon==0.7 sphinxcontrib-versioning==2.2.1 sphinx-intl==1.0.0 releases==1.6.1 sphinx-click==2.0.0 sphinx-argparse==0.2.5 sphinxcontrib-spelling==4.2.0 sphinx-issues==1.2.0 sphinxcontrib-programoutput==0.14 ablog==0.9.0 sphinx-automodapi==0.10 sphinxcontrib-bibtex==0.4.2 sphinxcontrib-websupport==1.1.0 sphinxcontrib-phpdomain==0.6.0 sphinxcontrib-blockdiag==1.5.5 rst2pdf==0.95 sphinx-jsondomain==0.0.3 alabaster==0.7.10 m2r==0.2.1 rinohtype==0.3.1 tinkerer==1.6.0 exhale==0.2.2 sphinxcontrib-autoprogram==0.1.5 javasphinx==0.9.15 sphinx-testing==1.0.1 sphinxcontrib-mscgen==0.5 sphinxcontrib-trio==1.0.2 astropy-helpers==3.1",
    "scikit-learn": "mlxtend==0.13.0 auto-sklearn==0.6.0 yellowbrick==0.9 lime==0.1.1.36 category-encoders==1.3.0 skope-rules==1.0.0 nilearn==0.5.0 sklearn-crfsuite==0.3.6 dask-ml==1.0.0 kmodes==0.10.1 scikit-multilearn==0.2.0 pyod==0.7.0 xgboost==0.90 lightgbm==2.2.3 mlflow==1.8.0 scikit-plot==0.3.7 boruta==0.3 sklearn-pandas==1.8.0 rasa-nlu==0.15.0 snips-nlu==0.19.0 pmdarima==1.2.0 econml==0.4 gplearn==0.4.0",
    "pandas": "pyfolio==0.9.2 lifelines==0.22.0 geopandas==0.6.0 plotnine==0.6.0 pandas-datareader==0.7.0 great-expectations==0.8.0 mlxtend==0.17.0 category-encoders==2.1.0 pandasql==0.7.3 alphalens==0.4.0 empyrical==0.5.0",
    "numpy": "tensorpack==0.9.8 pymc3==3.8 gpflow==1.5.1 pyfolio==0.9.2 Keras==2.2.4 librosa==0.7.0",
}  # fmt: skip
"""Projects that nothing was adjusted on; run once."""
_TOPS = {"scikit-learn": "sklearn", "pillow": "PIL"}
_WITH = {"pandas": ["numpy<2"], "scikit-learn": ["numpy<2"], "networkx": ["numpy<2", "scipy", "matplotlib"], "sphinx": ["sphinxcontrib-applehelp", "docutils<0.19"]}  # fmt: skip
_WITH_NEW = {"scikit-learn": ["numpy"], "pandas": ["numpy"], "networkx": ["numpy", "scipy", "matplotlib"]}


def environment(name: str, release: str, line: Line, folder: Path, *, new: bool) -> Path:
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
    knowledge = KIT.knowledge()
    old, new, _ = LIBRARIES[name]
    coordinate = pypi(name)
    to = [parse_target(f"pypi/{name}@{ECOSYSTEMS.line_of(coordinate, new)}")]
    said = [parse_target(f"pypi/{name}@{ECOSYSTEMS.line_of(coordinate, old)}")]
    result = scan_snapshot(snapshot=FolderSnapshot(folder), knowledge=knowledge, destination=to, said=said, extractor=extractor, control=Control(), name=folder.name).result
    places = [(f, p) for f in result.findings for p in f.places if p.level == "error"]
    errors = {(p.file, p.first_line or p.line, p.symbol) for _, p in places}
    forms = ("import", "name", "attribute", "call")
    removed = {(p.file, p.first_line or p.line, p.symbol) for f, p in places if f.kind == "removed" and p.form in forms}
    tops = tuple(knowledge.top_levels(coordinate))
    own = {path.name.split(".")[0] for path in folder.iterdir()}
    done = subprocess.run(
        [find_interpreters()[Line(PYTHONS[0])], str(HERE / "walk.py"), str(folder)],
        capture_output=True,
        text=True,
        check=True,
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
    extractor = Extractor(FactsCache(folder / "facts.sqlite"), KIT.ecosystems)
    apart = "apart" in sys.argv
    for name in [a for a in sys.argv[1:] if a != "apart"] or (APART if apart else LIBRARIES):
        old, new, projects = LIBRARIES[name]
        projects = APART[name].split() if apart else projects
        print(f"\n{name} {old} → {new}", flush=True)
        try:
            programs = (
                environment(name, old, Line(PYTHONS[0]), folder, new=False),
                environment(name, new, Line(PYTHONS[1]), folder, new=True),
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
