"""A batch without a server: files and a method to answers, for the command line and for scripts."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from dosis.batches.engine import Cluster
from dosis.batches.work import Failed, made_of
from dosis.intake.methods.kept import KeptMethod
from dosis.store.batches import Made
from dosis.store.packing import pack


def batch(
    files: Sequence[Path], method: KeptMethod, *, workers: int | None = None, address: str = ""
) -> Iterator[tuple[Path, Made | Failed]]:  # fmt: skip
    """Work files by a method, each as a run; in the order in which they are done.

    Parameters
    ----------
    files : each is one run. method : as it is kept, or read from a file that was written out. workers, address : as of
        `Cluster`.

    Example
    -------
    >>> from dosis.intake.methods.shelf import SHIPPED
    >>> for file, made in batch([Path("plate 1.csv")], SHIPPED[0]):  # doctest: +SKIP
    ...     print(file, made.headline)
    """
    body = pack(method)
    with Cluster[Path](workers, address) as cluster:
        # Each worker reads its own file only where it is the same machine; so bytes are what travels.
        yield from cluster.each(files, lambda file: (_of_file, file.name, _bytes(file), body))


def _bytes(file: Path) -> bytes | str:
    try:
        return file.read_bytes()
    except OSError as error:
        return f"It cannot be read: {error.strerror}."


def _of_file(name: str, data: bytes | str, method: bytes) -> Made | Failed:
    return Failed(data) if isinstance(data, str) else made_of(name, data, method)
