"""The numbers of readings that are curves: in blocks in the database, in one piece on the way to use.

A reading's cells and its blocks travel together as bytes, so that whoever works a run out needs no database.
"""

import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.run.readings import Readings
from dosis.run.recording import Recording
from dosis.store.database import Cursor
from dosis.store.packing import pack, unpack

NUMBERS = 131_072  # of one block, at most: a megabyte before it is compressed
AXIS = -1  # stands for the axis where a block names its first reading
_MARK = b"DREC"  # begins cells with blocks; without them they begin as zlib does
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


def parted(cells: bytes) -> tuple[bytes, list[Block]]:
    """The packed cells and the blocks of such a piece."""
    if not cells.startswith(_MARK):
        return cells, []
    at = len(_MARK) + 4
    end = at + struct.unpack_from(">I", cells, len(_MARK))[0]
    return cells[at:end], list(_blocks(cells, end))


def write(db: Cursor, run: int, number: int, cells: bytes) -> bytes:
    """Store the blocks of a set of readings; the packed cells, which are stored beside them, are returned."""
    head, blocks = parted(cells)
    for each in blocks:
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


def blocks_of(recording: Recording) -> list[Block]:
    """Cut into blocks: of whole readings where several fit into one, else of stretches of one."""
    count, n = recording.y.shape
    found = [_block(AXIS, first, recording.x[None, first : first + NUMBERS]) for first in range(0, n, NUMBERS)]
    rows = max(1, NUMBERS // max(n, 1))
    for reading in range(0, count, rows):
        some = recording.y[reading : reading + rows]
        found += [_block(reading, first, some[:, first : first + NUMBERS]) for first in range(0, n, NUMBERS)]
    return found


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
