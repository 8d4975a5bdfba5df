"""Review of a run: handing in, remarks and their answers, signatures. Each is one transaction with its ledger row."""

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from dosis.run.changes import ChangeError
from dosis.run.record import Record, Time
from dosis.store import ledger, seals
from dosis.store.database import Cursor, Row
from dosis.store.revisions import Stale
from dosis.store.sessions import Person
from dosis.store.stages import Stage

Move = Literal["hand in", "take back", "new draft", "review", "send back"]
Meaning = Literal["approval", "review", "responsibility", "authorship"]
Text = Annotated[str, StringConstraints(min_length=1, max_length=4_000, strip_whitespace=True)]

# Of each move: the stages it starts from, the one it ends in, and what the Ledger says.
MOVES: Mapping[Move, tuple[tuple[Stage, ...], Stage, str]] = {
    "hand in": (("draft",), "handed in", "Handed in for review"),
    "take back": (("handed in", "reviewed"), "draft", "Taken back"),
    "new draft": (("signed",), "draft", "New draft opened"),
    "review": (("handed in",), "reviewed", "Reviewed"),
    "send back": (("handed in", "reviewed"), "draft", "Sent back"),
}
OWN_REVIEW = "own review"  # the setting by which one may review what one has handed in


class ReviewStep(Record):
    """One step of the way to a signature."""

    revision: int
    stage: Stage
    author: str
    words: str
    at: Time


class Signature(Record):
    """Who signed which revision, when, and what that means. digest : of what was signed, SHA-256 in hex."""

    revision: int
    name: str
    meaning: Meaning
    digest: str
    at: Time


class RemarkAnswer(Record):
    """What was answered to a remark."""

    text: str
    author: str
    at: Time


class ReviewRemark(Record):
    """A remark on a place of a run: "run", "reading:", "step:" or "answer:" with an id. named : what that is called."""

    id: int
    revision: int
    place: str
    named: str
    text: str
    author: str
    at: Time
    closed_by: str | None
    closed_at: Time | None
    answers: tuple[RemarkAnswer, ...] = ()


class Review(Record):
    """How the review of a run stands. digest : of the current revision. follows : the signed one before it."""

    stage: Stage
    revision: int
    follows: int | None
    digest: str
    handed_in_by: str
    steps: tuple[ReviewStep, ...]
    signatures: tuple[Signature, ...]
    remarks: tuple[ReviewRemark, ...]


class NewRemark(Record):
    """A remark to make."""

    place: Annotated[str, Field(max_length=200, pattern="^(run|(reading|step|answer):.+)$")]
    named: Annotated[str, Field(min_length=1, max_length=300)]
    text: Text


def of_run(db: Cursor, run: int) -> Review | None:
    """The review of a run; None for no such run."""
    row = db.one("SELECT stage, current, follows FROM run WHERE id = %s AND gone_at IS NULL", run)
    if row is None:
        return None
    steps = db.all("SELECT revision, stage, author, words, at FROM review_step WHERE run_id = %s ORDER BY id", run)
    answers = db.all(
        "SELECT remark_id, remark_answer.text, remark_answer.author, remark_answer.at FROM remark_answer"
        " JOIN remark ON remark.id = remark_id WHERE run_id = %s ORDER BY remark_answer.id",
        run,
    )
    remarks = [
        ReviewRemark.model_validate({**each, "answers": tuple(
            RemarkAnswer(text=a["text"], author=a["author"], at=a["at"])
            for a in answers if a["remark_id"] == each["id"]
        )})
        for each in db.all(
            "SELECT id, revision, place, named, text, author, at, closed_by, closed_at FROM remark WHERE run_id = %s"
            " ORDER BY id",
            run,
        )
    ]  # fmt: skip
    return Review(
        stage=row["stage"], revision=row["current"], follows=row["follows"], digest=_digest(db, run, row["current"]),
        handed_in_by=_handed_in_by(db, run), steps=tuple(ReviewStep.model_validate(each) for each in steps),
        signatures=tuple(signatures(db, run)), remarks=tuple(remarks),
    )  # fmt: skip


def signatures(db: Cursor, run: int, revision: int | None = None) -> list[Signature]:
    """A run's signatures, or those of one revision, in time."""
    rows = db.all("SELECT revision, name, meaning, digest, at FROM signature WHERE run_id = %s ORDER BY id", run)
    return [
        Signature.model_validate({**row, "digest": bytes(row["digest"]).hex()})
        for row in rows if revision is None or row["revision"] == revision
    ]  # fmt: skip


def move(db: Cursor, run: int, what: Move, based_on: int, words: str, who: Person) -> None:
    """Bring a run a step further, or back.

    Raises
    ------
    Stale : when it has moved on. ChangeError : where it does not stand there, or who asks may not.
    """
    row = _held(db, run, based_on)
    start, end, said = MOVES[what]
    if row["stage"] not in start:
        raise ChangeError(f"The run is {_is(row['stage'])}, so there is nothing to {what}. Load the page anew.")
    if what in ("send back", "new draft") and not words:
        raise ChangeError("Say why, in a few words: the Ledger keeps it.")
    if what == "review":
        _may_review(db, run, who)
        _all_closed(db, run)
    if what == "new draft":
        last = signatures(db, run)[-1]
        db.run("UPDATE run SET follows = %s WHERE id = %s", last.revision, run)
        said += f", which follows revision {last.revision}, signed by {last.name} on {last.at:%Y-%m-%d}"
    _step(db, run, row, end, who, words)
    ledger.write(db, who.name, what, f"{said}{f': {words}' if words else ''}", study=row["study_id"], run=run,
                 revision=row["current"])  # fmt: skip


def sign(db: Cursor, run: int, based_on: int, digest: str, meaning: Meaning, who: Person) -> None:
    """Sign what was shown, of that digest. Raises Stale or ChangeError."""
    row = _held(db, run, based_on)
    if row["stage"] != "reviewed":
        raise ChangeError(f"The run is {_is(row['stage'])}; only one that was reviewed is signed.")
    _may_review(db, run, who)
    _all_closed(db, run)
    found = _digest(db, run, row["current"])
    if found != digest:
        raise ChangeError("What was shown is not what the run is now. Load the page anew and look at it again.")
    db.run(
        "INSERT INTO signature (run_id, revision, account_id, name, meaning, digest) VALUES (%s, %s, %s, %s, %s, %s)",
        run, row["current"], who.account, who.name, meaning, bytes.fromhex(found),
    )  # fmt: skip
    _step(db, run, row, "signed", who, meaning)
    said = f"Signed as {meaning}: revision {row['current']}, SHA-256 {found}"
    ledger.write(db, who.name, "sign", said, study=row["study_id"], run=run, revision=row["current"])


def remark(db: Cursor, run: int, new: NewRemark, who: Person) -> int:
    """Make a remark; its id."""
    row = _held(db, run)
    if row["stage"] == "signed":
        raise ChangeError("The run is signed. Open a new draft of it first.")
    id = db.run(
        "INSERT INTO remark (run_id, revision, place, named, text, author) VALUES (%s, %s, %s, %s, %s, %s)",
        run, row["current"], new.place, new.named, new.text, who.name,
    )  # fmt: skip
    _write(db, row, who, "remark", f"ReviewRemark on {new.named}: “{new.text[:300]}”")
    return id


def answer(db: Cursor, run: int, id: int, text: str, who: Person) -> bool:
    """RemarkAnswer a remark that is open; whether there is one."""
    row, found = _held(db, run), _remark(db, run, id)
    if found is None:
        return False
    db.run("INSERT INTO remark_answer (remark_id, text, author) VALUES (%s, %s, %s)", id, text, who.name)
    _write(db, row, who, "answer remark", f"Answered the remark on {found['named']}: “{text[:300]}”")
    return True


def close(db: Cursor, run: int, id: int, who: Person) -> bool:
    """Close a remark; whether there was an open one."""
    row, found = _held(db, run), _remark(db, run, id)
    if found is None:
        return False
    db.run("UPDATE remark SET closed_by = %s, closed_at = UTC_TIMESTAMP(6) WHERE id = %s", who.name, id)
    _write(db, row, who, "close remark", f"Closed the remark on {found['named']}: “{found['text'][:300]}”")
    return True


def own_review(db: Cursor) -> bool:
    """Whether one may review what one has handed in."""
    row = db.one("SELECT value FROM lab_setting WHERE name = %s", OWN_REVIEW)
    return row is not None and row["value"] == "yes"


def allow_own_review(db: Cursor, allowed: bool, author: str) -> None:
    """Set that."""
    value = "yes" if allowed else "no"
    db.put(
        "INSERT INTO lab_setting (name, value) VALUES (%s, %s) ON DUPLICATE KEY UPDATE value = VALUES(value)",
        OWN_REVIEW, value,
    )  # fmt: skip
    said = "From now on one may review what one has handed in" if allowed else "Who hands in cannot review, from now on"
    ledger.write(db, author, "setting", said)


def _held(db: Cursor, run: int, based_on: int | None = None) -> Row:
    row = db.one("SELECT * FROM run WHERE id = %s AND gone_at IS NULL FOR UPDATE", run)
    if row is None:
        raise ChangeError("This run is not there any more.")
    if row["binned_at"] is not None:
        raise ChangeError("This run is in the bin; take it out first.")
    if based_on is not None and row["current"] != based_on:
        raise Stale(row["current"], ledger.of_run(db, run, after=based_on))
    return row


def _step(db: Cursor, run: int, row: Row, stage: Stage, who: Person, words: str) -> None:
    db.run("UPDATE run SET stage = %s WHERE id = %s", stage, run)
    db.run(
        "INSERT INTO review_step (run_id, revision, stage, account_id, author, words) VALUES (%s, %s, %s, %s, %s, %s)",
        run, row["current"], stage, who.account, who.name, words[:1000],
    )  # fmt: skip


def _write(db: Cursor, row: Row, who: Person, action: str, words: str) -> None:
    ledger.write(db, who.name, action, words, study=row["study_id"], run=row["id"], revision=row["current"])


def _remark(db: Cursor, run: int, id: int) -> Row | None:
    return db.one("SELECT * FROM remark WHERE id = %s AND run_id = %s AND closed_at IS NULL", id, run)


def _all_closed(db: Cursor, run: int) -> None:
    row: Row = db.one("SELECT COUNT(*) AS n FROM remark WHERE run_id = %s AND closed_at IS NULL", run) or {"n": 0}
    if row["n"]:
        are = "1 remark is" if row["n"] == 1 else f"{row['n']} remarks are"
        raise ChangeError(f"{are} still open. Close what is settled first, or send the run back.")


def _may_review(db: Cursor, run: int, who: Person) -> None:
    if who.account is not None and who.name == _handed_in_by(db, run) and not own_review(db):
        raise ChangeError("You have handed this run in, so somebody else has to review it.")


def _handed_in_by(db: Cursor, run: int) -> str:
    row = db.one(
        "SELECT author FROM review_step WHERE run_id = %s AND stage = 'handed in' ORDER BY id DESC LIMIT 1", run
    )
    return row["author"] if row else ""


def _digest(db: Cursor, run: int, revision: int) -> str:
    return (seals.made(db, run, revision, whole=True) or b"").hex()


def _is(stage: str) -> str:
    return "a draft" if stage == "draft" else stage
