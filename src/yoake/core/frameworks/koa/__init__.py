"""Koa: routes."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.koa.routes import KoaRoutes
from yoake.core.values.coordinates import Coordinate

KOA_FRAMEWORK: Final = Framework(
    coordinate=Coordinate("pkg:npm/koa"),
    title="Koa",
    routes=RouteReader(name="koa", language="javascript", signs=(b"koa",), begin=KoaRoutes),
)
