"""Long recordings as this machine keeps them to work on: laid out in a file each, of which only what is wanted is read.

What the database holds is what counts. A file here is made from it, or beside it, and may be removed at any time.
"""

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

import numpy as np

from dosis.core.arrays import Array
from dosis.intake.text import IntakeError
from dosis.run.recording import LONG, Recording, extremes_of, extremes_path

MOST = 8_000_000_000  # bytes of all files; the one used longest ago goes first


def new_name() -> str:
    """A name that no other recording has."""
    return uuid4().hex


def room(path: Path) -> Callable[[tuple[int, int]], Array]:
    """Makes the array of a file, which holds the axis and below it a row for each reading.

    Raises
    ------
    IntakeError : where the disk has no room for it.
    """

    def made(shape: tuple[int, int]) -> Array:
        path.parent.mkdir(parents=True, exist_ok=True)
        try:
            found: Array = np.lib.format.open_memmap(path, mode="w+", dtype="<f8", shape=shape)
            with path.open("r+b") as file:  # written later, it would end the process where the disk is full
                os.posix_fallocate(file.fileno(), 0, path.stat().st_size)
        except OSError as error:
            path.unlink(missing_ok=True)
            raise IntakeError(
                f"The server has no room for it: {np.prod(shape) * 8 / 1e9:.1f} GB are needed in {path.parent}."
            ) from error
        return found

    return made


def kept(path: Path, recording: Recording) -> None:
    """Make the rest of a file whose numbers are there, and room for it by what was not used for long."""
    if recording.x.size > LONG:
        extremes = recording.extremes if recording.extremes is not None else extremes_of(recording.y)
        np.save(extremes_path(path), extremes)
    _make_room(path)


def used(path: Path) -> bool:
    """Whether the file is there; it is noted that it was used."""
    with contextlib.suppress(OSError):
        os.utime(path)
        return True
    return False


def _make_room(spared: Path) -> None:
    files = [each for each in spared.parent.glob("*.npy") if each not in (spared, extremes_path(spared))]
    with contextlib.suppress(OSError):  # another process may be at the same
        files.sort(key=lambda each: each.stat().st_mtime, reverse=True)
        total = spared.stat().st_size
        for each in files:
            total += each.stat().st_size
            if total > MOST:
                each.unlink(missing_ok=True)
