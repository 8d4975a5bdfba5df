"""A small identity provider for tests: says who somebody is, signed with its own key, or something wrong on request."""

import time
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import parse_qs, urlencode

from fastapi import FastAPI, Request
from fastapi.responses import RedirectResponse
from joserfc import jwt
from joserfc.jwk import RSAKey


@dataclass
class Saying:
    """What the next token says; `key` by which it is signed, where not by the provider's own."""

    claims: dict[str, Any] = field(default_factory=dict)
    key: RSAKey | None = None


def stand_in(issuer: list[str], saying: Saying) -> FastAPI:
    """The provider. issuer : its address, known once it is served."""
    app = FastAPI()
    own = RSAKey.generate_key(2048, parameters={"kid": "own"})
    asked: dict[str, str] = {}

    @app.get("/.well-known/openid-configuration")
    def configuration() -> dict[str, str]:
        at = issuer[0]
        return {"issuer": at, "authorization_endpoint": f"{at}/authorize", "token_endpoint": f"{at}/token",
                "jwks_uri": f"{at}/keys"}  # fmt: skip

    @app.get("/keys")
    def keys() -> dict[str, Any]:
        return {"keys": [own.as_dict(private=False)]}

    @app.get("/authorize")
    def authorize(request: Request) -> RedirectResponse:
        asked.update(request.query_params)
        assert asked["code_challenge_method"] == "S256"
        back = urlencode({"code": "once", "state": asked["state"]})
        return RedirectResponse(f"{asked['redirect_uri']}?{back}", status_code=303)

    @app.post("/token")
    async def token(request: Request) -> dict[str, Any]:
        sent = parse_qs((await request.body()).decode())
        assert sent["code"] == ["once"] and len(sent["code_verifier"][0]) >= 43
        claims = {"iss": issuer[0], "aud": "dosis", "exp": int(time.time()) + 60, "nonce": asked["nonce"],
                  "email_verified": True, **saying.claims}  # fmt: skip
        signed = jwt.encode({"alg": "RS256", "kid": "own"}, claims, saying.key or own)
        return {"access_token": "none", "token_type": "Bearer", "id_token": signed}

    return app
