"""An outside identity provider (OpenID Connect, authorization code with PKCE): who somebody is, as it vouches for."""

from __future__ import annotations

import secrets
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Final, cast

import httpx2
from authlib.integrations.httpx_client import AsyncOAuth2Client
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet, KeySetSerialization

from yoake.core.values.errors import BadInput, NotSignedIn
from yoake.usecases.sign_in import Role

_WAITS: Final = 600.0  # seconds a person may take at the provider
_MOST_WAITING: Final = 1_000
_TIMEOUT: Final = 10.0
_ALGORITHMS: Final = ["RS256", "ES256", "PS256", "EdDSA"]


@dataclass(frozen=True, slots=True)
class Vouched:
    """Somebody whom the provider vouches for: its own name for them, and how they are called."""

    subject: str
    name: str


@dataclass(frozen=True, slots=True)
class _Waiting:
    verifier: str
    nonce: str
    since: float


@dataclass
class IdentityProvider:
    """One provider. ``role``: what people get who come through it for the first time."""

    issuer: str
    client_id: str
    client_secret: str
    role: Role = Role.READER
    waiting: dict[str, _Waiting] = field(default_factory=dict)

    async def begin(self, back: str) -> tuple[str, str]:
        """(where to send the browser, the state that it must bring back)."""
        now = time.monotonic()
        self.waiting = {s: w for s, w in self.waiting.items() if now - w.since < _WAITS}
        if len(self.waiting) >= _MOST_WAITING:
            raise BadInput("Too many people are signing in at once. Try again in a few minutes.")
        held = _Waiting(secrets.token_urlsafe(48), secrets.token_urlsafe(16), now)
        async with self._client(back) as client:
            address, state = client.create_authorization_url(
                (await self._metadata())["authorization_endpoint"], code_verifier=held.verifier, nonce=held.nonce
            )
        self.waiting[state] = held
        return str(address), str(state)

    async def finish(self, back: str, state: str, code: str) -> Vouched:
        """Who came back with a code. Raises NotSignedIn for anything that does not fit."""
        held = self.waiting.pop(state, None)
        if held is None or time.monotonic() - held.since > _WAITS:
            raise NotSignedIn("This sign-in took too long or was begun elsewhere. Begin again.")
        metadata = await self._metadata()
        try:
            async with self._client(back) as client:
                token = await client.fetch_token(metadata["token_endpoint"], code=code, code_verifier=held.verifier)
            keys = KeySet.import_key_set(cast("KeySetSerialization", await self._get(metadata["jwks_uri"])))
            claims = jwt.decode(token["id_token"], keys, algorithms=_ALGORITHMS).claims
            self._registry(held.nonce).validate(claims)
        except (JoseError, KeyError, ValueError, TypeError, httpx2.HTTPError) as error:
            raise NotSignedIn(
                f"The identity provider’s answer does not fit ({type(error).__name__}). Begin again."
            ) from error
        name = claims.get("name") or claims.get("preferred_username") or claims.get("email") or claims["sub"]
        return Vouched(f"{self.issuer}|{claims['sub']}", str(name))

    def _registry(self, nonce: str) -> jwt.JWTClaimsRegistry:
        return jwt.JWTClaimsRegistry(
            iss={"essential": True, "value": self.issuer},
            aud={"essential": True, "value": self.client_id},
            sub={"essential": True},
            exp={"essential": True},
            nonce={"essential": True, "value": nonce},
        )

    def _client(self, back: str) -> AsyncOAuth2Client:
        return AsyncOAuth2Client(
            self.client_id,
            self.client_secret,
            scope="openid profile email",
            redirect_uri=back,
            code_challenge_method="S256",
            timeout=_TIMEOUT,
        )

    async def _metadata(self) -> Mapping[str, Any]:
        found = await self._get(f"{self.issuer.rstrip('/')}/.well-known/openid-configuration")
        if found.get("issuer") != self.issuer:
            raise NotSignedIn("The identity provider calls itself something else than YOAKE_OIDC_ISSUER says.")
        return found

    async def _get(self, address: str) -> dict[str, Any]:
        try:
            async with httpx2.AsyncClient(timeout=_TIMEOUT) as client:
                answer = await client.get(address)
                answer.raise_for_status()
                body = answer.json()
        except (httpx2.HTTPError, ValueError) as error:
            raise NotSignedIn(
                f"The identity provider does not answer ({type(error).__name__}). Try again later."
            ) from error
        return body if isinstance(body, dict) else {}


def read_provider(environment: Mapping[str, str]) -> IdentityProvider | None:
    """The provider that ``YOAKE_OIDC_…`` names; None when none is. Raises BadInput for half of it."""
    named = {key: environment.get(f"YOAKE_OIDC_{key}", "") for key in ("ISSUER", "CLIENT_ID", "CLIENT_SECRET")}
    if not any(named.values()):
        return None
    missing = [f"YOAKE_OIDC_{key}" for key, value in named.items() if not value]
    if missing:
        raise BadInput(f"To sign in through an identity provider, set {', '.join(missing)} too.")
    role = environment.get("YOAKE_OIDC_ROLE", "reader")
    if role not in list(Role):
        raise BadInput(f"YOAKE_OIDC_ROLE is “{role}”; it is one of {', '.join(Role)}.")
    return IdentityProvider(named["ISSUER"], named["CLIENT_ID"], named["CLIENT_SECRET"], Role(role))
