"""A week at work, asked of the server one request after another: every answer is what somebody read (``make expected``)."""

from __future__ import annotations

import json
from pathlib import Path
from urllib.parse import quote

from ruamel.yaml import YAML
from starlette.testclient import TestClient

from tests.conftest import write
from tests.expected import ASKED, differing_block, timeless, written
from tests.server.conftest import settled, take

FILES = {
    "desk": {
        ".python-version": "3.8\n",
        "requirements.txt": "Django==3.2.25\n",
        "desk/a.py": "import imp\nimport asyncore\nfrom collections import Mapping\nfrom django.conf.urls import url\n",
        "desk/b.py": "from asyncio import coroutine\n",
    },
    "shop": {
        ".python-version": "3.9\n",
        "requirements.txt": "flask==1.1.4\n",
        "shop.py": 'import cgi\nfrom flask import Flask\napp = Flask(__name__, static_folder=None)\n\n\ndef fare():\n    return cgi\n\n\n@app.get("/fares")\ndef fares():\n    return fare()\n\n\n@app.post("/tickets")\ndef sell():\n    return fare()\n',
    },
    "front": {
        ".nvmrc": "16\n",
        "package.json": '{"name": "front"}',
        "a.js": "new Buffer(3);\nrequire('crypto').createCipher('a', 'b');\n",
    },
}
TO = {"desk": "python@3.13, pypi/django@5.2", "shop": "python@3.13", "front": "node@24"}


def keys(client: TestClient) -> dict[str, str]:
    """What stands between dollars: findings of the desk by the first word of their title, stages by application and number."""
    rows = client.get("/api/v1/applications/desk/findings").json()["rows"]
    found = {row["title"].partition(" ")[0]: row["key"] for row in rows}
    bars = [bar for team in client.get("/api/v1/waves").json()["teams"] for bar in team["stages"]]
    return found | {f"{bar['name']} {bar['number']}": bar["key"] for bar in bars}


def filled(line: str, client: TestClient) -> tuple[str, str, object]:
    """Method, path and body of a request, with keys for the names between dollars."""
    known = keys(client) if "$" in line else {}
    asked, brace, body = line.partition(" {")
    method, _, path = asked.partition(" ")
    for name, key in known.items():
        path, body = path.replace(f"${name}$", quote(key)), body.replace(f"${name}$", json.dumps(key))
    return method, f"/api/v1/{path}", YAML(typ="safe").load("{" + body) if brace else None


def test_a_week_at_work_is_answered_as_it_was(pinned: TestClient, tmp_path: Path) -> None:
    for name, files in FILES.items():
        take(pinned, write(tmp_path / name, files), TO[name])
    wrong = []
    for number, line in enumerate(ASKED.read_text("utf-8").splitlines()[1:], 1):
        method, path, body = filled(line, pinned)
        answer = pinned.request(method, path, json=body)
        settled(pinned)
        text = answer.text.replace(str(tmp_path), "HERE").replace("\r\n", "\n")
        if text and answer.headers.get("content-type", "").startswith("application/json"):
            text = written(json.loads(text, object_hook=timeless))
        told = [str(answer.status_code), *text.rstrip("\n").split("\n")]
        wrong.append(differing_block("week", f"{number:03} {line}", told))
    assert not any(wrong), "\n".join(filter(None, wrong))
