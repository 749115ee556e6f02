"""What one Yoake is equipped with."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from yoake.runner.knowledge_files import load_knowledge

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.knowledge.base import Knowledge
    from yoake.runner.clients.contract import Clients


@dataclass(frozen=True, slots=True)
class Kit:
    """The ecosystems and frameworks that one Yoake knows, and the clients that reach outside for them.

    Whoever starts a process hands it in; nothing below reaches for one.
    """

    ecosystems: Registry
    clients: Clients

    def knowledge(self, own: Path | None = None) -> Knowledge:
        """All knowledge that ships and a person's own. Raises BadKnowledge."""
        return load_knowledge(self.ecosystems, own)
