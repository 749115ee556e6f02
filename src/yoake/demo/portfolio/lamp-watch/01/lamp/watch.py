"""Lamps along the quay."""
from collections.abc import Iterable


def dark(lamps: Iterable[tuple[str, bool]]) -> list[str]:
    return sorted(name for name, burns in lamps if not burns)
