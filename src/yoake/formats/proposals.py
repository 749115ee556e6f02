"""Proposed edits as text that is kept: files whole, steps without their texts, which are made again when they are committed."""

from __future__ import annotations

import json
from base64 import b64decode, b64encode
from collections.abc import Mapping
from typing import Any, cast

from yoake.core.values.edits import EditedFile, EditStep, Outcome, Proposal
from yoake.core.values.errors import BadRecords


def write_proposal(proposal: Proposal) -> str:
    """A proposal as JSON text."""
    body = {
        "identity": proposal.identity,
        "label": proposal.label,
        "steps": [
            {
                "key": s.key,
                "old": s.old,
                "new": s.new,
                "message": s.message,
                "safe": s.safe,
                "places": s.places,
                "files": sorted(s.files),
            }
            for s in proposal.steps
        ],
        "files": [
            {
                "path": f.path,
                "outcome": f.outcome,
                "why": f.why,
                "keys": list(f.keys),
                "hand": dict(f.hand),
                "before": b64encode(f.before).decode(),
                "after": b64encode(f.after).decode(),
            }
            for f in proposal.files
        ],
        "by_hand": {key: list(said) for key, said in proposal.by_hand.items()},
    }
    return json.dumps(body, ensure_ascii=False)


def read_proposal(text: str) -> Proposal:
    """The proposal of a JSON text; its steps name their files and hold no texts. Raises BadRecords when it is none."""
    try:
        body = json.loads(text)
        steps = tuple(
            EditStep(
                key=s["key"],
                old=s["old"],
                new=s["new"],
                message=s["message"],
                safe=s["safe"],
                places=s["places"],
                files=dict.fromkeys(s["files"], b""),
            )
            for s in body["steps"]
        )
        files = tuple(map(_file, body["files"]))
        by_hand = {key: (said[0], said[1]) for key, said in body["by_hand"].items()}
        return Proposal(body["identity"], body["label"], steps, files, by_hand)
    except (ValueError, KeyError, TypeError, IndexError) as error:
        raise BadRecords(f"Stored edits cannot be read ({error!r}). Ask for them again.") from error


def _file(row: Mapping[str, Any]) -> EditedFile:
    before, after = (b64decode(row[name]) for name in ("before", "after"))
    return EditedFile(
        path=row["path"],
        outcome=cast(Outcome, row["outcome"]),
        why=row["why"],
        keys=tuple(row["keys"]),
        hand=row["hand"],
        before=before,
        after=after,
    )
