"""Descriptions of an interface are routes; what is none says why."""

from __future__ import annotations

import pytest

from yoake.formats.openapi import NotAnApiDocument, read_openapi

YAML = b"""openapi: 3.0.3
servers:
  - url: https://ferry.example/v2/
paths:
  /boats/{id}:
    parameters: []
    get:
      operationId: oneBoat
    delete: {}
  x-note: nothing
"""


def test_paths_stand_below_the_first_server_and_have_lines() -> None:
    found = read_openapi(YAML, "api.yaml")
    assert [(r.method, r.path, r.handler, r.line) for r in found] == [
        ("GET", "/v2/boats/{id}", "oneBoat", 7),
        ("DELETE", "/v2/boats/{id}", "", 9),
    ]


def test_json_is_read_too() -> None:
    assert read_openapi(b'{"openapi": "3.1.0", "paths": {"/a": {"post": {}}}}')[0].name == "POST /a"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (b'{"swagger": "2.0", "paths": {}}', "swagger 2.0"),
        (b"[1]", "no object"),
        (b"openapi: 3.0.0", "no “paths”"),
        (b"a: [", "neither JSON nor YAML"),
        (b"{" * 100_000, "neither JSON nor YAML"),
        (b"&a [*a, *a]", "no object"),
    ],
)
def test_what_is_no_description_says_why(text: bytes, said: str) -> None:
    with pytest.raises(NotAnApiDocument, match=said):
        read_openapi(text)
