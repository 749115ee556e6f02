"""YAML text of knowledge files → validated models, all faults told at once."""

from __future__ import annotations

from importlib import import_module
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from yoake.core.values.errors import BadKnowledge

M = TypeVar("M", bound=BaseModel)


def parse_yaml(text: str, model: type[M], name: str) -> M:
    """Read one knowledge file. Raises BadKnowledge naming the file and every fault in it."""
    return check_model(parse_plain(text, name), model, name)


def parse_plain(text: str, name: str) -> object:
    """A YAML text as plain data. Raises BadKnowledge."""
    yaml = import_module("ruamel.yaml")  # imported by who parses: most starts find everything parsed already
    try:
        return yaml.YAML(typ="safe", pure=True).load(text)
    except yaml.error.YAMLError as error:
        raise BadKnowledge(f"{name} is not valid YAML: {error}") from error


def check_model(body: object, model: type[M], name: str) -> M:
    """Plain data as a model. Raises BadKnowledge naming the file and every fault in it."""
    try:
        return model.model_validate(body)
    except ValidationError as error:
        faults = tuple(f"{name}: {'.'.join(map(str, e['loc']))}: {e['msg']}" for e in error.errors())
        raise BadKnowledge(f"{name} breaks its format: {faults[0]}", faults) from error
