"""Flask: routes."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.flask.routes import FlaskRoutes
from yoake.core.values.coordinates import Coordinate

FLASK_FRAMEWORK: Final = Framework(
    coordinate=Coordinate("pkg:pypi/flask"),
    title="Flask",
    routes=RouteReader(name="flask", language="python", signs=(b"flask", b"quart"), begin=FlaskRoutes),
)
