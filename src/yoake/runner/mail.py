"""Mail: through a server that is configured, or as a file."""

from __future__ import annotations

import smtplib
import ssl
from dataclasses import dataclass
from email.message import EmailMessage
from pathlib import Path
from typing import Final

from yoake.core.values.errors import BadInput, Conflict
from yoake.runner.answers import write_whole

_SECONDS: Final = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MailServer:
    """Where mail is handed over, and who it is from. ``secure``: the connection is turned to TLS first (STARTTLS)."""

    host: str
    port: int
    sender: str
    secure: bool = True
    user: str = ""
    password: str = ""


def read_mail_server(address: str, sender: str, user: str = "", password: str = "") -> MailServer | None:
    """``host:port``, with ``plain:`` before it where there is no TLS; None for no address. Raises BadInput."""
    if not address:
        return None
    secure = not address.startswith("plain:")
    host, _, port = address.removeprefix("plain:").rpartition(":")
    if not host or not port.isdigit() or not 0 < int(port) < 65_536:
        raise BadInput(f"“{address}” is no mail server: write it as host:port.")
    if "@" not in sender:
        raise BadInput("Say who mail is from: an address with an @.")
    return MailServer(host=host, port=int(port), sender=sender, secure=secure, user=user, password=password)


def send_mail(server: MailServer, message: EmailMessage) -> None:
    """Hand a mail over. Raises Conflict where the server does not take it."""
    try:
        with smtplib.SMTP(server.host, server.port, timeout=_SECONDS) as connection:
            if server.secure:
                connection.starttls(context=ssl.create_default_context())
            if server.user:
                connection.login(server.user, server.password)
            connection.send_message(message)
    except (OSError, smtplib.SMTPException) as error:
        raise Conflict(f"The mail server {server.host}:{server.port} did not take the digest: {error}") from error


def write_mail(folder: Path, name: str, message: EmailMessage) -> Path:
    """Keep a mail as a file; returns where."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{name}.eml"
    write_whole(path, message.as_string())
    return path
