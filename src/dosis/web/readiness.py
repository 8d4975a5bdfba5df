"""Whether curves can be fitted yet: on the first start their compiled loops are still being made beside the server."""

import time
from pathlib import Path
from threading import Event, Thread

TOLD_EVERY = 20.0  # seconds between two lines on how far it is


class Readiness:
    """Waited for by what fits a curve; ready at once where nothing is being compiled."""

    def __init__(self, compiling: str = "") -> None:
        self._ready = Event()
        if not compiling:
            self._ready.set()
        else:
            Thread(target=self._watch, args=(compiling,), daemon=True).start()

    @property
    def now(self) -> bool:
        """Whether it is."""
        return self._ready.is_set()

    def wait(self) -> None:
        """Until curves can be fitted."""
        self._ready.wait()

    def _watch(self, process: str) -> None:
        begun = told = time.monotonic()
        while _runs(process):
            time.sleep(0.2)
            if time.monotonic() - told >= TOLD_EVERY:
                told = time.monotonic()
                print(f"  Still compiling, {told - begun:.0f} s; runs open as soon as that is done.", flush=True)
        self._ready.set()


def _runs(process: str) -> bool:
    """Whether a child of the launcher, which this process has become, is still at work."""
    try:
        return (Path("/proc") / process / "stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
