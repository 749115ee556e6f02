"""Who may do what: passwords, sessions, roles, tokens, an outside identity provider, and the record of it all."""

from __future__ import annotations

import base64
import csv
import hashlib
import io
import json
import secrets
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import pytest
from fastapi import FastAPI
from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey
from starlette.testclient import TestClient

from tests.conftest import write
from tests.executors import LentExecutor
from tests.server.conftest import HERE, findings, settled, steps
from yoake.cli.serving import PARTS
from yoake.context.context import Context, open_context
from yoake.core.values.errors import BadInput
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.server.identity import IdentityProvider, read_provider
from yoake.server.people import SignIn, needed_role
from yoake.server.serve import run_server
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue
from yoake.usecases.sign_in import Role, first_link

PASSWORD = "nine tides and a half"


@pytest.fixture
def context(home: Home) -> Context:
    return open_context(home, KIT)


@pytest.fixture
def app(context: Context) -> FastAPI:
    return create_app(
        context, Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor()), HERE, SignIn(required=True)
    )


@pytest.fixture
def admin(app: FastAPI, context: Context) -> Iterator[TestClient]:
    """The first account, made by the link that a first start prints."""
    with TestClient(app) as client:
        token = first_link(context)
        made = client.post("/api/v1/session/first", json={"token": token, "name": "Ines", "password": PASSWORD})
        assert made.status_code == 204
        yield client


def signed_in(admin: TestClient, name: str, role: str) -> TestClient:
    assert admin.post("/api/v1/accounts", json={"name": name, "role": role, "password": PASSWORD}).status_code == 201
    client = TestClient(admin.app)
    assert client.post("/api/v1/session", json={"name": name, "password": PASSWORD}).status_code == 204
    return client


@pytest.fixture
def slug(admin: TestClient, tmp_path: Path) -> str:
    source = write(tmp_path / "desk", {".python-version": "3.8\n", "a.py": "import imp\n"})
    given = {"source": str(source), "destination": "python@3.13"}
    taken = admin.post("/api/v1/intake", json={"candidates": [given]}).json()
    settled(admin)
    return str(taken["slugs"][0])


def test_nobody_reads_anything_before_signing_in(app: FastAPI) -> None:
    with TestClient(app) as client:
        for path in (
            "/api/v1/portfolio",
            "/api/v1/work",
            "/api/v1/jobs",
            "/api/v1/jobs/stream",
            "/api/v1/metrics",
            "/api/v1/reports/portfolio",
            "/api/v1/accounts",
        ):
            assert client.get(path).status_code == 401, path
        assert client.get("/api/v1/health").status_code == 200
        assert client.get("/api/v1/session").json()["first"] is True


def test_the_first_link_is_good_once_and_not_when_there_are_accounts(admin: TestClient, context: Context) -> None:
    assert first_link(context) == ""
    again = admin.post("/api/v1/session/first", json={"token": "x" * 30, "name": "Eve", "password": PASSWORD})
    assert again.status_code == 401


def test_the_session_is_kept_where_no_script_reads_it(app: FastAPI, context: Context) -> None:
    app.state.sign_in.secure = True
    with TestClient(app) as client:
        made = client.post(
            "/api/v1/session/first", json={"token": first_link(context), "name": "Ines", "password": PASSWORD}
        )
    cookie = made.headers["set-cookie"].lower()
    assert all(word in cookie for word in ("httponly", "samesite=lax", "secure", "path=/"))
    stored = office_secrets(app)
    assert cookie.split("=", 1)[1].split(";")[0] not in stored


def office_secrets(app: FastAPI) -> str:
    raw = (
        Path(app.state.context.db.path).read_bytes() + Path(f"{app.state.context.db.path}-wal").read_bytes()
        if Path(f"{app.state.context.db.path}-wal").exists()
        else Path(app.state.context.db.path).read_bytes()
    )
    return raw.decode("latin-1").lower()


def test_signing_out_ends_the_session_itself(admin: TestClient) -> None:
    cookie = admin.cookies["yoake_session"]
    assert admin.get("/api/v1/session").json()["name"] == "Ines"
    admin.delete("/api/v1/session")
    admin.cookies.set("yoake_session", cookie)
    assert admin.get("/api/v1/portfolio").status_code == 401


def test_a_wrong_password_is_refused_and_after_many_the_name_waits(admin: TestClient) -> None:
    client = TestClient(admin.app)
    for _ in range(8):
        assert client.post("/api/v1/session", json={"name": "ines", "password": "wrong"}).status_code == 401
    assert client.post("/api/v1/session", json={"name": "Ines", "password": PASSWORD}).status_code == 409
    assert client.post("/api/v1/session", json={"name": "nobody", "password": "wrong"}).status_code == 401


def test_each_role_may_do_what_it_is_for_and_no_more(admin: TestClient, slug: str) -> None:
    reader, member, lead = (signed_in(admin, name, name) for name in ("reader", "member", "lead"))
    step, key = steps(admin)[0]["id"], findings(admin, slug)[0]["key"]
    assert [c.get("/api/v1/portfolio").status_code for c in (reader, member, lead)] == [200, 200, 200]
    assert [c.patch(f"/api/v1/steps/{step}", json={"note": "x"}).status_code for c in (reader, member, lead)] == [
        403,
        200,
        200,
    ]
    assert [c.post("/api/v1/scans", json={}).status_code for c in (reader, member, lead)] == [403, 200, 200]
    waive = [
        c.put(f"/api/v1/applications/{slug}/waivers/{key}", json={"why": "x"}).status_code
        for c in (reader, member, lead)
    ]
    assert waive == [403, 403, 200]
    assert [c.get("/api/v1/events").status_code for c in (reader, member, lead)] == [403, 403, 200]
    assert [c.get("/api/v1/accounts").status_code for c in (reader, member, lead, admin)] == [403, 403, 403, 200]
    assert "needs the role lead" in reader.delete(f"/api/v1/applications/{slug}").json()["problem"]


def test_every_route_needs_at_least_a_reader_and_writing_more(app: FastAPI) -> None:
    described = app.openapi()["paths"]
    for path, methods in described.items():
        for method in methods:
            if path.startswith(("/api/v1/session", "/api/v1/health")):
                continue
            role = needed_role(method.upper(), path)
            assert role.includes(Role.MEMBER if method != "get" else Role.READER), path


def test_the_last_administrator_stays_one(admin: TestClient) -> None:
    assert admin.patch("/api/v1/accounts/1", json={"role": "reader"}).status_code == 409
    assert admin.patch("/api/v1/accounts/1", json={"disabled": True}).status_code == 409


def test_a_disabled_account_is_out_at_once(admin: TestClient) -> None:
    member = signed_in(admin, "Jon", "member")
    assert admin.patch("/api/v1/accounts/2", json={"disabled": True}).status_code == 200
    assert member.get("/api/v1/portfolio").status_code == 401
    assert member.post("/api/v1/session", json={"name": "Jon", "password": PASSWORD}).status_code == 401


def test_a_new_password_ends_the_old_sessions(admin: TestClient) -> None:
    member = signed_in(admin, "Jon", "member")
    admin.patch("/api/v1/accounts/2", json={"password": "another long password"})
    assert member.get("/api/v1/portfolio").status_code == 401


def test_a_token_does_what_its_scope_says_until_it_is_revoked(admin: TestClient, slug: str) -> None:
    program = TestClient(admin.app)
    made = {
        scope: admin.post("/api/v1/tokens", json={"name": scope, "scope": scope, "days": 1}).json()
        for scope in ("read", "scan", "write")
    }

    def ask(scope: str, method: str, path: str, body: object = None) -> int:
        return program.request(
            method, path, json=body, headers={"Authorization": f"Bearer {made[scope]['secret']}"}
        ).status_code

    step = steps(admin)[0]["id"]
    assert [ask(s, "GET", "/api/v1/portfolio") for s in made] == [200, 200, 200]
    assert [ask(s, "POST", "/api/v1/scans", {}) for s in made] == [403, 200, 200]
    assert [ask(s, "PATCH", f"/api/v1/steps/{step}", {"note": s}) for s in made] == [403, 403, 200]
    assert all("secret" not in token for token in admin.get("/api/v1/tokens").json())
    assert admin.delete(f"/api/v1/tokens/{made['read']['id']}").status_code == 204
    assert ask("read", "GET", "/api/v1/portfolio") == 401
    assert program.get("/api/v1/portfolio", headers={"Authorization": "Bearer nonsense"}).status_code == 401


def test_a_token_past_its_day_is_good_no_more(admin: TestClient, context: Context) -> None:
    made = admin.post("/api/v1/tokens", json={"name": "ci", "days": 1}).json()
    with context.db.write() as connection:
        connection.execute("UPDATE tokens SET ends_at = '2020-01-01T00:00:00+00:00'")
    assert (
        TestClient(admin.app)
        .get("/api/v1/portfolio", headers={"Authorization": f"Bearer {made['secret']}"})
        .status_code
        == 401
    )


def test_what_happened_is_told_with_who_did_it_whatever_a_header_says(admin: TestClient, slug: str) -> None:
    jon = signed_in(admin, "Jon", "member")
    jon.patch(f"/api/v1/steps/{steps(admin)[0]['id']}", json={"note": "mine"}, headers={"X-Yoake-Who": "Ines"})
    rows = admin.get("/api/v1/events?who=Jon").json()["rows"]
    assert [(r["what"], r["after"], r["slug"]) for r in rows] == [("note", "mine", slug)]
    assert admin.get("/api/v1/events?q=account").json()["total"] == 2
    assert admin.get("/api/v1/events?until=2020-01-01").json()["total"] == 0
    exported = list(csv.DictReader(io.StringIO(admin.get("/api/v1/events/export?who=Jon").text)))
    assert [(r["who"], r["after"]) for r in exported] == [("Jon", "mine")]


def test_it_does_not_listen_to_others_without_sign_in(home: Home) -> None:
    with pytest.raises(BadInput, match="--sign-in"):
        run_server(PARTS, home, "0.0.0.0", 0)  # noqa: S104


class Provider(ThreadingHTTPServer):
    """A small identity provider: one person, one client, codes good once, keys of its own."""

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), _Answers)
        self.key = RSAKey.generate_key(2048, {"kid": "k1", "use": "sig", "alg": "RS256"})
        self.issuer = f"http://127.0.0.1:{self.server_address[1]}"
        self.codes: dict[str, dict[str, str]] = {}
        self.audience = "yoake"

    def begin(self, address: str) -> str:
        """What a browser would do there: sign in, and be sent back."""
        asked = {k: v[0] for k, v in parse_qs(urlsplit(address).query).items()}
        code = secrets.token_urlsafe(8)
        self.codes[code] = asked
        return f"{asked['redirect_uri']}?state={asked['state']}&code={code}"


class _Answers(BaseHTTPRequestHandler):
    server: Provider

    def log_message(self, *_arguments: object) -> None:
        """Say nothing."""

    def _send(self, body: object) -> None:
        data = json.dumps(body).encode()
        self.send_response(200)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def do_GET(self) -> None:
        issuer = self.server.issuer
        if self.path.endswith("/openid-configuration"):
            self._send(
                {
                    "issuer": issuer,
                    "authorization_endpoint": f"{issuer}/authorize",
                    "token_endpoint": f"{issuer}/token",
                    "jwks_uri": f"{issuer}/keys",
                }
            )
        else:
            self._send(KeySet([self.server.key]).as_dict(private=False))

    def do_POST(self) -> None:
        given = {k: v[0] for k, v in parse_qs(self.rfile.read(int(self.headers["Content-Length"])).decode()).items()}
        asked = self.server.codes.pop(given["code"])
        challenge = (
            base64.urlsafe_b64encode(hashlib.sha256(given["code_verifier"].encode()).digest()).rstrip(b"=").decode()
        )
        assert challenge == asked["code_challenge"]
        now = int(time.time())
        claims = {
            "iss": self.server.issuer,
            "aud": self.server.audience,
            "sub": "u-17",
            "name": "Asa Lind",
            "iat": now,
            "exp": now + 60,
            "nonce": asked["nonce"],
        }
        token = jwt.encode({"alg": "RS256", "kid": "k1"}, claims, self.server.key)
        self._send({"access_token": "a", "token_type": "Bearer", "id_token": token, "expires_in": 60})


@pytest.fixture
def provider(app: FastAPI) -> Iterator[Provider]:
    server = Provider()
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    app.state.sign_in.provider = IdentityProvider(server.issuer, "yoake", "secret", Role.MEMBER)
    yield server
    server.shutdown()
    server.server_close()
    thread.join()


def through(client: TestClient, provider: Provider) -> int:
    sent = client.get("/api/session/provider", follow_redirects=False)
    back = provider.begin(sent.headers["location"])
    return client.get(back.removeprefix("http://testserver"), follow_redirects=False).status_code


def test_an_outside_identity_provider_vouches_for_people(app: FastAPI, provider: Provider) -> None:
    with TestClient(app) as client:
        assert through(client, provider) == 302
        here = client.get("/api/v1/session").json()
        assert (here["name"], here["role"]) == ("Asa Lind", "member")
        again = TestClient(app)
        assert through(again, provider) == 302
        assert app.state.context.db.one("SELECT count(*) AS n FROM accounts")["n"] == 1


def test_what_a_provider_says_to_somebody_else_is_refused(app: FastAPI, provider: Provider) -> None:
    with TestClient(app) as client:
        provider.audience = "another"
        assert through(client, provider) == 401
        provider.audience = "yoake"
        sent = client.get("/api/session/provider", follow_redirects=False)
        back = provider.begin(sent.headers["location"]).removeprefix("http://testserver")
        assert TestClient(app).get(back, follow_redirects=False).status_code == 401  # another browser
        assert client.get("/api/session/provider/back?state=x&code=y", follow_redirects=False).status_code == 401
        assert client.get("/api/v1/portfolio").status_code == 401


def test_half_a_provider_is_told(app: FastAPI) -> None:
    assert read_provider({}) is None
    with pytest.raises(BadInput, match="YOAKE_OIDC_CLIENT_SECRET"):
        read_provider({"YOAKE_OIDC_ISSUER": "x", "YOAKE_OIDC_CLIENT_ID": "y"})
