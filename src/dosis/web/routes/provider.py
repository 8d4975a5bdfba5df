"""Signing in by the lab's identity provider, where the settings name one."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from dosis.run.record import Record
from dosis.store import sessions
from dosis.store.sessions import Refused
from dosis.web.access import ANYONE
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.provider import Provider, Way
from dosis.web.routes.sign_in import origin_of, signed_in

router = APIRouter(prefix="/api/provider", tags=["people"])

COOKIE, MINUTES = "dosis-way", 10


class ProviderNamed(Record):
    """What the provider is called; empty for none."""

    name: str


@router.get("", dependencies=[ANYONE])
def get_provider(here: Here) -> ProviderNamed:
    """Whether people can sign in by an identity provider."""
    return ProviderNamed(name=here.provider.name if here.provider else "")


@router.get("/begin", response_class=RedirectResponse, dependencies=[ANYONE])
def begin(request: Request, here: Here) -> Response:
    """Send the browser to the provider."""
    way = Way.new()
    sent = RedirectResponse(_there(here.provider).address(way, _back(request)), status_code=303)
    # Lax: the provider sends the browser back from its own site. It holds nothing that lets anybody in.
    sent.set_cookie(COOKIE, way.kept(), max_age=60 * MINUTES, path="/api/provider", httponly=True, samesite="lax",
                    secure=request.url.scheme == "https")  # fmt: skip
    return sent


@router.get("/back", response_class=RedirectResponse, dependencies=[ANYONE])
def come_back(request: Request, here: Here) -> Response:
    """Begin a session of the account with the address that the provider has verified."""
    way = Way.of(request.cookies.get(COOKIE, ""))
    email = _there(here.provider).email_of(way, str(request.url), _back(request))
    address, agent = origin_of(request)
    with here.database.transaction() as db:
        row = db.one("SELECT id FROM account WHERE email = %s AND closed_at IS NULL", email)
        if row is None:
            raise Refused(f"There is no open account of {email} here. Ask an administrator to invite you.")
        secret = sessions.begin(db, row["id"], address, agent, " by the identity provider")
    home = RedirectResponse("/", status_code=303)
    home.delete_cookie(COOKIE, path="/api/provider")
    return signed_in(request, secret, home)


def _back(request: Request) -> str:
    return f"{request.url.scheme}://{request.url.netloc}/api/provider/back"


def _there(provider: Provider | None) -> Provider:
    if provider is None:
        raise NotFound("identity provider")
    return provider
