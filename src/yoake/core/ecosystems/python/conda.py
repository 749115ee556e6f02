"""Environment files of Conda: the Python that they name, and what pip installs there. Conda's own packages are told, not judged:
they are built elsewhere, under names of their own."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError
from ruamel.yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.requirements import parse_requirement
from yoake.core.values.modules import Fault, Module, Pin

_MAX: Final = 100_000  # characters; what is written by hand has a hundredth of it
_ENTRY: Final = re.compile(r"(?:[\w.-]+::)?(?P<name>[\w.-]+)\s*(?P<wanted>.*)$")
_EXACT: Final = re.compile(r"={1,2}\s*(?P<version>\d+(?:\.\d+)*)(?:\.\*)?(?:=\S*)?$")
"""``=3.8``, ``==3.8.1``, ``=3.8=build``: Conda takes the first for any 3.8."""


def read_environment(path: str, content: str, module: Module) -> bool:
    """One environment file into its module. False where it is none: other tools have files of this name."""
    if len(content) > _MAX:
        module.faults.append(Fault(path, f"not read: longer than {_MAX} characters"))
        return False
    try:
        listed = _under(YAML(pure=True).compose(content), "dependencies")
    except YAMLError as error:
        module.faults.append(Fault(path, f"not valid YAML: {error}"))
        return False
    if not isinstance(listed, SequenceNode):
        return False
    own = 0
    for entry in listed.value:
        found = _ENTRY.match(entry.value.strip()) if isinstance(entry, ScalarNode) else None
        if found is None:
            _from_pip(_under(entry, "pip"), path, module)
        elif found["name"].lower() == "python":
            module.pins.extend(_pins(found["wanted"].strip(), path, _line(entry)))
        elif found["name"].lower() != "pip":
            own += 1
    if own:
        counted = "1 package of Conda is" if own == 1 else f"{own} packages of Conda are"
        module.faults.append(Fault(path, f"{counted} not looked at, only what pip installs"))
    return True


def _under(node: Node | None, key: str) -> Node | None:
    """What stands under a key of a mapping."""
    rows = node.value if isinstance(node, MappingNode) else ()
    return next((value for name, value in rows if isinstance(name, ScalarNode) and name.value == key), None)


def _line(node: Node) -> int:
    return int(node.start_mark.line) + 1


def _pins(wanted: str, path: str, line: int) -> Iterator[Pin]:
    exact = _EXACT.match(wanted)
    if exact is not None:
        yield Pin(coordinate=PYTHON, version=exact["version"], file=path, line=line, how="pin", text=f"python{wanted}")
    elif wanted and "|" not in wanted:  # one of several, which no range of packages can say
        yield Pin(coordinate=PYTHON, version=wanted, file=path, line=line, how="range", text=f"python{wanted}")


def _from_pip(listed: Node | None, path: str, module: Module) -> None:
    for entry in listed.value if isinstance(listed, SequenceNode) else ():
        found = parse_requirement(entry.value, path, _line(entry)) if isinstance(entry, ScalarNode) else None
        if found is not None:
            module.requirements.append(found)
