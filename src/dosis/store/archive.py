"""A whole study in one file, for another Dosis or for good: its runs with originals, revisions, ledger and answers.

A ZIP archive of JSON documents, original files and CSV, the same to the byte whenever the same study is written:

    manifest.json                 form, program, and the SHA-256 of every other file
    study.json                    what the study is called and about
    runs/0001/run.json            what the run is called, its sets of readings, its revisions, its ledger
    runs/0001/original            what it was made from, as it came
    runs/0001/readings-1.json     a set of readings; of curves the numbers in readings-1.npy: axis, then rows
    runs/0001/revision-1/…        layout, method, outcome, working and card of a revision, as JSON; without the outcome
                                  where it was not stored whole
    runs/0001/answers.csv         the answers as they stand
    runs/0001/figure.svg          the figure as it stands
    schema.json                   the JSON schema of each kind of document
"""

import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Iterator
from typing import IO, Any

import numpy as np
from pydantic import BaseModel

from dosis import __version__
from dosis.intake.methods.kept import KeptMethod
from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Readings
from dosis.run.recording import Recording
from dosis.store import listing, methods, notes, revisions, runs
from dosis.store.cards import Card
from dosis.store.database import Cursor, Row
from dosis.store.packing import unpack_text
from dosis.store.recordings import parted, unpacked
from dosis.store.working import Working

FORM = 1
ROWS = 1_000_000  # numbers of a recording that are written at once
WHEN = (1980, 1, 1, 0, 0, 0)  # of every file in it: the archive of a study does not depend on the day
PARTS: tuple[tuple[str, Any], ...] = (
    ("layout", Layout), ("method", Method), ("outcome", Outcome), ("working", Working), ("card", Card),
)  # fmt: skip
# The answers of an outcome as a file for people: (title, readings, layout, outcome) to bytes.
# What a run looks like from outside: the file of its answers, and its figure.
Shown = Callable[[str, Readings, Layout, Method, Outcome], tuple[bytes, bytes]]
Pieces = Callable[[int], Iterator[bytes]]


class _Writer:
    """An archive that is written file by file, each with its digest."""

    def __init__(self, file: IO[bytes]) -> None:
        self._zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=1, allowZip64=True)
        self.digests: dict[str, str] = {}

    def put(self, name: str, parts: Iterator[bytes]) -> None:
        info = zipfile.ZipInfo(name, WHEN)
        info.compress_type = zipfile.ZIP_DEFLATED
        found = hashlib.sha256()
        with self._zip.open(info, "w", force_zip64=True) as to:
            for part in parts:
                found.update(part)
                to.write(part)
        self.digests[name] = found.hexdigest()

    def put_json(self, name: str, document: object) -> None:
        self.put(name, iter([_json(document)]))

    def close(self) -> None:
        manifest = {"form": FORM, "program": __version__, "sha256": dict(sorted(self.digests.items()))}
        self._zip.writestr(zipfile.ZipInfo("manifest.json", WHEN), _json(manifest))
        self._zip.close()


def write(db: Cursor, study: int, to: IO[bytes], pieces: Pieces, shown: Shown) -> bool:
    """Write a study, those of its runs that are put away with it; not those in the bin. False for no such study.

    pieces : brings a large file, by its id, as it came. shown : makes the file of answers and the figure.
    """
    row = db.one("SELECT name, description, created_at FROM study WHERE id = %s", study)
    if row is None:
        return False
    ids = [int(each["id"]) for each in db.all(
        "SELECT id FROM run WHERE study_id = %s AND binned_at IS NULL AND gone_at IS NULL ORDER BY id", study
    )]  # fmt: skip
    archive = _Writer(to)
    archive.put_json("study.json", {
        "name": row["name"], "description": row["description"], "created_at": row["created_at"], "runs": len(ids),
    })  # fmt: skip
    archive.put_json("schema.json", schema())
    places = {id: place for place, id in enumerate(ids, start=1)}
    for id, place in places.items():
        _write_run(db, archive, id, f"runs/{place:04}", places, pieces, shown)
    archive.close()
    return True


def _write_run(
    db: Cursor, archive: _Writer, id: int, folder: str, places: dict[int, int], pieces: Pieces, shown: Shown
) -> None:
    run: Row = db.one("SELECT * FROM run WHERE id = %s", id) or {}
    sets = db.all(
        "SELECT number, source_of, source_name, choices, file_id FROM readings WHERE run_id = %s ORDER BY number", id
    )  # fmt: skip
    made = db.all(
        "SELECT number, origin, undo_to, redo_to, readings, author, words, created_at, digest, program, layout, method,"
        " outcome, working, card FROM revision WHERE run_id = %s ORDER BY number",
        id,
    )  # fmt: skip
    archive.put_json(f"{folder}/run.json", {
        "title": run["title"], "description": run["description"], "tags": listing.tags_of(db, id),
        "created_at": run["created_at"], "archived": run["archived_at"] is not None, "current": run["current"],
        "from_run": places.get(run["from_run"]), "copied_from": places.get(run["copied_from"]),
        "source_name": sets[0]["source_name"],
        "readings": [
            {"number": each["number"], "choices": json.loads(unpack_text(Choices, each["choices"]))}
            | ({} if each["source_of"] == 1 else {key: each[key] for key in ("source_of", "source_name")})
            for each in sets
        ],
        "method": _method(db, run), "departs": run["departs"], "notes": notes.of_run(db, id),
        "revisions": [
            {key: each[key] for key in ("number", "origin", "undo_to", "redo_to", "readings", "author", "words",
                                        "created_at", "program")}
            | {"sha256": each["digest"].hex() if each["digest"] else None}
            for each in made
        ],
        "ledger": db.all(
            "SELECT at, author, revision, action, words FROM ledger WHERE run_id = %s ORDER BY id", id
        ),
    })  # fmt: skip
    for each in sets:
        if each["source_of"] == each["number"]:
            file, name = each["file_id"], original_of(folder, each["number"])
            own = iter([runs.source(db, id, each["number"]) or b""]) if file is None else pieces(int(file))
            archive.put(name, own)
    for each in sets:
        cells = revisions.cells_of(db, id, each["number"])
        archive.put(f"{folder}/readings-{each['number']}.json", iter([unpack_text(Readings, parted(cells)[0])]))
        recording = unpacked(cells).recording
        if recording is not None:
            archive.put(f"{folder}/readings-{each['number']}.npy", _npy(recording))
    for each in made:
        for name, kind in PARTS:
            if each[name] is not None:
                text = unpack_text(kind, each[name])
                archive.put(f"{folder}/revision-{each['number']}/{name}.json", iter([text]))
    now = revisions.get(db, id)
    if now is not None:
        readings = runs.readings(db, id)
        answers, figure = shown(run["title"], readings, now.layout, now.method, now.outcome)
        archive.put(f"{folder}/answers.csv", iter([answers]))
        archive.put(f"{folder}/figure.svg", iter([figure]))


def schema() -> dict[str, Any]:
    """The JSON schema of each kind of document in an archive, by its name."""
    kinds: dict[str, type[BaseModel]] = {
        "readings": Readings, "layout": Layout, "method": Method, "outcome": Outcome, "working": Working, "card": Card,
        "choices": Choices, "kept method": KeptMethod,
    }  # fmt: skip
    return {name: kind.model_json_schema(mode="serialization") for name, kind in kinds.items()}


def original_of(folder: str, number: int) -> str:
    """Where what a set of readings was made from stands."""
    return f"{folder}/original" if number == 1 else f"{folder}/original-{number}"


def _method(db: Cursor, run: Row) -> dict[str, object] | None:
    """The method a run was worked by, whole: where it is read in, its versions have other numbers."""
    body = methods.version(db, run["method_id"], run["method_version"]) if run["method_id"] else None
    return None if body is None else body.model_dump(mode="json")


def _npy(recording: Recording) -> Iterator[bytes]:
    """The axis and the rows as one array, (1 + readings, n), in NumPy's own form."""
    shape = (1 + len(recording.y), recording.x.size)
    head = np.lib.format.header_data_from_array_1_0(np.empty((0, 0), dtype="<f8")) | {"shape": shape}
    yield _npy_head(head)
    for row in (recording.x, *recording.y):
        for first in range(0, row.size, ROWS):
            yield np.ascontiguousarray(row[first : first + ROWS], dtype="<f8").tobytes()


def _npy_head(head: dict[str, Any]) -> bytes:
    file = io.BytesIO()
    np.lib.format.write_array_header_1_0(file, head)
    return file.getvalue()


def _json(document: object) -> bytes:
    def plain(value: object) -> object:
        return value.isoformat() if hasattr(value, "isoformat") else str(value)

    return json.dumps(document, ensure_ascii=False, indent=1, sort_keys=True, default=plain).encode()


class Archive:
    """An archive that is read.

    Raises
    ------
    IntakeError : for a file that is no archive of a study, is damaged, was altered, or comes from a newer program.
    """

    def __init__(self, file: IO[bytes] | io.RawIOBase) -> None:
        try:
            self._zip = zipfile.ZipFile(file)
            manifest = json.loads(self._zip.read("manifest.json"))
            self.digests: dict[str, str] = manifest["sha256"]
            form = manifest["form"]
        except (zipfile.BadZipFile, KeyError, ValueError) as error:
            raise IntakeError("This is no archive of a study, or it is damaged.") from error
        if form != FORM:
            raise IntakeError(f"This archive is of form {form}, which this program does not know; use a newer one.")

    def altered(self) -> list[str]:
        """The files that are not as they were written, or that are missing or too many."""
        there = {name for name in self._zip.namelist() if name != "manifest.json"}
        found = sorted(there ^ set(self.digests))
        for name in sorted(there & set(self.digests)):
            try:
                digest = hashlib.sha256()
                with self._zip.open(name) as file:
                    for part in iter(lambda: file.read(1_000_000), b""):
                        digest.update(part)
            except (zipfile.BadZipFile, OSError, EOFError, ValueError):
                found.append(name)
                continue
            if digest.hexdigest() != self.digests[name]:
                found.append(name)
        return found

    def has(self, name: str) -> bool:
        """Whether there is such a file."""
        return name in self.digests

    def text(self, name: str) -> bytes:
        """A file of it, whole."""
        return self._zip.read(name)

    def json(self, name: str) -> Any:
        """A document of it."""
        return json.loads(self._zip.read(name))

    def open(self, name: str) -> IO[bytes]:
        """A file of it, to be read a part at a time."""
        return self._zip.open(name)

    def size(self, name: str) -> int:
        """How many bytes a file of it has."""
        return self._zip.getinfo(name).file_size

    @property
    def folders(self) -> list[str]:
        """The folders of its runs, in order."""
        return [f"runs/{place:04}" for place in range(1, self.json("study.json")["runs"] + 1)]

    def readings(self, folder: str, number: int) -> Readings:
        """A set of readings of a run."""
        found = Readings.model_validate_json(self.text(f"{folder}/readings-{number}.json"))
        if not self.has(name := f"{folder}/readings-{number}.npy"):
            return found
        with self.open(name) as file:
            whole = np.lib.format.read_array(file, allow_pickle=False)
        return found.model_copy(update={"recording": Recording(whole[0], whole[1:])})
