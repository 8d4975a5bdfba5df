"""Running the simulated instruments as a process of their own, for as long as it is needed."""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def stand_ins() -> Iterator[tuple[str, ...]]:
    """Their addresses. The process ends with ours, however ours ends: it waits for its input to be closed."""
    process = subprocess.Popen(
        [sys.executable, "-m", "dosis.instruments.simulated"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}, start_new_session=True,
    )  # fmt: skip
    assert process.stdin is not None and process.stdout is not None
    try:
        yield tuple(process.stdout.readline().split())
    finally:
        process.stdin.close()
        process.stdout.close()
        process.wait(timeout=10)
