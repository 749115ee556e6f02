"""What Yoake ships with, put together for whoever starts a process of it."""

from __future__ import annotations

from typing import Final

from yoake.context.kit import Kit
from yoake.core.registered import ECOSYSTEMS
from yoake.runner.clients.registered import CLIENTS

KIT: Final = Kit(ECOSYSTEMS, CLIENTS)
