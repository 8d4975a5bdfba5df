"""Accounts: who there is, what each may do, and the one-time links by which they come in. Nobody is ever deleted."""

from collections.abc import Mapping
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from dosis.people.rights import LabRole, Rights
from dosis.people.secrets import hash_of, new_secret
from dosis.run.changes import ChangeError
from dosis.run.record import Record, Time
from dosis.store import ledger
from dosis.store.database import Cursor, Row

LINK_HOURS = 72
Name = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]
Email = Annotated[
    str,
    StringConstraints(
        max_length=200, strip_whitespace=True, to_lower=True, pattern=r"^[^@\s]+@[^@\s]+\.[^@\s]+$|^[^@\s]+@localhost$"
    ),
]


def _of_studies(found: dict[int, tuple[LabRole, ...]]) -> dict[int, tuple[LabRole, ...]]:
    if any(LabRole.ADMINISTRATOR in roles for roles in found.values()):
        raise ValueError("An administrator is one of the whole lab, not of a study")
    return found


StudyRoles = Annotated[dict[int, tuple[LabRole, ...]], Field(max_length=1_000), AfterValidator(_of_studies)]


class NewPerson(Record):
    """A person to be invited. roles : held in all studies; studies : in single ones, by their ids."""

    name: Name
    email: Email
    roles: tuple[LabRole, ...] = ()
    studies: StudyRoles = Field(default={})


class Account(Record):
    """A person. ready : has signed in once, by a password or otherwise; codes : also needs a code from a telephone."""

    id: int
    name: str
    email: str
    roles: tuple[LabRole, ...]
    studies: StudyRoles
    created_at: Time
    seen_at: Time | None = None
    ready: bool = False
    codes: bool = False
    closed: bool = False


_SELECT = (
    "SELECT id, name, email, roles, created_at, password IS NOT NULL AS ready, code_key IS NOT NULL AS codes,"
    " closed_at IS NOT NULL AS closed, (SELECT MAX(seen_at) FROM session WHERE session.account_id = account.id)"
    " AS seen_at FROM account"
)


def listed(db: Cursor) -> list[Account]:
    """All, those that are open first, by name."""
    return [_account(db, row) for row in db.all(f"{_SELECT} ORDER BY closed, name")]


def get(db: Cursor, id: int) -> Account | None:
    """One, or None."""
    row = db.one(f"{_SELECT} WHERE id = %s", id)
    return _account(db, row) if row else None


def rights(db: Cursor, id: int) -> Rights:
    """What a person may do."""
    rows = db.all(  # in one query: it is asked with every request
        "SELECT account.roles, own.study_id, own.roles AS held FROM account"
        " LEFT JOIN account_study AS own ON own.account_id = account.id WHERE account.id = %s",
        id,
    )
    studies = {row["study_id"]: frozenset(_roles(row["held"])) for row in rows if row["study_id"] is not None}
    return Rights(everywhere=frozenset(_roles(rows[0]["roles"]) if rows else ()), studies=studies)


def invite(db: Cursor, wanted: NewPerson, author: str) -> str:
    """Make an account; the secret of the link by which its person comes in.

    Raises
    ------
    ChangeError : where the name or the address is taken.
    """
    for column, value in (("name", wanted.name), ("email", wanted.email)):
        if db.one(f"SELECT id FROM account WHERE {column} = %s", value):
            raise ChangeError(f"There is already an account of {value}. Closed ones count: the Ledger names them.")
    id = db.run_once(
        "INSERT INTO account (name, email, roles) VALUES (%s, %s, %s)", wanted.name, wanted.email, _set(wanted.roles)
    )
    if id is None:
        raise ChangeError("Somebody of this name or address has been invited a moment ago.")
    _give_studies(db, id, wanted.studies)
    said = f"{wanted.name} ({wanted.email}) invited as {_said(db, wanted.roles, wanted.studies)}"
    ledger.write(db, author, "invite", said)
    return link(db, id)


def set_rights(
    db: Cursor, id: int, roles: tuple[LabRole, ...], studies: Mapping[int, tuple[LabRole, ...]], by: str
) -> bool:
    """Give a person other roles; whether there is one. Raises ChangeError where nobody would be left to administer."""
    row = db.one("SELECT * FROM account WHERE id = %s FOR UPDATE", id)
    if row is None:
        return False
    if LabRole.ADMINISTRATOR not in roles:
        _keep_an_administrator(db, row)
    db.run("UPDATE account SET roles = %s WHERE id = %s", _set(roles), id)
    _give_studies(db, id, studies)
    ledger.write(db, by, "rights", f"{row['name']} is now {_said(db, roles, studies)}")
    return True


def close(db: Cursor, id: int, closed: bool, by: str) -> bool:
    """Close an account, which ends its sessions and tokens, or open it again; whether there is one."""
    row = db.one("SELECT * FROM account WHERE id = %s FOR UPDATE", id)
    if row is None:
        return False
    if closed:
        _keep_an_administrator(db, row)
        for table in ("session", "token"):
            db.run(f"UPDATE {table} SET ended_at = UTC_TIMESTAMP(6) WHERE account_id = %s AND ended_at IS NULL", id)
        db.run("DELETE FROM one_time_link WHERE account_id = %s", id)
    db.run(f"UPDATE account SET closed_at = {'UTC_TIMESTAMP(6)' if closed else 'NULL'} WHERE id = %s", id)
    said = "closed" if closed else "opened again"
    ledger.write(db, by, "close account" if closed else "open account", f"Account of {row['name']} {said}")
    return True


def link_again(db: Cursor, id: int, by: str) -> str | None:
    """Another one-time link, for one that was lost or a password that was forgotten; None for no such open account."""
    row = db.one("SELECT name, closed_at FROM account WHERE id = %s", id)
    if row is None or row["closed_at"] is not None:
        return None
    ledger.write(db, by, "link", f"One-time link made for {row['name']}")
    return link(db, id)


def link(db: Cursor, account: int | None) -> str:
    """A link for an account, or for the first administrator; it ends any other that was open for the same."""
    secret = new_secret()
    db.run("DELETE FROM one_time_link WHERE account_id <=> %s AND used_at IS NULL", account)
    db.run(
        "INSERT INTO one_time_link (hash, account_id, ends_at) VALUES (%s, %s, UTC_TIMESTAMP(6) + INTERVAL %s HOUR)",
        hash_of(secret), account, LINK_HOURS,
    )  # fmt: skip
    return secret


class Invited(Record):
    """Whom a link is for; of the first administrator nothing is known yet."""

    name: str = ""
    email: str = ""
    first: bool = False


def invited(db: Cursor, secret: str) -> Invited | None:
    """Whom a link that still works is for."""
    row = _open_link(db, secret)
    if row is None:
        return None
    if row["account_id"] is None:
        return Invited(first=True)
    return Invited(name=row["name"], email=row["email"])


def come_in(db: Cursor, secret: str, password: str, first: tuple[str, str] | None = None) -> int | None:
    """Use a link: keep the password, hashed already, and end all sessions there were. first : name and address of the
    first administrator. The account, or None where the link does not work any more."""
    row = _open_link(db, secret, hold=True)
    if row is None:
        return None
    id = row["account_id"]
    if id is None:
        if first is None or has_administrator(db):
            return None
        id, name = _first(db, *first), first[0]
        ledger.write(db, name, "first administrator", f"{name} ({first[1]}) is the first administrator")
    else:
        ledger.write(db, row["name"], "password", "Came in by a one-time link and set a password")
    db.run("UPDATE one_time_link SET used_at = UTC_TIMESTAMP(6) WHERE hash = %s", hash_of(secret))
    db.run("UPDATE account SET password = %s WHERE id = %s", password, id)
    db.run("UPDATE session SET ended_at = UTC_TIMESTAMP(6) WHERE account_id = %s AND ended_at IS NULL", id)
    return int(id)


def has_administrator(db: Cursor) -> bool:
    """Whether somebody can invite others; until then a new link is printed at each start."""
    sql = "SELECT id FROM account WHERE FIND_IN_SET('administrator', roles) AND password IS NOT NULL LIMIT 1"
    return db.one(sql) is not None


def _first(db: Cursor, name: str, email: str) -> int:
    everything = _set(tuple(LabRole))
    made = db.run_once("INSERT INTO account (name, email, roles) VALUES (%s, %s, %s)", name, email, everything)
    if made is None:
        raise ChangeError("There is already an account of this name or address.")
    return made


def _open_link(db: Cursor, secret: str, *, hold: bool = False) -> Row | None:
    return db.one(
        "SELECT one_time_link.account_id, account.name, account.email FROM one_time_link"
        " LEFT JOIN account ON account.id = one_time_link.account_id WHERE hash = %s AND used_at IS NULL"
        f" AND ends_at > UTC_TIMESTAMP(6) AND account.closed_at IS NULL{' FOR UPDATE' if hold else ''}",
        hash_of(secret),
    )


def _keep_an_administrator(db: Cursor, row: Row) -> None:
    if LabRole.ADMINISTRATOR not in _roles(row["roles"]):
        return
    others = db.all(
        "SELECT id FROM account WHERE FIND_IN_SET('administrator', roles) AND closed_at IS NULL"
        " AND password IS NOT NULL AND id <> %s FOR UPDATE",
        row["id"],
    )
    if not others:
        raise ChangeError("Nobody else could administer Dosis then. Make another person administrator first.")


def _give_studies(db: Cursor, id: int, studies: Mapping[int, tuple[LabRole, ...]]) -> None:
    there = {row["id"] for row in db.all("SELECT id FROM study")}
    if missing := sorted(set(studies) - there):
        raise ChangeError(f"There is no study {missing[0]}; take it off and save again.")
    db.run("DELETE FROM account_study WHERE account_id = %s", id)
    rows: list[tuple[object, ...]] = [(id, study, _set(roles)) for study, roles in studies.items() if roles]
    db.run_many("INSERT INTO account_study (account_id, study_id, roles) VALUES (%s, %s, %s)", rows)


def _account(db: Cursor, row: Row) -> Account:
    return Account.model_validate({**row, "roles": _roles(row["roles"]), "studies": _study_roles(db, row["id"])})


def _study_roles(db: Cursor, id: int) -> StudyRoles:
    rows = db.all("SELECT study_id, roles FROM account_study WHERE account_id = %s ORDER BY study_id", id)
    return {row["study_id"]: _roles(row["roles"]) for row in rows}


def _roles(stored: str) -> tuple[LabRole, ...]:
    return tuple(LabRole(each) for each in stored.split(",") if each)


def _set(roles: tuple[LabRole, ...]) -> str:
    return ",".join(dict.fromkeys(roles))


def _said(db: Cursor, roles: tuple[LabRole, ...], studies: Mapping[int, tuple[LabRole, ...]]) -> str:
    """Roles in words for the ledger."""
    parts = [f"{' and '.join(roles)} of all studies"] if roles else []
    for study, held in studies.items():
        if held:
            row: Row = db.one("SELECT name FROM study WHERE id = %s", study) or {}
            parts.append(f"{' and '.join(held)} of “{row['name']}”")
    return "; ".join(parts) or "without any role"
