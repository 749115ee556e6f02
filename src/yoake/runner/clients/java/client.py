"""Java's outside, as the contract wants it."""

from __future__ import annotations

from typing import Final

from yoake.core.ecosystems.java import JAVA_ECOSYSTEM
from yoake.runner.clients.contract import Client
from yoake.runner.clients.java.jars import build_jars, jar_surface
from yoake.runner.clients.java.jdks import build_java
from yoake.runner.clients.java.records import maven_record

JAVA_CLIENT: Final = Client(
    ecosystem=JAVA_ECOSYSTEM,
    runtime=build_java,
    package=build_jars,
    file=jar_surface,
    files="a jar",
    record=maven_record,
)
