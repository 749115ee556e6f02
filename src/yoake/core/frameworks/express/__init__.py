"""Express: routes."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.express.routes import ExpressRoutes
from yoake.core.values.coordinates import Coordinate

EXPRESS_FRAMEWORK: Final = Framework(
    coordinate=Coordinate("pkg:npm/express"),
    title="Express",
    routes=RouteReader(name="express", language="javascript", signs=(b"express",), begin=ExpressRoutes),
)
