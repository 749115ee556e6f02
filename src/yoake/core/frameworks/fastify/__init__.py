"""Fastify: routes."""

from __future__ import annotations

from typing import Final

from yoake.core.contract.ecosystem import Framework
from yoake.core.contract.route_readers import RouteReader
from yoake.core.frameworks.fastify.routes import FastifyRoutes
from yoake.core.values.coordinates import Coordinate

FASTIFY_FRAMEWORK: Final = Framework(
    coordinate=Coordinate("pkg:npm/fastify"),
    title="Fastify",
    routes=RouteReader(name="fastify", language="javascript", signs=(b"fastify",), begin=FastifyRoutes),
)
