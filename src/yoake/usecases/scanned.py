"""A finished scan as its use cases hand it on."""

from __future__ import annotations

from dataclasses import dataclass, field

from yoake.core.values.results import ScanResult


@dataclass
class Scanned:
    """A finished scan with the texts it read. ``identity`` names the exact content."""

    result: ScanResult
    identity: str
    label: str
    texts: dict[str, bytes] = field(default_factory=dict)
    seconds: float = 0.0
