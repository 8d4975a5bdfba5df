"""A study read in from its archive: the same runs, revisions and ledgers, of which the same archive can be written."""

import zlib
from datetime import datetime
from typing import Any
from uuid import uuid4

from dosis.intake.methods.kept import KeptMethod
from dosis.intake.text import MAX_BYTES, IntakeError
from dosis.intake.understanding import Choices
from dosis.run.method import Method
from dosis.store import files, ledger, measures, methods, notes, recordings, revisions
from dosis.store.archive import PARTS, Archive, original_of
from dosis.store.cards import Card
from dosis.store.database import Cursor
from dosis.store.packing import pack, pack_text
from dosis.store.worked import Do, here


def read_study(db: Cursor, archive: Archive, author: str, do: Do = here) -> int:
    """Make the study of an archive anew; its id. Nothing that is there already is touched.

    Raises
    ------
    IntakeError : when the archive is not as it was written.
    """
    if altered := archive.altered():
        more = f" and {len(altered) - 1} more" if len(altered) > 1 else ""
        raise IntakeError(f"The archive is not as it was written: {altered[0]}{more}. Nothing was read in.")
    study = archive.json("study.json")
    id = db.run(
        "INSERT INTO study (name, description, created_at) VALUES (%s, %s, %s)",
        study["name"], study["description"], datetime.fromisoformat(study["created_at"]),
    )  # fmt: skip
    made = [_read_run(db, archive, folder, id) for folder in archive.folders]
    for run, folder in zip(made, archive.folders, strict=True):
        found = archive.json(f"{folder}/run.json")
        for column in ("from_run", "copied_from"):
            if found[column] is not None:
                db.run(f"UPDATE run SET {column} = %s WHERE id = %s", made[found[column] - 1], run)
        _answers(db, run, archive, folder, do)
    count = "1 run" if len(made) == 1 else f"{len(made)} runs"
    ledger.write(db, author, "read study in", f"Study “{study['name']}” read in from an archive, {count}", study=id)
    return id


def _read_run(db: Cursor, archive: Archive, folder: str, study: int) -> int:
    found = archive.json(f"{folder}/run.json")
    now = f"{folder}/revision-{found['current']}"
    method = Method.model_validate_json(archive.text(f"{now}/method.json"))
    card = Card.model_validate_json(archive.text(f"{now}/card.json"))
    at = datetime.fromisoformat(found["created_at"])
    run = db.run(
        "INSERT INTO run (study_id, title, description, current, create_key, created_at, question, state, archived_at)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, IF(%s, UTC_TIMESTAMP(6), NULL))",
        study, found["title"], found["description"], found["current"], str(uuid4()), at, method.question,
        card.state.value, found["archived"],
    )  # fmt: skip
    for tag in found["tags"]:
        db.run("INSERT INTO run_tag (run_id, tag) VALUES (%s, %s)", run, tag)
    _method(db, run, found)
    for place, text in found.get("notes", {}).items():
        notes.put(db, run, place, text, "")
    originals: dict[int, tuple[int | None, bytes]] = {}
    for each in found["readings"]:
        readings, choices = archive.readings(folder, each["number"]), Choices.model_validate(each["choices"])
        cells, of = recordings.kept(readings, db.scratch), each.get("source_of", 1)
        name = each.get("source_name", found["source_name"])
        if of not in originals:
            originals[of] = _original(db, archive, original_of(folder, of), name)
        file, source = originals[of]
        db.run(
            "INSERT INTO readings (run_id, number, source_of, source_name, source, choices, cells, file_id, numbers)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)",
            run, each["number"], of, name, source if each["number"] == of else b"", pack(choices),
            recordings.parted(cells)[0], file, recordings.name_in(cells),
        )  # fmt: skip
        recordings.write(db, run, each["number"], cells)
    for each in found["revisions"]:
        own = f"{folder}/revision-{each['number']}"
        parts = {
            name: pack_text(kind, archive.text(f"{own}/{name}.json")) if archive.has(f"{own}/{name}.json") else None
            for name, kind in PARTS
        }
        db.run(
            "INSERT INTO revision (run_id, number, origin, undo_to, redo_to, readings, layout, method, outcome, digest,"
            " program, working, card, author, words, change_key, created_at)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
            run, each["number"], each["origin"], each["undo_to"], each["redo_to"], each["readings"], parts["layout"],
            parts["method"], parts["outcome"], bytes.fromhex(each["sha256"]) if each["sha256"] else None,
            each["program"], parts["working"], parts["card"], each["author"], each["words"], str(uuid4()),
            datetime.fromisoformat(each["created_at"]),
        )  # fmt: skip
    for entry in found["ledger"]:
        db.run(
            "INSERT INTO ledger (at, author, study_id, run_id, revision, action, words)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s)",
            datetime.fromisoformat(entry["at"]), entry["author"], study, run, entry["revision"], entry["action"],
            entry["words"],
        )  # fmt: skip
    return run


def _method(db: Cursor, run: int, found: dict[str, Any]) -> None:
    """The method a run came with: one that is here already and says the same, else a draft of its name."""
    db.run("UPDATE run SET departs = %s WHERE id = %s", found.get("departs", ""), run)
    if found.get("method"):
        body = KeptMethod.model_validate(found["method"])
        used = methods.same(db, body) or methods.keep(db, body, "came with a study", methods.DOSIS, use=False)
        methods.set_used(db, run, *used)


def _original(db: Cursor, archive: Archive, place: str, name: str) -> tuple[int | None, bytes]:
    """What the run was made from: the id of a file in pieces where it is large, else packed as it is kept."""
    with archive.open(place) as source:
        start = source.read(MAX_BYTES + 1)
        if len(start) <= MAX_BYTES:
            return None, zlib.compress(start, 6)
        size = archive.size(place)
        id = files.begin(db, files.NewFile(key=str(uuid4()), name=name, size=size), "Dosis")
        rest, number = start, 0
        while rest:
            while len(rest) < files.PIECE and (more := source.read(files.PIECE)):
                rest += more
            files.put(db, id, number, rest[: files.PIECE])
            rest, number = rest[files.PIECE :], number + 1
    return id, zlib.compress(b"", 6)


def _answers(db: Cursor, run: int, archive: Archive, folder: str, do: Do) -> None:
    """The rows that lists and searches look at, of the revision that is current."""
    worked = revisions.as_stored(db, run, do=do)
    assert worked is not None
    if worked.answers is not None:
        revisions.put_answers(db, run, worked.answers, worked.unit)
    if worked.measures is not None:
        measures.put(db, run, worked.measures)
