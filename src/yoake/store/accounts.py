"""Accounts, sessions, tokens and the link of the first start. Secrets come and stay as digests."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from yoake.store.database import Database, Row


def count_accounts(db: Database) -> int:
    """How many accounts there are, those that were disabled too."""
    row = db.one("SELECT count(*) AS n FROM accounts")
    return int(row["n"]) if row is not None else 0


def list_accounts(db: Database) -> list[Row]:
    """All accounts by name."""
    return db.all(
        "SELECT id, name, role, password IS NOT NULL AS has_password, subject, made_at, disabled_at, version FROM accounts ORDER BY name"
    )


def account_by_name(db: Database, name: str) -> Row | None:
    """The account of that name, in any case of letters."""
    return db.one("SELECT * FROM accounts WHERE name = :name", {"name": name})


def account_by_number(db: Database, number: int) -> Row | None:
    """One account."""
    return db.one("SELECT * FROM accounts WHERE id = :id", {"id": number})


def account_by_subject(db: Database, subject: str) -> Row | None:
    """The account that an identity provider knows by this name."""
    return db.one("SELECT * FROM accounts WHERE subject = :subject", {"subject": subject})


def add_account(connection: sqlite3.Connection, values: Mapping[str, Any]) -> int:
    """Add an account (name, role, password, subject, at); returns its number."""
    cursor = connection.execute(
        "INSERT INTO accounts (name, role, password, subject, made_at) VALUES (:name, :role, :password, :subject, :at)",
        values,
    )
    return int(cursor.lastrowid or 0)


def change_account(connection: sqlite3.Connection, number: int, values: Mapping[str, Any]) -> None:
    """Set role, password and whether it is disabled; its sessions end where it is."""
    connection.execute(
        "UPDATE accounts SET role = :role, password = :password, disabled_at = :disabled_at, version = version + 1 WHERE id = :id",
        {**values, "id": number},
    )
    if values["disabled_at"] is not None:
        connection.execute("DELETE FROM sessions WHERE account_id = :id", {"id": number})


def count_admins(db: Database, but: int) -> int:
    """Administrators who can sign in, one account left out."""
    row = db.one(
        "SELECT count(*) AS n FROM accounts WHERE role = 'admin' AND disabled_at IS NULL AND id <> :but", {"but": but}
    )
    return int(row["n"]) if row is not None else 0


def add_session(
    connection: sqlite3.Connection, digest: str, account_id: int, at: str, ends_at: str, agent: str
) -> None:
    """Somebody signed in; sessions that ended are dropped."""
    connection.execute("DELETE FROM sessions WHERE ends_at < :at", {"at": at})
    connection.execute(
        "INSERT INTO sessions VALUES (:digest, :account, :at, :ends, :agent)",
        {"digest": digest, "account": account_id, "at": at, "ends": ends_at, "agent": agent},
    )


def drop_session(connection: sqlite3.Connection, digest: str) -> None:
    """Somebody signed out."""
    connection.execute("DELETE FROM sessions WHERE digest = :digest", {"digest": digest})


def drop_sessions_of(connection: sqlite3.Connection, account_id: int) -> None:
    """Sign an account out everywhere."""
    connection.execute("DELETE FROM sessions WHERE account_id = :id", {"id": account_id})


def session_account(db: Database, digest: str, at: str) -> Row | None:
    """The account of a session that has not ended."""
    return db.one(
        "SELECT a.* FROM sessions s JOIN accounts a ON a.id = s.account_id "
        "WHERE s.digest = :digest AND s.ends_at >= :at AND a.disabled_at IS NULL",
        {"digest": digest, "at": at},
    )


def add_token(connection: sqlite3.Connection, values: Mapping[str, Any]) -> int:
    """Add a token (name, account, digest, scope, at, ends_at); returns its number."""
    cursor = connection.execute(
        "INSERT INTO tokens (name, account_id, digest, scope, made_at, ends_at) VALUES (:name, :account, :digest, :scope, :at, :ends_at)",
        values,
    )
    return int(cursor.lastrowid or 0)


def list_tokens(db: Database, account_id: int | None = None) -> list[Row]:
    """Tokens of an account, or of all, newest first."""
    return db.all(
        "SELECT t.id, t.name, t.scope, t.made_at, t.ends_at, t.revoked_at, t.account_id, a.name AS account FROM tokens t "
        "JOIN accounts a ON a.id = t.account_id WHERE :id IS NULL OR a.id = :id ORDER BY t.id DESC",
        {"id": account_id},
    )


def revoke_token(connection: sqlite3.Connection, number: int, at: str) -> None:
    """A token is good for nothing from now on."""
    connection.execute(
        "UPDATE tokens SET revoked_at = coalesce(revoked_at, :at) WHERE id = :id", {"id": number, "at": at}
    )


def token_account(db: Database, digest: str, at: str) -> Row | None:
    """The account of a token that is good, with the token's ``scope`` and ``token`` name."""
    return db.one(
        "SELECT a.*, t.scope, t.name AS token FROM tokens t JOIN accounts a ON a.id = t.account_id "
        "WHERE t.digest = :digest AND t.ends_at >= :at AND t.revoked_at IS NULL AND a.disabled_at IS NULL",
        {"digest": digest, "at": at},
    )


def put_first_link(connection: sqlite3.Connection, digest: str, ends_at: str) -> None:
    """The link with which the first account is made; an earlier one is good no more."""
    connection.execute("DELETE FROM first_links")
    connection.execute("INSERT INTO first_links VALUES (:digest, :ends)", {"digest": digest, "ends": ends_at})


def use_first_link(connection: sqlite3.Connection, digest: str, at: str) -> bool:
    """Use the link up; False when it is not good."""
    cursor = connection.execute(
        "DELETE FROM first_links WHERE digest = :digest AND ends_at >= :at", {"digest": digest, "at": at}
    )
    return cursor.rowcount == 1
