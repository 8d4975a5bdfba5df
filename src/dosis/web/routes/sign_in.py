"""Coming in and going out: sign-in, one-time links, one's own password, codes, sessions and tokens."""

from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import Field

from dosis.people import codes
from dosis.people.passwords import LONGEST, hashed
from dosis.people.rights import LabRole, Right
from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store import accounts, sessions
from dosis.store.sessions import Person, SessionHead, TokenHead
from dosis.web.access import ANYONE, COOKIES, SIGNED_IN
from dosis.web.context import Context, Here
from dosis.web.problems import Forbidden, NotFound

router = APIRouter(prefix="/api", tags=["people"])

Password = Annotated[str, Field(min_length=1, max_length=LONGEST * 4)]
Secret = Annotated[str, Field(min_length=1, max_length=100)]


class Me(Record):
    """Who is signed in. by_itself : without a sign-in, where one person has Dosis to themselves.

    rights : held in all studies; studies : in single ones. page_key : to be sent as X-Dosis-Page with each change.
    """

    name: str
    email: str
    by_itself: bool
    roles: tuple[LabRole, ...]
    rights: tuple[Right, ...]
    studies: dict[int, tuple[Right, ...]]
    administers: bool
    page_key: str


class SignIn(Record):
    """What a person types to come in. code : from their telephone, where they use one."""

    email: Annotated[str, Field(max_length=200)]
    password: Password
    code: Annotated[str, Field(max_length=10)] = ""


class LinkAsked(Record):
    """The secret part of a one-time link."""

    secret: Secret


class ComeIn(LinkAsked):
    """A one-time link to use. name, email : of the first administrator, whom nobody has invited."""

    password: Password
    name: accounts.Name | None = None
    email: accounts.Email | None = None


class NewPassword(Record):
    """Another password, and the one until now."""

    current: Password
    password: Password


class CodeKey(Record):
    """A key for a telephone, not kept yet."""

    key: str
    address: str


class UseCodes(Record):
    """Begin to use codes of `key`, of which `code` is one; or end it with no key. The password is asked for again."""

    password: Password
    key: Annotated[str, Field(max_length=64, pattern="^[A-Z2-7]{16,64}$")] | None = None
    code: Annotated[str, Field(max_length=10)] = ""


class Own(Record):
    """What a person has open: this session's number, all sessions and tokens; whether they use codes."""

    session: int | None
    sessions: tuple[SessionHead, ...]
    tokens: tuple[TokenHead, ...]
    codes: bool


class MadeToken(Record):
    """A token's secret, shown this once."""

    secret: str


@router.get("/me", dependencies=[SIGNED_IN])
def get_me(here: Here) -> Me:
    """Who is signed in, and what they may do."""
    who = here.who
    rights = who.rights
    return Me(
        name=who.name, email=who.email, by_itself=here.alone is not None, roles=tuple(sorted(rights.everywhere)),
        rights=tuple(right for right in Right if rights.may(right)),
        studies={id: tuple(right for right in Right if rights.may(right, id)) for id in rights.studies},
        administers=rights.may(Right.ADMINISTER), page_key=who.page_key,
    )  # fmt: skip


@router.post("/sign-in", status_code=204, dependencies=[ANYONE])
def sign_in(typed: SignIn, request: Request, here: Here) -> Response:
    """Begin a session; its cookie comes with the answer."""
    _with_accounts(here)
    email = typed.email.strip().lower()
    secret = sessions.sign_in(here.database, email, typed.password, typed.code.strip(), *origin_of(request))
    return signed_in(request, secret)


@router.post("/sign-out", status_code=204, dependencies=[SIGNED_IN])
def sign_out(here: Here) -> Response:
    """End this session."""
    own = _own(here)
    with here.database.transaction() as db:
        sessions.end(db, own)
    gone = Response(status_code=204)
    for name in COOKIES:
        gone.delete_cookie(name, path="/", secure=name.startswith("__Host"), httponly=True, samesite="strict")
    return gone


@router.post("/one-time-link", dependencies=[ANYONE])
def look_at_link(asked: LinkAsked, here: Here) -> accounts.Invited:
    """Whom a one-time link is for."""
    with here.database.transaction() as db:
        found = accounts.invited(db, asked.secret)
    if found is None:
        raise ChangeError(
            "This link has been used, or its time is over. Ask an administrator for another; the first administrator "
            "finds one where Dosis was started."
        )
    return found


@router.post("/come-in", status_code=204, dependencies=[ANYONE])
def come_in(new: ComeIn, request: Request, here: Here) -> Response:
    """Set a password by a one-time link and begin a session."""
    _with_accounts(here)
    invited = look_at_link(new, here)
    first = (new.name, new.email) if new.name and new.email else None
    if invited.first and first is None:
        raise ChangeError("Type your name and your e-mail address.")
    password = hashed(new.password, about=(new.name or invited.name, new.email or invited.email, "dosis"))
    with here.database.transaction() as db:
        account = accounts.come_in(db, new.secret, password, first)
        if account is None:
            raise ChangeError("This link was used a moment ago. Sign in.")
        secret = sessions.begin(db, account, *origin_of(request))
    return signed_in(request, secret)


@router.put("/me/password", status_code=204, dependencies=[SIGNED_IN])
def set_password(new: NewPassword, request: Request, here: Here) -> None:
    """Set another password; all other sessions end."""
    own = _own(here)
    sessions.confirm(here.database, own, new.current, origin_of(request)[0])
    kept = hashed(new.password, about=(own.name, own.email, "dosis"))
    with here.database.transaction() as db:
        sessions.set_password(db, own, kept)


@router.get("/me/code-key", dependencies=[SIGNED_IN])
def propose_code_key(here: Here) -> CodeKey:
    """A new key for a telephone; it is kept once a code of it was shown."""
    key = codes.new_key()
    return CodeKey(key=key, address=codes.address(key, _own(here).email))


@router.put("/me/codes", status_code=204, dependencies=[SIGNED_IN])
def use_codes(asked: UseCodes, request: Request, here: Here) -> None:
    """Sign in with codes from a telephone from now on, or without."""
    own = _own(here)
    sessions.confirm(here.database, own, asked.password, origin_of(request)[0])
    with here.database.transaction() as db:
        sessions.set_code_key(db, own, asked.key, asked.code)


@router.get("/me/open", dependencies=[SIGNED_IN])
def get_open(here: Here) -> Own:
    """One's own sessions and tokens."""
    own = _own(here)
    account = own.account or 0
    with here.database.transaction() as db:
        found = accounts.get(db, account)
        return Own(
            session=own.session, sessions=tuple(sessions.listed(db, account)),
            tokens=tuple(sessions.tokens(db, account)), codes=found is not None and found.codes,
        )  # fmt: skip


@router.delete("/me/sessions/{id}", status_code=204, dependencies=[SIGNED_IN])
def end_session(id: int, here: Here) -> None:
    """End one of one's sessions."""
    with here.database.transaction() as db:
        sessions.end(db, _own(here), id)


@router.delete("/me/sessions", status_code=204, dependencies=[SIGNED_IN])
def end_other_sessions(here: Here) -> None:
    """End all of one's sessions but this one."""
    with here.database.transaction() as db:
        sessions.end(db, _own(here), others=True)


@router.post("/me/tokens", status_code=201, dependencies=[SIGNED_IN])
def make_token(new: sessions.NewToken, here: Here) -> MadeToken:
    """Make a token for a script."""
    with here.database.transaction() as db:
        return MadeToken(secret=sessions.new_token(db, _own(here), new))


@router.delete("/me/tokens/{id}", status_code=204, dependencies=[SIGNED_IN])
def end_token(id: int, here: Here) -> None:
    """Revoke a token."""
    with here.database.transaction() as db:
        if not sessions.end_token(db, _own(here), id):
            raise NotFound("token")


def signed_in(request: Request, secret: str, response: Response | None = None) -> Response:
    """An answer that brings the cookie of a new session."""
    secure = request.url.scheme == "https"
    made = response or Response(status_code=204)
    # Kept until the browser is closed; the session ends by itself before that where nobody works.
    made.set_cookie(COOKIES[0] if secure else COOKIES[1], secret, path="/", secure=secure, httponly=True,
                    samesite="strict")  # fmt: skip
    return made


def _own(here: Context) -> Person:
    """The person, where they have signed in themselves: a script's token changes nothing of its person's account."""
    if here.who.account is None:
        raise ChangeError("There are no accounts here: one person has Dosis to themselves.")
    if here.who.token is not None:
        raise Forbidden(Right.ADMINISTER)
    return here.who


def _with_accounts(here: Context) -> None:
    if here.alone is not None:
        raise ChangeError("There is no sign-in here: one person has Dosis to themselves.")


def origin_of(request: Request) -> tuple[str, str]:
    """The address a request comes from, and what it comes by."""
    return request.client.host if request.client else "?", request.headers.get("user-agent", "")
