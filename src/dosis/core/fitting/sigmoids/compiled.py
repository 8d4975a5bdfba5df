"""Loops over the readings of one curve, compiled: for so little arithmetic a curve, calls of array functions cost more.

The machine code is kept beside the sources, in a folder named by a digest of all of them, so that a changed function
can never meet an old one that calls it.
"""

import hashlib
import os
from collections.abc import Callable, Set
from pathlib import Path
from typing import TypeVar

import numba

Function = TypeVar("Function", bound=Callable[..., object])
HERE = Path(__file__).parent


def _folder() -> Path:
    digest = hashlib.sha256(b"".join(path.read_bytes() for path in sorted(HERE.glob("*.py")))).hexdigest()[:16]
    beside = HERE / "__pycache__"
    if not os.access(beside if beside.exists() else HERE, os.W_OK):
        beside = Path(os.environ.get("XDG_CACHE_HOME", Path.home() / ".cache")) / "dosis"
    return beside / f"compiled-{digest}"


def compiled(function: Function) -> Function:
    """The same function as machine code, made at its first call; divisions by zero give infinity, as in arrays."""
    return _made(function, inline="never")


def inlined(function: Function) -> Function:
    """The same, put into what calls it: handing over an array costs more than a short loop over it."""
    return _made(function, inline="always")


def exactly(function: Function) -> Function:
    """The same, with its sums in the order they are written in."""
    return _made(function, inline="never", fastmath={"contract"})


# Elsewhere sums may be taken in any order, which lets a loop over the readings run in wide registers.
def _made(function: Function, inline: str, fastmath: Set[str] = frozenset({"reassoc", "contract", "nsz"})) -> Function:
    numba.config.CACHE_DIR = str(FOLDER)
    made: Function = numba.njit(cache=True, error_model="numpy", fastmath=set(fastmath), inline=inline)(function)
    return made


FOLDER = _folder()
