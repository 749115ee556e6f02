"""FastAPI and Starlette: routes."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.fastapi.routes import FastApiRoutes
from yoake.core.values.coordinates import Coordinate

FASTAPI_FRAMEWORK: Final = Framework(
    coordinate=Coordinate("pkg:pypi/fastapi"),
    title="FastAPI",
    routes=RouteReader(name="fastapi", language="python", signs=(b"fastapi", b"starlette"), begin=FastApiRoutes),
)
