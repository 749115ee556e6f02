"""A digest as text, as a page, as a feed (Atom, RFC 4287) and as a mail (RFC 5322)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from email.message import EmailMessage
from email.utils import format_datetime
from html import escape
from typing import Protocol
from xml.sax.saxutils import escape as xml_escape


class Line(Protocol):
    """One thing to know."""

    @property
    def text(self) -> str: ...


class Part(Protocol):
    """Lines under a title."""

    @property
    def title(self) -> str: ...
    @property
    def lines(self) -> Sequence[Line]: ...
    @property
    def more(self) -> int: ...


class DigestText(Protocol):
    """What a digest has to say."""

    @property
    def heading(self) -> str: ...
    @property
    def plan(self) -> str: ...
    @property
    def parts(self) -> Sequence[Part]: ...


def digest_text(digest: DigestText, period: str) -> str:
    """The digest as plain text."""
    lines = [digest.heading, period, "", digest.plan]
    for part in digest.parts:
        lines += ["", part.title, *(f"  {line.text}" for line in part.lines)]
        if part.more:
            lines.append(f"  and {part.more} more")
    return "\n".join(lines) + "\n"


_STYLE = (
    "body{margin:0 auto;padding:28px;max-width:760px;color:#1d1f33;background:#fbf8f0;font:15px/1.5 'Atkinson Hyperlegible Next',"
    "system-ui,sans-serif}h1{font-size:24px;margin:0 0 4px}h2{font-size:16px;margin:22px 0 4px}ul{margin:0;padding-left:18px}"
    ".quiet{color:#55586e}"
)


def digest_page(digest: DigestText, period: str) -> str:
    """The digest as one page that loads nothing."""
    parts = "".join(_part(part) for part in digest.parts)
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(digest.heading)}</title><style>{_STYLE}</style></head><body>'
        f'<h1>{escape(digest.heading)}</h1><p class="quiet">{escape(period)} · made by Yoake</p>'
        f"<p>{escape(digest.plan)}</p>{parts}</body></html>\n"
    )


def _part(part: Part) -> str:
    lines = "".join(f"<li>{escape(line.text)}</li>" for line in part.lines)
    more = f'<li class="quiet">and {part.more} more</li>' if part.more else ""
    return f"<h2>{escape(part.title)}</h2><ul>{lines}{more}</ul>"


def atom_feed(entries: Iterable[tuple[str, str, str, datetime]], address: str, updated: datetime) -> str:
    """A feed of (id, title, text, when) at an address."""
    rows = "".join(
        f"<entry><id>{xml_escape(key)}</id><title>{xml_escape(title)}</title><updated>{at.isoformat(timespec='seconds')}</updated>"
        f'<content type="text">{xml_escape(text)}</content></entry>'
        for key, title, text, at in entries
    )
    return (
        '<?xml version="1.0" encoding="utf-8"?>\n<feed xmlns="http://www.w3.org/2005/Atom">'
        f"<id>{xml_escape(address)}</id><title>Yoake</title><author><name>Yoake</name></author>"
        f"<updated>{updated.isoformat(timespec='seconds')}</updated>{rows}</feed>\n"
    )


def digest_mail(digest: DigestText, period: str, sender: str, to: Sequence[str], at: datetime) -> EmailMessage:
    """The digest as a mail with a plain and a formatted part."""
    message = EmailMessage()
    message["Subject"] = f"Yoake: {digest.heading}"[:200]
    message["From"] = sender
    message["To"] = ", ".join(to)
    message["Date"] = format_datetime(at)
    message.set_content(digest_text(digest, period))
    message.add_alternative(digest_page(digest, period), subtype="html")
    return message
