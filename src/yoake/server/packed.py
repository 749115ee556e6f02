"""Answers that are packed already: sent as they are to whoever takes gzip, unpacked for the others."""

from __future__ import annotations

import gzip
import hashlib

from fastapi import Request, Response


def packed(request: Request, body: bytes, media: str, headers: dict[str, str] | None = None) -> Response:
    """A gzip body as an answer, or that nothing has changed since the client last asked."""
    tag = f'"{hashlib.sha256(body).hexdigest()[:24]}"'
    more = {"ETag": tag, "Cache-Control": "private, no-cache", "Vary": "Accept-Encoding", **(headers or {})}
    if tag in request.headers.get("if-none-match", ""):
        return Response(status_code=304, headers=more)
    if "gzip" in request.headers.get("accept-encoding", ""):
        return Response(body, media_type=media, headers={**more, "Content-Encoding": "gzip"})
    return Response(gzip.decompress(body), media_type=media, headers=more)
