"""The morning list."""
from lamp.watch import dark


def morning(lamps):
    return "\n".join(dark(lamps)) or "all burn"
