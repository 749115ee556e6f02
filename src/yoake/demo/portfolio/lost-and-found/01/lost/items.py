"""What was found and where."""
import uu
from dataclasses import dataclass
from pathlib import Path


@dataclass
class Item:
    what: str
    where: str


def label(item):
    return f"{item.what} ({item.where})"


def attach(source, target):
    uu.encode(str(Path(source)), str(Path(target)))
