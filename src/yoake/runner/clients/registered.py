"""The clients that Yoake ships with: the one place that names them all."""

from __future__ import annotations

from typing import Final

from yoake.runner.clients.contract import Clients
from yoake.runner.clients.java.client import JAVA_CLIENT
from yoake.runner.clients.javascript.client import JAVASCRIPT_CLIENT
from yoake.runner.clients.python.client import PYTHON_CLIENT

CLIENTS: Final = Clients((PYTHON_CLIENT, JAVASCRIPT_CLIENT, JAVA_CLIENT))
