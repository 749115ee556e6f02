"""YAML text of knowledge files → validated models, all faults told at once."""

from __future__ import annotations

from typing import TypeVar

from pydantic import BaseModel, ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from yoake.core.errors import BadKnowledge

M = TypeVar("M", bound=BaseModel)


def parse_yaml(text: str, model: type[M], name: str) -> M:
    """Read one knowledge file. Raises BadKnowledge naming the file and every fault in it."""
    try:
        body = YAML(typ="safe", pure=True).load(text)
    except YAMLError as error:
        raise BadKnowledge(f"{name} is not valid YAML: {error}") from error
    try:
        return model.model_validate(body)
    except ValidationError as error:
        faults = tuple(f"{name}: {'.'.join(map(str, e['loc']))}: {e['msg']}" for e in error.errors())
        raise BadKnowledge(f"{name} breaks its format: {faults[0]}", faults) from error
