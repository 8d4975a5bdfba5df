"""The numbers of readings that are curves: in blocks in the database, in one piece on the way to use.

A reading's cells and its blocks travel together as bytes, so that whoever works a run out needs no database. Of a long
recording the cells travel with the path of a file that this machine has laid out (`scratch.py`).
"""

import struct
import zlib
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import TypeVar

import numpy as np

from dosis.core.arrays import Array
from dosis.run.readings import Readings
from dosis.run.recording import Recording, opened
from dosis.store import scratch
from dosis.store.database import Cursor, Row
from dosis.store.packing import pack, unpack

Item = TypeVar("Item")
NUMBERS = 131_072  # of one block, at most: a megabyte before it is compressed
LARGE = 300_000  # numbers from which a recording is laid out in a file
AXIS = -1  # stands for the axis where a block names its first reading
_MARK = b"DREC"  # begins cells with blocks; without them they begin as zlib does
_LAID_OUT = b"DLAY"  # begins cells whose numbers lie in a file
_HEAD = struct.Struct(">iIIII")  # reading, first, height, width, bytes that follow


@dataclass(frozen=True)
class Block:
    """A stretch of the axis (`reading` −1), or of some readings along it, from `first` on."""

    reading: int
    first: int
    height: int
    width: int
    numbers: bytes


def packed(readings: Readings) -> bytes:
    """Readings as bytes, with the blocks of those that are curves."""
    cells = pack(readings)
    return cells if readings.recording is None else joined(cells, blocks_of(readings.curves))


def unpacked(cells: bytes) -> Readings:
    """The readings that such bytes hold."""
    if (path := path_in(cells)) is not None:
        readings = unpack(Readings, parted(cells)[0])
        count = readings.axis.count if readings.axis else 0
        return readings.model_copy(update={"recording": opened(path, count)})
    head, blocks = parted(cells)
    readings = unpack(Readings, head)
    return readings if readings.axis is None else readings.model_copy(update={"recording": _recording(blocks)})


def joined(cells: bytes, blocks: list[Block]) -> bytes:
    """Packed cells and their blocks in one piece; the cells alone where there are none."""
    if not blocks:
        return cells
    parts = [_MARK, struct.pack(">I", len(cells)), cells]
    for each in blocks:
        parts += [_HEAD.pack(each.reading, each.first, each.height, each.width, len(each.numbers)), each.numbers]
    return b"".join(parts)


def kept(readings: Readings, folder: Path) -> bytes:
    """Readings as bytes; the numbers of a large recording in a file of that folder, to be looked at a part at a time.

    Raises
    ------
    IntakeError : where the disk has no room for it.
    """
    found = readings.recording
    if found is None or found.x.size + found.y.size < LARGE:
        return packed(readings)
    path = folder / f"{scratch.new_name()}.npy"
    numbers = scratch.room(path)((1 + len(found.y), found.x.size))
    numbers[0], numbers[1:] = found.x, found.y
    scratch.kept(path, found)
    return laid_out(pack(readings), path)


def laid_out(cells: bytes, path: Path) -> bytes:
    """Packed cells with the path of the file that holds their numbers."""
    name = str(path).encode()
    return b"".join((_LAID_OUT, struct.pack(">I", len(name)), name, cells))


def path_in(cells: bytes) -> Path | None:
    """Where the numbers lie, if it is in a file."""
    if not cells.startswith(_LAID_OUT):
        return None
    return Path(cells[8 : 8 + struct.unpack_from(">I", cells, 4)[0]].decode())


def name_in(cells: bytes) -> str | None:
    """What that file is called, whatever its folder; None where there is none."""
    path = path_in(cells)
    return None if path is None else path.stem


def parted(cells: bytes) -> tuple[bytes, list[Block]]:
    """The packed cells and the blocks of such a piece; no blocks where the numbers lie in a file."""
    if cells.startswith(_LAID_OUT):
        return cells[8 + struct.unpack_from(">I", cells, 4)[0] :], []
    if not cells.startswith(_MARK):
        return cells, []
    at = len(_MARK) + 4
    end = at + struct.unpack_from(">I", cells, len(_MARK))[0]
    return cells[at:end], list(_blocks(cells, end))


def write(db: Cursor, run: int, number: int, cells: bytes) -> bytes:
    """Store the blocks of a set of readings; the packed cells, which are stored beside them, are returned."""
    head, blocks = parted(cells)
    for each in blocks if path_in(cells) is None else _made_at_once(unpacked(cells).curves):
        db.run(
            "INSERT INTO recording_block (run_id, number, reading, first, height, width, numbers)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s)",
            run, number, each.reading, each.first, each.height, each.width, each.numbers,
        )  # fmt: skip
    return head


def read(db: Cursor, run: int, number: int) -> list[Block]:
    """The blocks of a set of readings, in the order of readings and axis; none where they are single numbers."""
    rows = db.all(
        "SELECT reading, first, height, width, numbers FROM recording_block WHERE run_id = %s AND number = %s"
        " ORDER BY reading, first",
        run, number,
    )  # fmt: skip
    return [Block(**{**row, "numbers": bytes(row["numbers"])}) for row in rows]


def copy(db: Cursor, of: tuple[int, int], to: tuple[int, int]) -> None:
    """Blocks of one run's readings as those of another's."""
    db.run(
        "INSERT INTO recording_block (run_id, number, reading, first, height, width, numbers)"
        " SELECT %s, %s, reading, first, height, width, numbers FROM recording_block WHERE run_id = %s AND number = %s",
        *to, *of,
    )  # fmt: skip


def lay_out(db: Cursor, run: int, number: int, path: Path) -> None:
    """Make the file of a long recording from its blocks, on a machine that does not have it."""
    shape = db.one(
        "SELECT SUM(IF(reading = -1, width, 0)) AS n, MAX(reading + height) AS count FROM recording_block"
        " WHERE run_id = %s AND number = %s",
        run, number,
    ) or {}  # fmt: skip
    n = int(shape["n"])
    made = path.with_name(f"{scratch.new_name()}.npy")
    numbers = scratch.room(made)((1 + int(shape["count"]), n))
    for each in db.all(
        "SELECT reading, first FROM recording_block WHERE run_id = %s AND number = %s", run, number
    ):  # fmt: skip
        block = _one(db, run, number, each["reading"], each["first"])
        to = numbers[1 + block.reading : 1 + block.reading + block.height]
        to[:, block.first : block.first + block.width] = _values(block)
    scratch.kept(path, Recording(numbers[0], numbers[1:]))
    made.replace(path)


def _one(db: Cursor, run: int, number: int, reading: int, first: int) -> Block:
    row: Row = db.one(
        "SELECT reading, first, height, width, numbers FROM recording_block"
        " WHERE run_id = %s AND number = %s AND reading = %s AND first = %s",
        run, number, reading, first,
    ) or {}  # fmt: skip
    return Block(**{**row, "numbers": bytes(row["numbers"])})


def blocks_of(recording: Recording) -> list[Block]:
    """Cut into blocks: of whole readings where several fit into one, else of stretches of one."""
    return [_block(*each) for each in _cut(recording)]


def _made_at_once(recording: Recording) -> Iterator[Block]:
    """The same, one after the other, and two of them packed at once: a long recording takes seconds."""
    with ThreadPoolExecutor(2) as pool:
        for some in _batched(_cut(recording), 8):
            yield from pool.map(lambda each: _block(*each), some)


def _cut(recording: Recording) -> Iterator[tuple[int, int, Array]]:
    """The first reading, the first place and the numbers of each block."""
    count, n = recording.y.shape
    for first in range(0, n, NUMBERS):
        yield AXIS, first, recording.x[None, first : first + NUMBERS]
    rows = max(1, NUMBERS // max(n, 1))
    for reading in range(0, count, rows):
        some = recording.y[reading : reading + rows]
        for first in range(0, n, NUMBERS):
            yield reading, first, some[:, first : first + NUMBERS]


def _block(reading: int, first: int, values: Array) -> Block:
    little = np.ascontiguousarray(values, dtype="<f8")
    shuffled = little.view(np.uint8).reshape(-1, 8).T.tobytes()  # alike bytes together: half the size
    return Block(reading, first, values.shape[0], values.shape[1], zlib.compress(shuffled, 1))


def _values(block: Block) -> Array:
    shuffled = np.frombuffer(zlib.decompress(block.numbers), dtype=np.uint8)
    little = np.ascontiguousarray(shuffled.reshape(8, -1).T).view("<f8")
    return little.reshape(block.height, block.width).astype(float)


def _recording(blocks: list[Block]) -> Recording:
    along = [each for each in blocks if each.reading == AXIS]
    n = sum(each.width for each in along)
    count = max((each.reading + each.height for each in blocks), default=0)
    x, y = np.empty(n), np.empty((count, n))
    for each in blocks:
        to = x[None] if each.reading == AXIS else y[each.reading : each.reading + each.height]
        to[:, each.first : each.first + each.width] = _values(each)
    return Recording(x, y)


def _blocks(cells: bytes, at: int) -> Iterator[Block]:
    while at < len(cells):
        reading, first, height, width, size = _HEAD.unpack_from(cells, at)
        at += _HEAD.size
        yield Block(reading, first, height, width, cells[at : at + size])
        at += size


def _batched(items: Iterable[Item], size: int) -> Iterator[list[Item]]:
    left = iter(items)
    while some := list(islice(left, size)):
        yield some
