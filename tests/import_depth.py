"""How long the longest chain of imports is, and whether modules import one another in a circle."""

from __future__ import annotations

import sys

import grimp

LONGEST = 12
"""Modules of one chain. Libraries that read well have eight to eleven; it may only shrink."""


def longest_chain() -> list[str]:
    """The longest chain of our own modules. Raises ValueError for a circle."""
    graph = grimp.build_graph("yoake", exclude_type_checking_imports=True)
    below: dict[str, list[str]] = {}
    open_now: list[str] = []

    def chain(module: str) -> list[str]:
        if module in below:
            return below[module]
        if module in open_now:
            raise ValueError(
                "modules import one another in a circle: " + " → ".join(open_now[open_now.index(module) :])
            )
        open_now.append(module)
        ways = [chain(other) for other in sorted(graph.find_modules_directly_imported_by(module))]
        open_now.pop()
        below[module] = [module, *max(ways, key=len, default=[])]
        return below[module]

    return max((chain(module) for module in sorted(graph.modules)), key=len)


def main() -> int:
    try:
        found = longest_chain()
    except ValueError as error:
        sys.stderr.write(f"{error}\n")
        return 1
    if len(found) > LONGEST:
        sys.stderr.write(f"The longest chain of imports has {len(found)} modules:\n  " + "\n  ".join(found) + "\n")
    return 1 if len(found) > LONGEST else 0


if __name__ == "__main__":
    sys.exit(main())
