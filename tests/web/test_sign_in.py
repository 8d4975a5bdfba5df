"""Coming in and staying in: first administrator, invitations, sessions fixed, stolen and expired, codes, tokens."""

import urllib.error
from datetime import UTC, datetime
from uuid import uuid4

import httpx
import pyotp
import pytest
import typer

from dosis.cli import let_in
from dosis.people.rights import LabRole
from dosis.people.secrets import hash_of
from dosis.served import served as asked
from dosis.store import accounts
from dosis.store.database import Database
from tests.web.lab import PASSWORD, Lab


def sign_in(lab: Lab, email: str, password: str = PASSWORD, code: str = "") -> httpx.Response:
    return lab.nobody().post("/api/sign-in", json={"email": email, "password": password, "code": code})


def invited(lab: Lab) -> tuple[str, str]:
    """An address and the secret of its link."""
    email = f"{uuid4().hex[:8]}@lab.example"
    admin = lab.person(LabRole.ADMINISTRATOR)
    made = admin.post("/api/people", json={"name": f"New {email}", "email": email, "roles": ["analyst"]})
    return email, made.raise_for_status().json()["secret"]


def said(lab: Lab, action: str) -> list[str]:
    with lab.database.transaction() as db:
        return [row["words"] for row in db.all("SELECT words FROM ledger WHERE action = %s ORDER BY id", action)]


def test_the_first_administrator_comes_in_by_a_link_and_nobody_after(lab: Lab) -> None:
    with lab.database.transaction() as db:
        db.run("UPDATE account SET roles = 'reader' WHERE FIND_IN_SET('administrator', roles)")
        assert not accounts.has_administrator(db)
        link, spare = accounts.link(db, None), None
    body = {
        "secret": link,
        "password": PASSWORD,
        "name": f"Ada {uuid4().hex[:6]}",
        "email": f"{uuid4().hex[:6]}@a.example",
    }
    client = lab.nobody()
    assert client.post("/api/one-time-link", json={"secret": link}).json()["first"] is True
    assert client.post("/api/come-in", json={**body, "name": None}).status_code == 422
    assert client.post("/api/come-in", json=body).status_code == 204
    assert client.get("/api/me").json()["administers"] is True
    assert lab.nobody().post("/api/come-in", json={**body, "name": "Eve", "email": "eve@a.example"}).status_code == 422
    with lab.database.transaction() as db:
        spare = accounts.link(db, None)  # another one made for nobody in particular lets nobody in any more
    again = {**body, "secret": spare, "name": "Eve", "email": "eve@a.example"}
    assert "used a moment ago" in lab.nobody().post("/api/come-in", json=again).json()["detail"]


def test_an_invitation_works_once_and_its_password_has_to_be_good(lab: Lab) -> None:
    email, secret = invited(lab)
    weak = lab.nobody().post("/api/come-in", json={"secret": secret, "password": "password1234"})
    assert (weak.status_code, weak.json()["kind"]) == (422, "weak")
    assert lab.nobody().post("/api/come-in", json={"secret": secret, "password": PASSWORD}).status_code == 204
    assert lab.nobody().post("/api/come-in", json={"secret": secret, "password": PASSWORD}).status_code == 422
    assert sign_in(lab, email.upper()).status_code == 204


def test_a_link_ends_by_itself(lab: Lab) -> None:
    _, secret = invited(lab)
    with lab.database.transaction() as db:
        db.run("UPDATE one_time_link SET ends_at = UTC_TIMESTAMP(6) WHERE hash = %s", hash_of(secret))
    answer = lab.nobody().post("/api/one-time-link", json={"secret": secret})
    assert answer.status_code == 422 and "its time is over" in answer.json()["detail"]


def test_the_cookie_cannot_be_read_by_scripts_nor_sent_by_other_sites(lab: Lab) -> None:
    email = lab.person(LabRole.READER).headers["X-Test-Email"]
    cookie = sign_in(lab, email).headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=strict" in cookie and "path=/" in cookie


def test_a_session_that_somebody_else_has_set_is_not_taken_over(lab: Lab) -> None:
    """Fixation: signing in begins a session with a secret of its own, whatever the browser sent."""
    email = lab.person(LabRole.READER).headers["X-Test-Email"]
    client = lab.nobody()
    client.cookies.set("dosis", "fixed-by-somebody-else")
    client.post("/api/sign-in", json={"email": email, "password": PASSWORD})
    thief = lab.nobody()
    thief.cookies.set("dosis", "fixed-by-somebody-else")
    assert thief.get("/api/me").status_code == 401


def test_a_stolen_cookie_cannot_change_anything_and_ends_with_the_password(lab: Lab) -> None:
    own = lab.person(LabRole.ANALYST)
    thief = lab.nobody()
    thief.cookies.set("dosis", own.cookies["dosis"])
    answer = thief.post("/api/studies", json={"name": "Stolen"})
    assert (answer.status_code, answer.json()["kind"]) == (403, "page_key")
    second = lab.nobody()
    second.post("/api/sign-in", json={"email": own.headers["X-Test-Email"], "password": PASSWORD})
    assert second.get("/api/me").status_code == 200
    new = {"current": PASSWORD, "password": "another broth of mussels"}
    assert own.put("/api/me/password", json=new).status_code == 204
    assert second.get("/api/me").status_code == 401  # all others end
    assert own.get("/api/me").status_code == 200


@pytest.mark.parametrize(("column", "hours", "status"), [
    ("seen_at", 0.98, 200), ("seen_at", 1.02, 401), ("made_at", 11.9, 200), ("made_at", 12.1, 401),
])  # fmt: skip
def test_a_session_ends_when_idle_and_at_the_end_of_a_day(lab: Lab, column: str, hours: float, status: int) -> None:
    own = lab.person(LabRole.READER)
    with lab.database.transaction() as db:
        db.run(f"UPDATE session SET {column} = UTC_TIMESTAMP(6) - INTERVAL %s SECOND WHERE hash = %s",
               int(hours * 3600), hash_of(own.cookies["dosis"]))  # fmt: skip
    assert own.get("/api/me").status_code == status


def test_sessions_are_listed_and_ended_one_by_one(lab: Lab) -> None:
    own = lab.person(LabRole.READER)
    other = lab.nobody()
    other.post("/api/sign-in", json={"email": own.headers["X-Test-Email"], "password": PASSWORD})
    found = own.get("/api/me/open").json()
    assert len(found["sessions"]) == 2
    second = next(each["id"] for each in found["sessions"] if each["id"] != found["session"])
    assert own.delete(f"/api/me/sessions/{second}").status_code == 204
    assert other.get("/api/me").status_code == 401
    assert own.post("/api/sign-out").status_code == 204
    assert own.get("/api/me").status_code == 401


def test_nobody_ends_the_sessions_of_another(lab: Lab) -> None:
    own, other = lab.person(LabRole.READER), lab.person(LabRole.READER)
    session = other.get("/api/me/open").json()["session"]
    own.delete(f"/api/me/sessions/{session}")
    assert other.get("/api/me").status_code == 200


def test_guessing_is_slowed_down_for_an_account_and_not_for_others(lab: Lab) -> None:
    email = lab.person(LabRole.READER).headers["X-Test-Email"]
    before = len(said(lab, "sign-in refused"))
    for _ in range(5):
        assert sign_in(lab, email, "wrong password").status_code == 401
    answer = sign_in(lab, email)  # even the right one has to wait
    assert answer.status_code == 429 and int(answer.headers["retry-after"]) <= 30
    assert "Wait" in answer.json()["detail"]
    assert len(said(lab, "sign-in refused")) == before + 5
    other = lab.person(LabRole.READER).headers["X-Test-Email"]
    assert sign_in(lab, other).status_code == 204
    with lab.database.transaction() as db:
        db.run("UPDATE refused_sign_in SET at = at - INTERVAL 31 SECOND WHERE email = %s", email)
    assert sign_in(lab, email).status_code == 204


def test_an_address_that_guesses_many_accounts_is_slowed_down(lab: Lab) -> None:
    email = lab.person(LabRole.READER).headers["X-Test-Email"]
    with lab.database.transaction() as db:
        db.run("DELETE FROM refused_sign_in")
        for i in range(19):
            db.run("INSERT INTO refused_sign_in (email, address) VALUES (%s, '127.0.0.1')", f"{i}@x.example")
    assert sign_in(lab, email).status_code == 204
    with lab.database.transaction() as db:
        db.run("INSERT INTO refused_sign_in (email, address) VALUES ('20@x.example', '127.0.0.1')")
    assert sign_in(lab, email).status_code == 429
    with lab.database.transaction() as db:
        db.run("DELETE FROM refused_sign_in")


def test_an_unknown_address_is_answered_as_a_wrong_password(lab: Lab) -> None:
    known = lab.person(LabRole.READER).headers["X-Test-Email"]
    answers = [sign_in(lab, email, "wrong password").json() for email in (known, f"{uuid4().hex}@x.example")]
    assert answers[0] == answers[1]


def test_a_code_from_a_telephone_is_asked_for_and_works_once(lab: Lab) -> None:
    own = lab.person(LabRole.READER)
    email = own.headers["X-Test-Email"]
    key = own.get("/api/me/code-key").json()
    assert key["address"].startswith("otpauth://totp/Dosis:")
    use = {"password": PASSWORD, "key": key["key"]}
    assert own.put("/api/me/codes", json={**use, "code": "000000"}).status_code == 422
    totp = pyotp.TOTP(key["key"])
    assert own.put("/api/me/codes", json={**use, "code": totp.now()}).status_code == 204
    answer = sign_in(lab, email)
    assert (answer.status_code, answer.json()["kind"]) == (401, "code")
    later = totp.at(int(datetime.now(UTC).timestamp()) + 30)  # the one of setting up has been used
    assert sign_in(lab, email, code=later).status_code == 204
    assert sign_in(lab, email, code=later).status_code == 401
    assert own.put("/api/me/codes", json={"password": PASSWORD}).status_code == 204
    assert sign_in(lab, email).status_code == 204


def test_a_closed_account_is_out_at_once_and_stays_in_the_ledger(lab: Lab) -> None:
    admin, own = lab.person(LabRole.ADMINISTRATOR), lab.person(LabRole.ANALYST)
    token = own.post("/api/me/tokens", json={"name": "robot"}).json()["secret"]
    assert admin.put(f"/api/people/{own.headers['X-Test-Account']}/closed", json={"closed": True}).status_code == 204
    assert own.get("/api/me").status_code == 401
    assert lab.nobody().get("/api/me", headers={"Authorization": f"Bearer {token}"}).status_code == 401
    assert sign_in(lab, own.headers["X-Test-Email"]).status_code == 401
    listed = {each["email"]: each for each in admin.get("/api/people").json()}
    assert listed[own.headers["X-Test-Email"]]["closed"] is True
    assert admin.put(f"/api/people/{own.headers['X-Test-Account']}/closed", json={"closed": False}).status_code == 204
    assert sign_in(lab, own.headers["X-Test-Email"]).status_code == 204


def test_the_last_administrator_stays(lab: Lab) -> None:
    with lab.database.transaction() as db:
        db.run("UPDATE account SET roles = 'reader' WHERE FIND_IN_SET('administrator', roles)")
    admin = lab.person(LabRole.ADMINISTRATOR)
    own = admin.headers["X-Test-Account"]
    assert "Nobody else" in admin.put(f"/api/people/{own}/closed", json={"closed": True}).json()["detail"]
    assert admin.put(f"/api/people/{own}/rights", json={"roles": ["analyst"]}).status_code == 422
    lab.person(LabRole.ADMINISTRATOR)
    assert admin.put(f"/api/people/{own}/rights", json={"roles": ["analyst"]}).status_code == 204
    assert admin.get("/api/people").status_code == 403  # at once


def test_a_token_does_what_its_scope_says_and_no_more(lab: Lab) -> None:
    own = lab.person(LabRole.ANALYST)
    study = own.post("/api/studies", json={"name": "Of a script"}).json()["id"]
    nowhere = own.post("/api/me/tokens", json={"name": "nowhere", "study": 99_999_999})
    assert nowhere.status_code == 422 and "no such study" in nowhere.json()["detail"]
    secret = own.post("/api/me/tokens", json={"name": "reads one", "study": study}).json()["secret"]
    assert secret.startswith("dosis_")
    script = lab.nobody()
    script.headers["Authorization"] = f"Bearer {secret}"
    assert [each["id"] for each in script.get("/api/studies").json()] == [study]
    assert script.get("/api/studies/1").status_code == 404
    assert script.post("/api/studies", json={"name": "no"}).status_code == 403
    assert script.post("/api/me/tokens", json={"name": "more"}).status_code == 403
    works = own.post("/api/me/tokens", json={"name": "works", "scope": "work"}).json()["secret"]
    script.headers["Authorization"] = f"Bearer {works}"
    assert script.post("/api/studies", json={"name": "yes"}).status_code == 201  # no page key is needed
    open_ones = own.get("/api/me/open").json()["tokens"]
    assert own.delete(f"/api/me/tokens/{open_ones[1]['id']}").status_code == 204
    assert script.get("/api/studies").status_code == 401
    assert own.get("/api/me/open").json()["tokens"][0]["seen_at"] is not None


def test_a_token_ends_by_itself(lab: Lab) -> None:
    own = lab.person(LabRole.READER)
    secret = own.post("/api/me/tokens", json={"name": "short", "days": 1}).json()["secret"]
    header = {"Authorization": f"Bearer {secret}"}
    assert lab.nobody().get("/api/me", headers=header).status_code == 200
    with lab.database.transaction() as db:
        db.run("UPDATE token SET ends_at = UTC_TIMESTAMP(6) WHERE hash = %s", hash_of(secret))
    assert lab.nobody().get("/api/me", headers=header).status_code == 401


def test_secrets_are_nowhere_in_the_database(lab: Lab) -> None:
    own = lab.person(LabRole.READER)
    secrets = [own.cookies["dosis"], own.post("/api/me/tokens", json={"name": "kept"}).json()["secret"]]
    with lab.database.transaction() as db:
        for table in ("session", "token", "one_time_link", "account", "ledger"):
            kept = repr(db.all(f"SELECT * FROM {table}"))
            assert all(secret not in kept for secret in [*secrets, PASSWORD])


def test_one_who_works_alone_has_no_accounts(site: object, database: Database) -> None:
    client = httpx.Client(base_url=site.url)  # type: ignore[attr-defined]
    me = client.get("/api/me").json()
    assert me["by_itself"] is True and set(me["rights"]) == {"read", "work", "review", "administer"}
    assert client.post("/api/sign-in", json={"email": "a@b.example", "password": "x"}).status_code == 422


def test_the_machine_itself_can_let_somebody_in(
    lab: Lab, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    email = lab.person(LabRole.ADMINISTRATOR).headers["X-Test-Email"]
    monkeypatch.setenv("DOSIS_DATABASE_URL", lab.database.url)
    let_in(email.upper())
    secret = capsys.readouterr().out.split("#")[1].split()[0]
    assert lab.nobody().post("/api/one-time-link", json={"secret": secret}).json()["email"] == email
    assert any("One-time link made for" in words for words in said(lab, "link"))
    with pytest.raises(typer.Exit):
        let_in("nobody@x.example")


def test_the_shell_commands_send_the_token_of_their_environment(lab: Lab, monkeypatch: pytest.MonkeyPatch) -> None:
    secret = lab.person(LabRole.READER).post("/api/me/tokens", json={"name": "shell"}).json()["secret"]
    monkeypatch.setenv("DOSIS_PORT", lab.url.rsplit(":", 1)[1])
    with pytest.raises(urllib.error.HTTPError):
        asked("studies")
    monkeypatch.setenv("DOSIS_TOKEN", secret)
    assert b"Autumn mussel survey" in asked("studies")
