"""OpenAPI 3 documents → routes."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any, Final
from urllib.parse import urlsplit

from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from yoake.core.values.routes import Route, joined, rooted

_METHODS: Final = ("get", "post", "put", "patch", "delete", "head", "options", "trace")
_LARGEST: Final = 20_000_000  # bytes


class NotAnApiDocument(ValueError):
    """The text is no OpenAPI 3 document; the message says why."""


def read_openapi(text: bytes, name: str = "") -> tuple[Route, ...]:
    """The routes of a document in JSON or YAML. Raises NotAnApiDocument."""
    body = _parsed(text)
    version = str(body.get("openapi", ""))
    if not version.startswith("3."):
        said = f"says swagger {body['swagger']}" if "swagger" in body else "has no “openapi: 3.…” at its top"
        raise NotAnApiDocument(f"{name or 'the document'} {said}; an OpenAPI 3 document is needed")
    paths = body.get("paths")
    if not isinstance(paths, dict):
        raise NotAnApiDocument(f"{name or 'the document'} has no “paths”")
    return tuple(_routes(paths, _prefix(body), name))


def _parsed(text: bytes) -> dict[str, Any]:
    if len(text) > _LARGEST:
        raise NotAnApiDocument("the document is larger than 20 MB")
    try:
        body = json.loads(text)
    except (ValueError, RecursionError):
        try:
            body = YAML(typ="rt").load(text.decode("utf-8-sig", "replace"))
        except (YAMLError, RecursionError, ValueError, TypeError) as error:
            raise NotAnApiDocument(f"neither JSON nor YAML: {str(error).splitlines()[0]}") from error
    if not isinstance(body, dict):
        raise NotAnApiDocument("the document holds no object at its top")
    return body


def _prefix(body: dict[str, Any]) -> str:
    servers = body.get("servers")
    first = servers[0] if isinstance(servers, list) and servers else None
    url = first.get("url") if isinstance(first, dict) else None
    if not isinstance(url, str):
        return ""
    try:
        return urlsplit(url).path.rstrip("/") if "{" not in url else ""
    except ValueError:
        return ""


def _routes(paths: dict[str, Any], prefix: str, name: str) -> Iterator[Route]:
    for path, item in paths.items():
        if not isinstance(path, str) or not isinstance(item, dict):
            continue
        for method in _METHODS:
            operation = item.get(method)
            if isinstance(operation, dict):
                handler = operation.get("operationId")
                yield Route(
                    method=method.upper(),
                    path=joined(prefix, path) if prefix else rooted(path),
                    handler=handler if isinstance(handler, str) else "",
                    file=name,
                    line=_line(item, method),
                    framework="openapi",
                    source="document",
                )


def _line(item: Any, method: str) -> int:
    where = getattr(item, "lc", None)
    if where is None:
        return 0
    try:
        return int(where.key(method)[0]) + 1
    except (KeyError, TypeError):
        return 0
