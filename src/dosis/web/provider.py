"""An identity provider of the lab, by OpenID Connect: a code with PKCE (RFC 7636), answers checked with its keys."""

import secrets
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any, cast
from urllib.parse import urlsplit

import requests
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.requests_client import OAuth2Session
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from dosis.store.sessions import Refused

if TYPE_CHECKING:
    from joserfc.jwk import KeySetSerialization

SECONDS = 10
ALGORITHMS = ["RS256", "ES256", "PS256"]  # by keys that the provider publishes; never "none", never a shared secret


@dataclass(frozen=True)
class Way:
    """What a browser takes along to the provider and back: state, nonce and the verifier of PKCE."""

    state: str
    nonce: str
    verifier: str

    @classmethod
    def new(cls) -> "Way":
        """Of random bits."""
        return cls(*(secrets.token_urlsafe(32) for _ in range(3)))

    def kept(self) -> str:
        """As it stands in a cookie."""
        return ".".join((self.state, self.nonce, self.verifier))

    @classmethod
    def of(cls, kept: str) -> "Way":
        """Back from there. Raises Refused."""
        parts = kept.split(".")
        if len(parts) != 3:
            raise Refused("The way to the identity provider was cut short. Begin again.")
        return cls(*parts)


class Provider:
    """One provider, by its issuer's address, and what it knows this Dosis as."""

    def __init__(self, issuer: str, client: str, secret: str) -> None:
        self.issuer, self._client, self._secret = issuer.rstrip("/"), client, secret

    @property
    def name(self) -> str:
        """What a page calls it."""
        return urlsplit(self.issuer).hostname or self.issuer

    def address(self, way: Way, back: str) -> str:
        """Where the browser is sent. Raises Refused where the provider does not answer."""
        try:
            with self._session(back) as session:
                url, _ = session.create_authorization_url(
                    self._told["authorization_endpoint"], state=way.state, nonce=way.nonce, code_verifier=way.verifier
                )
        except (requests.RequestException, KeyError) as error:
            raise Refused(f"{self.name} does not answer. Sign in with a password, or try again later.") from error
        return str(url)

    def email_of(self, way: Way, came_back: str, back: str) -> str:
        """The address of who has signed in there, which the provider has verified.

        Raises
        ------
        Refused : for an answer that is not to this question, not signed by the provider, or of an unverified address.
        """
        try:
            with self._session(back, state=way.state) as session:
                token = session.fetch_token(
                    self._told["token_endpoint"],
                    authorization_response=came_back,
                    code_verifier=way.verifier,
                    timeout=SECONDS,
                )
            keys = _fetched(self._told["jwks_uri"])
            known = KeySet.import_key_set(cast("KeySetSerialization", keys))
            claims = jwt.decode(token["id_token"], known, algorithms=ALGORITHMS).claims
            jwt.JWTClaimsRegistry(
                leeway=60, exp={"essential": True}, iss={"essential": True, "value": self._told["issuer"]},
                aud={"essential": True, "value": self._client}, nonce={"essential": True, "value": way.nonce},
            ).validate(claims)  # fmt: skip
        except (requests.RequestException, AuthlibBaseError, JoseError, KeyError, ValueError) as error:
            raise Refused(f"{self.name} did not say who you are ({type(error).__name__}). Begin again.") from error
        if claims.get("email_verified") is not True or not isinstance(claims.get("email"), str):
            raise Refused(f"{self.name} has not verified your e-mail address, by which Dosis knows people.")
        return str(claims["email"]).lower()

    @cached_property
    def _told(self) -> dict[str, Any]:
        """What the provider says of itself; the issuer has to be the one it was asked as."""
        found = _fetched(f"{self.issuer}/.well-known/openid-configuration")
        if found.get("issuer", "").rstrip("/") != self.issuer:
            raise KeyError("issuer")
        return dict(found)

    def _session(self, back: str, **more: Any) -> Any:
        return OAuth2Session(
            self._client, self._secret, scope="openid email", redirect_uri=back, code_challenge_method="S256", **more,
        )  # fmt: skip


def _fetched(address: str) -> dict[str, Any]:
    answer = requests.get(address, timeout=SECONDS)
    answer.raise_for_status()
    return dict(answer.json())
