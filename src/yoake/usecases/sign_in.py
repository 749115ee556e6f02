"""Who somebody is and what they may do: passwords, sessions, tokens, and the link of the first start."""

from __future__ import annotations

import hashlib
import secrets
from collections import deque
from dataclasses import dataclass, field
from datetime import timedelta
from enum import StrEnum
from typing import Final

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from yoake.context.context import Context
from yoake.core.values.errors import BadInput, Conflict, NotFound, NotSignedIn
from yoake.store.accounts import (
    account_by_name,
    account_by_number,
    account_by_subject,
    add_account,
    add_session,
    add_token,
    change_account,
    count_accounts,
    count_admins,
    drop_session,
    drop_sessions_of,
    list_tokens,
    put_first_link,
    revoke_token,
    session_account,
    token_account,
    use_first_link,
)
from yoake.store.database import Connection, Row
from yoake.store.events import Event, add_event
from yoake.usecases.collisions import expect

SESSION_DAYS: Final = 14
FIRST_LINK_MINUTES: Final = 60
LEAST_PASSWORD: Final = 10
_TRIES, _TRIES_IN = 8, 300.0  # failed attempts under one name, within so many seconds
_HASHER: Final = PasswordHasher()
_NOBODY: Final = _HASHER.hash(
    secrets.token_hex(8)
)  # hashed against when there is no such account, so that it takes as long


class Role(StrEnum):
    """What somebody may do; each may do what those before it may."""

    READER = "reader"
    MEMBER = "member"
    LEAD = "lead"
    ADMIN = "admin"

    def includes(self, other: Role) -> bool:
        """Whether this role may do what ``other`` may."""
        order = list(Role)
        return order.index(self) >= order.index(other)


class Scope(StrEnum):
    """What a token may be used for, within its owner's role."""

    READ = "read"
    SCAN = "scan"
    WRITE = "write"


@dataclass(frozen=True, slots=True)
class Person:
    """Who asks: a name for events, a role, and the scope of a token (None for a person). ``number``: 0 where all is open."""

    name: str
    role: Role
    number: int = 0
    scope: Scope | None = None


@dataclass
class Attempts:
    """Failed attempts to sign in, by name, of the last minutes. In memory: a start forgives."""

    failed: dict[str, deque[float]] = field(default_factory=dict)

    def check(self, name: str, now: float) -> None:
        """Raises Conflict when there were too many."""
        held = self.failed.setdefault(name.lower(), deque())
        while held and now - held[0] > _TRIES_IN:
            held.popleft()
        if len(held) >= _TRIES:
            raise Conflict(
                f"Too many failed attempts for this name. Wait {_TRIES_IN / 60:.0f} minutes, then try again."
            )

    def fail(self, name: str, now: float) -> None:
        """Count a failure."""
        if len(self.failed) > 10_000:
            self.failed.clear()
        self.failed.setdefault(name.lower(), deque()).append(now)


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode("utf-8", "replace")).hexdigest()


def _later(context: Context, **more: float) -> str:
    return (context.clock() + timedelta(**more)).isoformat(timespec="seconds")


def first_link(context: Context) -> str:
    """The secret with which the first account is made, good for an hour and once; empty when there are accounts."""
    if count_accounts(context.db):
        return ""
    secret = secrets.token_urlsafe(24)
    with context.db.write() as connection:
        put_first_link(connection, _digest(secret), _later(context, minutes=FIRST_LINK_MINUTES))
    return secret


def make_first_account(context: Context, secret: str, name: str, password: str) -> int:
    """The administrator, by the link that was printed at the first start. Raises NotSignedIn and BadInput."""
    hashed = _hashed(password)
    with context.db.write() as connection:
        if not use_first_link(connection, _digest(secret), context.stamp):
            raise NotSignedIn(
                "This link was used, or its hour is over. Start Yoake again: it prints a new one until there is an account."
            )
        number = add_account(
            connection,
            {"name": _name(name), "role": Role.ADMIN, "password": hashed, "subject": None, "at": context.stamp},
        )
        _told(context, connection, name, f"account {name}", "made", after="admin")
    return number


def _name(name: str) -> str:
    shown = name.strip()
    if not shown or len(shown) > 80:
        raise BadInput("A name has 1 to 80 characters.")
    return shown


def _hashed(password: str) -> str:
    if not LEAST_PASSWORD <= len(password) <= 1000:
        raise BadInput(
            f"A password has at least {LEAST_PASSWORD} characters. Several words are easier to keep than signs."
        )
    return _HASHER.hash(password)


def sign_in(context: Context, name: str, password: str, agent: str, attempts: Attempts) -> str:
    """The secret of a new session. Raises NotSignedIn, and Conflict after too many failures."""
    now = context.clock().timestamp()
    attempts.check(name, now)
    account = account_by_name(context.db, name.strip())
    hashed = account["password"] if account is not None and account["password"] else _NOBODY
    try:
        _HASHER.verify(hashed, password)
        good = account is not None and account["disabled_at"] is None and bool(account["password"])
    except (Argon2Error, InvalidHashError):
        good = False
    if not good or account is None:
        attempts.fail(name, now)
        raise NotSignedIn("Name or password is wrong.")
    return begin_session(context, account["id"], agent)


def begin_session(context: Context, account_id: int, agent: str) -> str:
    """The secret of a new session of an account."""
    secret = secrets.token_urlsafe(32)
    with context.db.write(counts=False) as connection:
        add_session(
            connection, _digest(secret), account_id, context.stamp, _later(context, days=SESSION_DAYS), agent[:200]
        )
    return secret


def sign_out(context: Context, secret: str) -> None:
    """End a session."""
    with context.db.write(counts=False) as connection:
        drop_session(connection, _digest(secret))


def person_of_session(context: Context, secret: str) -> Person | None:
    """Who has a session."""
    row = session_account(context.db, _digest(secret), context.stamp)
    return _person(row) if row is not None else None


def person_of_token(context: Context, secret: str) -> Person | None:
    """Whose program has a token."""
    row = token_account(context.db, _digest(secret), context.stamp)
    return (
        Person(f"{row['name']} ({row['token']})", Role(row["role"]), row["id"], Scope(row["scope"]))
        if row is not None
        else None
    )


def _person(row: Row) -> Person:
    return Person(row["name"], Role(row["role"]), row["id"])


def person_of_subject(context: Context, subject: str, name: str, role: Role) -> int:
    """The account of somebody whom an identity provider vouches for; made at the first sign-in. Raises NotSignedIn."""
    row = account_by_subject(context.db, subject)
    if row is not None:
        if row["disabled_at"] is not None:
            raise NotSignedIn("This account is disabled. Ask an administrator.")
        return int(row["id"])
    shown, number = _name(name[:80] or "someone"), 1
    while account_by_name(context.db, shown) is not None:
        number += 1
        shown = f"{_name(name[:70] or 'someone')} {number}"
    with context.db.write() as connection:
        made = add_account(
            connection, {"name": shown, "role": role, "password": None, "subject": subject, "at": context.stamp}
        )
        _told(context, connection, shown, f"account {shown}", "made by the identity provider", after=role)
    return made


def make_account(context: Context, name: str, role: Role, password: str, who: str) -> int:
    """A new account. Raises BadInput, and Conflict for a name that is taken."""
    if account_by_name(context.db, name.strip()) is not None:
        raise Conflict(f"There is an account “{name.strip()}” already.")
    values = {"name": _name(name), "role": role, "password": _hashed(password), "subject": None, "at": context.stamp}
    with context.db.write() as connection:
        number = add_account(connection, values)
        _told(context, connection, who, f"account {name.strip()}", "made", after=role)
    return number


def change_person(
    context: Context,
    number: int,
    who: str,
    *,
    role: Role | None = None,
    password: str | None = None,
    disabled: bool | None = None,
    version: int | None = None,
) -> None:
    """Change an account's role, password or whether it may sign in.

    Raises NotFound, Conflict for the last administrator, and Outdated when the account is not at ``version`` any more.
    """
    with context.db.write():  # what is decided here is decided on what stands there
        row = account_by_number(context.db, number)
        if row is None:
            raise NotFound(f"There is no account {number}.")
        held = account_view(row)
        expect(version, held.version, f"the account {held.name}", held)
        _change_account(context, row, who, role, password, disabled)


def _change_account(
    context: Context, row: Row, who: str, role: Role | None, password: str | None, disabled: bool | None
) -> None:
    number = row["id"]
    leaves = row["role"] == Role.ADMIN and ((role is not None and role is not Role.ADMIN) or disabled)
    if leaves and not count_admins(context.db, number):
        raise Conflict("This is the only administrator; make another one first.")
    gone = row["disabled_at"] if disabled is None else (context.stamp if disabled else None)
    values = {
        "role": role or row["role"],
        "password": _hashed(password) if password is not None else row["password"],
        "disabled_at": gone,
    }
    with context.db.write() as connection:
        change_account(connection, number, values)
        if password is not None:
            drop_sessions_of(connection, number)
        if role is not None and role != row["role"]:
            _told(
                context=context,
                connection=connection,
                who=who,
                subject=f"account {row['name']}",
                what="role",
                before=row["role"],
                after=role,
            )
        if password is not None:
            _told(context, connection, who, f"account {row['name']}", "password")
        if disabled is not None and bool(row["disabled_at"]) != disabled:
            _told(context, connection, who, f"account {row['name']}", "disabled" if disabled else "enabled")


@dataclass(frozen=True, slots=True, kw_only=True)
class AccountView:
    """An account. ``by``: how it signs in; ``version``: for who changes it."""

    id: int
    name: str
    role: str
    by: str
    made_at: str
    disabled: bool
    version: int


def account_view(row: Row) -> AccountView:
    """A stored account."""
    by = "identity provider" if row["subject"] else "password"
    gone = row["disabled_at"] is not None
    return AccountView(
        id=row["id"],
        name=row["name"],
        role=row["role"],
        by=by,
        made_at=row["made_at"],
        disabled=gone,
        version=row["version"],
    )


def make_token(context: Context, person: Person, name: str, scope: Scope, days: int) -> tuple[int, str]:
    """(number, secret) of a new token; the secret is shown this once. Raises BadInput, and Conflict where all is open."""
    if not person.number:
        raise Conflict(
            "Nobody has to sign in here, so a token would belong to nobody and open nothing. Start Yoake with --sign-in first."
        )
    secret = f"yoake_{secrets.token_urlsafe(32)}"
    with context.db.write() as connection:
        values = {
            "name": _name(name),
            "account": person.number,
            "digest": _digest(secret),
            "scope": scope,
            "at": context.stamp,
            "ends_at": _later(context, days=days),
        }
        number = add_token(connection, values)
        _told(context, connection, person.name, f"token {name.strip()}", "made", after=f"{scope}, {days} days")
    return number, secret


def end_token(context: Context, person: Person, number: int) -> None:
    """Revoke a token of one's own, an administrator any. Raises NotFound."""
    own = None if person.role is Role.ADMIN else person.number
    row = next((t for t in list_tokens(context.db, own) if t["id"] == number), None)
    if row is None:
        raise NotFound(f"There is no token {number} of yours.")
    with context.db.write() as connection:
        revoke_token(connection, number, context.stamp)
        _told(context, connection, person.name, f"token {row['name']}", "revoked")


def _told(
    context: Context,
    connection: Connection,
    who: str,
    subject: str,
    what: str,
    before: str | None = None,
    after: str | None = None,
) -> None:
    add_event(connection, Event(at=context.stamp, who=who, subject=subject, what=what, before=before, after=after))
