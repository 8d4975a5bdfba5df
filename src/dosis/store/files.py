"""Files too large to be sent at once: kept in pieces as they came, and read in from there."""

import io
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Annotated

from pydantic import Field

from dosis.intake.long_files import MAX_LONG, long_sheet
from dosis.intake.sheets import Sheet
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand_sheets
from dosis.intake.understanding import Choices, Understanding
from dosis.run.record import Record
from dosis.store import scratch
from dosis.store.database import Cursor, Database, Row
from dosis.store.packing import pack
from dosis.store.recordings import laid_out, packed

PIECE = 4_000_000  # bytes of each but the last
STOPPED = "Reading the file was stopped; nothing of it was kept as a run."


class NewFile(Record):
    """A file that is about to come. The same `key` sent again makes nothing new."""

    key: Annotated[str, Field(min_length=36, max_length=36)]
    name: Annotated[str, Field(min_length=1, max_length=200)]
    size: Annotated[int, Field(ge=1)]


class FileState(Record):
    """How far a file has come: its pieces, how many of them are there, and how many were read by who reads it in."""

    id: int
    name: str
    size: int
    piece: int = PIECE
    pieces: int
    there: int
    done: int


def begin(db: Cursor, new: NewFile, author: str) -> int:
    """Make room for a file; those of which no run was made within a day are swept away.

    Raises
    ------
    IntakeError : for one that is too large.
    """
    if new.size > MAX_LONG:
        raise IntakeError(
            f"{new.name} has {new.size / 1e9:.1f} GB; Dosis takes files of up to {MAX_LONG / 1e9:.0f} GB. Split it "
            "into several recordings, or leave out columns that are not needed."
        )
    db.run(
        "DELETE FROM file WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 1 DAY"
        " AND id NOT IN (SELECT file_id FROM readings WHERE file_id IS NOT NULL)"
    )
    db.run(
        "INSERT IGNORE INTO file (name, size, make_key, author) VALUES (%s, %s, %s, %s)",
        new.name, new.size, new.key, author,
    )  # fmt: skip
    made: Row = db.one("SELECT id FROM file WHERE make_key = %s", new.key) or {}
    return int(made["id"])


def put(db: Cursor, id: int, number: int, data: bytes) -> bool:
    """Keep a piece, counted from 0; one that is there stays as it is. False for no such file.

    Raises
    ------
    IntakeError : for a piece that is none of the file's.
    """
    found = state(db, id)
    if found is None:
        return False
    whole = found.size - PIECE * number if number == found.pieces - 1 else PIECE
    if not 0 <= number < found.pieces or len(data) != whole:
        raise IntakeError(f"{found.name}: piece {number + 1} of {found.pieces} came cut short. Choose the file again.")
    db.run(
        "INSERT IGNORE INTO file_piece (file_id, number, ends, data) VALUES (%s, %s, %s, %s)",
        id, number, data.count(b"\n"), data,
    )  # fmt: skip
    return True


def state(db: Cursor, id: int) -> FileState | None:
    """How far a file has come; None for no such file."""
    row = db.one(
        "SELECT id, name, size, done, (SELECT COUNT(*) FROM file_piece WHERE file_id = file.id) AS there FROM file"
        " WHERE id = %s",
        id,
    )
    return None if row is None else FileState.model_validate({**row, "pieces": -(-row["size"] // PIECE)})


def stop(db: Cursor, id: int) -> None:
    """Have who reads it in end at the next piece."""
    db.run("UPDATE file SET stopped = TRUE WHERE id = %s", id)


def remove(db: Cursor, id: int) -> None:
    """Remove a file of which no run was made."""
    db.run("DELETE FROM file WHERE id = %s AND id NOT IN (SELECT file_id FROM readings WHERE file_id IS NOT NULL)", id)


class StoredFile(io.RawIOBase):
    """A file as it came, to be read and sought in; each piece is fetched when something in it is read.

    telling : note in the database how many pieces were read, and end where a person has stopped it.

    Raises
    ------
    IntakeError : when there is no such file, it has not come whole, or its reading was stopped.
    """

    def __init__(self, database: Database, id: int, *, telling: bool = False) -> None:
        self._database, self._id, self._telling = database, id, telling
        with database.transaction() as db:
            found = state(db, id)
            if found is None or found.there < found.pieces:
                raise IntakeError("The file has not come whole. Choose it again.")
            row: Row = db.one("SELECT SUM(ends) + 1 AS ends FROM file_piece WHERE file_id = %s", id) or {}
            if telling:
                db.run("UPDATE file SET done = 0, stopped = FALSE WHERE id = %s", id)
        self.name, self.size, self.lines = found.name, found.size, int(row["ends"])
        self._at, self._done = 0, 0
        self._piece, self._number = b"", -1

    def readable(self) -> bool:
        """It is."""
        return True

    def seekable(self) -> bool:
        """It is."""
        return True

    def tell(self) -> int:
        """Where it is read next."""
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go there."""
        self._at = max({io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self.size}[whence] + offset, 0)
        return self._at

    def pieces(self) -> Iterator[bytes]:
        """All of it, as it came."""
        for number in range(-(-self.size // PIECE)):
            self._fetch(number)
            yield self._piece

    def readinto(self, into: memoryview) -> int:  # type: ignore[override]
        """Fill it, from as many pieces as it takes."""
        filled = 0
        while filled < len(into) and self._at < self.size:
            number, first = divmod(self._at, PIECE)
            self._fetch(number)
            some = self._piece[first : first + len(into) - filled]
            into[filled : filled + len(some)] = some
            filled += len(some)
            self._at += len(some)
        return filled

    def _fetch(self, number: int) -> None:
        if number == self._number:
            return
        with self._database.transaction() as db:
            row: Row = db.one(
                "SELECT data, stopped FROM file_piece JOIN file ON file.id = file_id"
                " WHERE file_id = %s AND number = %s",
                self._id, number,
            ) or {"stopped": True}  # fmt: skip
            if self._telling:
                if row["stopped"]:
                    raise IntakeError(STOPPED)
                self._done += 1
                db.run("UPDATE file SET done = %s WHERE id = %s", self._done, self._id)
        self._piece, self._number = bytes(row["data"]), number


class ReadIn(Record):
    """A long file read in: what was understood, and its readings and layout, packed."""

    understanding: Understanding
    cells: bytes
    layout: bytes


def looked_at(url: str, id: int, choices: Choices, first: int | None) -> bytes:
    """What is understood of a file by its first rows, as JSON. Raises IntakeError as `understand_sheets`.

    url : of the database, since this may be done in another process.
    """
    with closing(Database(url)) as database, StoredFile(database, id) as file:
        found = understand_sheets([_sheet(file, choices)], choices, look_only=True, first=first)
    return found.understanding.model_dump_json().encode()


def read_in(url: str, folder: Path, id: int, choices: Choices) -> ReadIn:
    """Read a file in, whole; its numbers are laid out in a folder of this machine. `url` as of `looked_at`.

    Raises
    ------
    IntakeError : as `understand_sheets`; and where it was stopped.
    """
    path = folder / f"{scratch.new_name()}.npy"
    try:
        with closing(Database(url)) as database, StoredFile(database, id, telling=True) as file:
            found = understand_sheets([_sheet(file, choices)], choices, first=1, room=scratch.room(path))
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    if found.readings is None or found.layout is None:
        raise IntakeError(found.understanding.stop)
    if path.exists():
        scratch.kept(path, found.readings.curves)
        cells = laid_out(pack(found.readings), path)
    else:
        cells = packed(found.readings)  # all of it were first rows
    return ReadIn(understanding=found.understanding, cells=cells, layout=pack(found.layout))


def _sheet(file: StoredFile, choices: Choices) -> Sheet:
    return long_sheet(file.name, file, choices.separator, choices.encoding, lines=file.lines)
