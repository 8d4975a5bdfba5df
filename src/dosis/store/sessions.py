"""Sessions of people who have signed in, their passwords and codes, and the tokens of their scripts."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from dosis.people import codes, passwords, throttle
from dosis.people.rights import Right, Rights
from dosis.people.secrets import TOKEN_PREFIX, hash_of, new_secret
from dosis.run.changes import ChangeError
from dosis.run.record import Record, Time
from dosis.store import accounts, ledger
from dosis.store.database import Cursor, Database, Row

IDLE_MINUTES, LONGEST_HOURS = 60, 12
SEEN_EVERY = 60  # seconds between two notes that a session is in use
Scope = Literal["read", "work"]


class Refused(Exception):
    """A sign-in that is not let in; the message is for the person. code : a code from a telephone is what is missing;
    wait : seconds until the next attempt."""

    def __init__(self, said: str, *, code: bool = False, wait: float = 0) -> None:
        super().__init__(said)
        self.code, self.wait = code, wait


@dataclass(frozen=True)
class Person:
    """Who is asking. account : None for the one who works alone. session, token : by which they are known.

    page_key : what a page of the session sends with each change, so that no other site can.
    """

    name: str
    rights: Rights
    account: int | None = None
    email: str = ""
    session: int | None = None
    token: int | None = None
    page_key: str = ""


class SessionHead(Record):
    """A session in which a person is signed in."""

    id: int
    address: str
    agent: str
    made_at: Time
    seen_at: Time


class NewToken(Record):
    """A token to make. study : in which alone it works."""

    name: Annotated[str, StringConstraints(min_length=1, max_length=100, strip_whitespace=True)]
    scope: Scope = "read"
    study: int | None = None
    days: Annotated[int, Field(ge=1, le=366)] = 90


class TokenHead(Record):
    """A token without its secret, which was shown once."""

    id: int
    name: str
    scope: Scope
    study_id: int | None
    made_at: Time
    seen_at: Time | None
    ends_at: Time


def sign_in(store: Database, email: str, password: str, code: str, address: str, agent: str) -> str:
    """The secret of a new session.

    Raises
    ------
    Refused : where name, password or code are not right, or too many attempts came before.
    """
    with store.transaction() as db:
        _slow_down(db, email, address)
        row = db.one("SELECT * FROM account WHERE email = %s", email)
    good = passwords.fits(password, row["password"] if row else None) and row is not None and not row["closed_at"]
    with store.transaction() as db:
        asked = row is not None and row["code_key"] is not None
        if good and row is not None and asked and code:
            good = _code_fits(db, row["id"], code)
        if good and row is not None and (code or not asked):
            return begin(db, row["id"], address, agent)
        if not good:
            _refuse(db, email, address, row["name"] if row else "nobody")
    if good:
        raise Refused("Type the code that your telephone shows.", code=True)
    raise Refused("The address, the password or the code is not right.")


def begin(db: Cursor, account: int, address: str, agent: str, how: str = "") -> str:
    """A session of an account that has shown who it is; its secret. how : in words, where not by a password."""
    secret = new_secret()
    row: Row = db.one("SELECT name, email FROM account WHERE id = %s", account) or {}
    db.run(
        "INSERT INTO session (hash, account_id, page_key, address, agent) VALUES (%s, %s, %s, %s, %s)",
        hash_of(secret), account, new_secret(), address[:64], agent[:200],
    )  # fmt: skip
    db.run("DELETE FROM refused_sign_in WHERE email = %s", row["email"])
    ledger.write(db, row["name"], "sign in", f"Signed in from {address}{how}")
    return secret


def by_secret(db: Cursor, secret: str) -> Person | None:
    """Whose session it is; None where it has ended, by itself or otherwise."""
    row = db.one(
        "SELECT session.id, session.page_key, account.id AS account, account.name, account.email,"
        " TIMESTAMPDIFF(SECOND, session.seen_at, UTC_TIMESTAMP(6)) AS idle FROM session"
        " JOIN account ON account.id = session.account_id WHERE session.hash = %s AND session.ended_at IS NULL"
        " AND account.closed_at IS NULL AND session.seen_at > UTC_TIMESTAMP(6) - INTERVAL %s MINUTE"
        " AND session.made_at > UTC_TIMESTAMP(6) - INTERVAL %s HOUR",
        hash_of(secret), IDLE_MINUTES, LONGEST_HOURS,
    )  # fmt: skip
    if row is None:
        return None
    if row["idle"] >= SEEN_EVERY:
        db.run("UPDATE session SET seen_at = UTC_TIMESTAMP(6) WHERE id = %s", row["id"])
    return Person(
        name=row["name"], rights=accounts.rights(db, row["account"]), account=row["account"], email=row["email"],
        session=row["id"], page_key=row["page_key"],
    )  # fmt: skip


def by_token(db: Cursor, secret: str) -> Person | None:
    """Whose token it is, with what it leaves of their rights."""
    row = db.one(
        "SELECT token.id, token.scope, token.study_id, account.id AS account, account.name, account.email,"
        " token.seen_at IS NULL OR token.seen_at < UTC_TIMESTAMP(6) - INTERVAL %s SECOND AS unseen FROM token"
        " JOIN account ON account.id = token.account_id WHERE token.hash = %s AND token.ended_at IS NULL"
        " AND token.ends_at > UTC_TIMESTAMP(6) AND account.closed_at IS NULL",
        SEEN_EVERY, hash_of(secret),
    )  # fmt: skip
    if row is None:
        return None
    if row["unseen"]:
        db.run("UPDATE token SET seen_at = UTC_TIMESTAMP(6) WHERE id = %s", row["id"])
    own = accounts.rights(db, row["account"])
    scope = {Right.READ} if row["scope"] == "read" else {Right.READ, Right.WORK}
    rights = Rights(own.everywhere, own.studies, frozenset(scope), row["study_id"])
    return Person(name=row["name"], rights=rights, account=row["account"], email=row["email"], token=row["id"])


def end(db: Cursor, who: Person, session: int | None = None, *, others: bool = False) -> None:
    """End the person's own session, another one of theirs, or all others."""
    wanted = who.session if session is None else session
    sign = "<>" if others else "="
    db.run(
        f"UPDATE session SET ended_at = UTC_TIMESTAMP(6) WHERE account_id = %s AND id {sign} %s AND ended_at IS NULL",
        who.account, wanted,
    )  # fmt: skip
    said = "Signed out" if not others and wanted == who.session else "Other sessions ended"
    ledger.write(db, who.name, "sign out", said)


def listed(db: Cursor, account: int) -> list[SessionHead]:
    """The sessions that are open, the last used first."""
    rows = db.all(
        "SELECT id, address, agent, made_at, seen_at FROM session WHERE account_id = %s AND ended_at IS NULL"
        " AND seen_at > UTC_TIMESTAMP(6) - INTERVAL %s MINUTE AND made_at > UTC_TIMESTAMP(6) - INTERVAL %s HOUR"
        " ORDER BY seen_at DESC",
        account, IDLE_MINUTES, LONGEST_HOURS,
    )  # fmt: skip
    return [SessionHead.model_validate(row) for row in rows]


def confirm(store: Database, who: Person, password: str, address: str) -> None:
    """Ask a person who is signed in for the password once more. Raises Refused."""
    with store.transaction() as db:
        _slow_down(db, who.email, address)
        row: Row = db.one("SELECT password FROM account WHERE id = %s", who.account) or {"password": None}
    if passwords.fits(password, row["password"]):
        return
    with store.transaction() as db:
        _refuse(db, who.email, address, who.name)
    raise Refused("The password is not right.")


def set_password(db: Cursor, who: Person, password: str) -> None:
    """Keep another password, hashed already; all other sessions end."""
    db.run("UPDATE account SET password = %s WHERE id = %s", password, who.account)
    ledger.write(db, who.name, "password", "Changed the password")
    end(db, who, others=True)


def set_code_key(db: Cursor, who: Person, key: str | None, code: str = "") -> None:
    """Ask for codes of that key from now on, once one of them has been shown; or no more.

    Raises
    ------
    ChangeError : where the code is not one of the key.
    """
    step = codes.step_of(key, code, datetime.now(UTC)) if key else 0
    if step is None:
        raise ChangeError("This code is not one of the key. Check the clock of the telephone, and take the next code.")
    db.run("UPDATE account SET code_key = %s, code_used = %s WHERE id = %s", key, step, who.account)
    ledger.write(db, who.name, "codes", "Signs in with codes from now on" if key else "Signs in without codes")


def new_token(db: Cursor, who: Person, new: NewToken) -> str:
    """Make a token; its secret, which is shown once."""
    if new.study is not None and not (
        who.rights.may(Right.READ, new.study) and db.one("SELECT id FROM study WHERE id = %s", new.study)
    ):
        raise ChangeError("There is no such study to make a token for.")
    secret = new_secret(TOKEN_PREFIX)
    db.run(
        "INSERT INTO token (hash, account_id, name, scope, study_id, ends_at)"
        " VALUES (%s, %s, %s, %s, %s, UTC_TIMESTAMP(6) + INTERVAL %s DAY)",
        hash_of(secret), who.account, new.name, new.scope, new.study, new.days,
    )  # fmt: skip
    ledger.write(db, who.name, "token", f"Token “{new.name}” made, to {new.scope}, for {new.days} days")
    return secret


def tokens(db: Cursor, account: int) -> list[TokenHead]:
    """A person's tokens that still work."""
    rows = db.all(
        "SELECT id, name, scope, study_id, made_at, seen_at, ends_at FROM token WHERE account_id = %s"
        " AND ended_at IS NULL AND ends_at > UTC_TIMESTAMP(6) ORDER BY id",
        account,
    )
    return [TokenHead.model_validate(row) for row in rows]


def end_token(db: Cursor, who: Person, id: int) -> bool:
    """Revoke a token; whether it is one of the person's that still worked."""
    row = db.one("SELECT name FROM token WHERE id = %s AND account_id = %s AND ended_at IS NULL", id, who.account)
    if row is None:
        return False
    db.run("UPDATE token SET ended_at = UTC_TIMESTAMP(6) WHERE id = %s", id)
    ledger.write(db, who.name, "token", f"Token “{row['name']}” revoked")
    return True


def _code_fits(db: Cursor, account: int, code: str) -> bool:
    row: Row = db.one("SELECT code_key, code_used FROM account WHERE id = %s FOR UPDATE", account) or {}
    step = codes.step_of(row["code_key"], code, datetime.now(UTC), row["code_used"])
    if step is not None:
        db.run("UPDATE account SET code_used = %s WHERE id = %s", step, account)
    return step is not None


def _slow_down(db: Cursor, email: str, address: str) -> None:
    now = (db.one("SELECT UTC_TIMESTAMP(6) AS at") or {})["at"]
    for column, value, free in (("email", email, throttle.OF_ACCOUNT), ("address", address, throttle.OF_ADDRESS)):
        found: Row = db.one(
            f"SELECT COUNT(*) AS n, MAX(at) AS last FROM refused_sign_in WHERE {column} = %s AND at > %s",
            value, now - throttle.WINDOW,
        ) or {}  # fmt: skip
        left = throttle.wait(now, found["last"], found["n"], free).total_seconds()
        if left > 0:
            raise Refused(f"Too many attempts. Wait {max(left, 1):.0f} seconds, then try again.", wait=left)


def _refuse(db: Cursor, email: str, address: str, name: str) -> None:
    db.run("INSERT INTO refused_sign_in (email, address) VALUES (%s, %s)", email, address[:64])
    ledger.write(db, name, "sign-in refused", f"Not let in as {email} from {address}")
