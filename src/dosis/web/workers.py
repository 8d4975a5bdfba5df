"""Worker processes for what is expensive: large tables and large runs, with limits of memory and time.

In the server's own process one of them would hold up everybody's edits, and a table that unfolds without end would take
the server with it.
"""

import gc
import multiprocessing
import queue
import resource
import sys
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from dosis.intake.text import IntakeError

Result = TypeVar("Result")
MORE_MEMORY = 3_000_000_000  # bytes a worker may take beyond what it starts with
SECONDS, START_SECONDS = 120.0, 60.0
IDLE = 0.3  # seconds without work after which a worker looks for garbage
TOO_LONG = "This takes more than {seconds:g} s to work out, which is too long. Split it into several runs."
TOO_LARGE = "This takes more memory than one run may have. Split it into several runs, or leave out what is not needed."


def collect_seldom() -> None:
    """A large table is a million small objects that all stay: looking through them for garbage took a third."""
    gc.set_threshold(100_000, 20, 20)


class Workers:
    """A few processes, started when they are first needed; one that runs out of time or memory is replaced."""

    def __init__(self, count: int = 2, *, seconds: float = SECONDS, memory: int = MORE_MEMORY) -> None:
        self._seconds, self._memory = seconds, memory
        # The one that worked last is taken first: it has everything loaded.
        self._idle: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        for _ in range(count):
            self._idle.put(None)

    def run(
        self, work: Callable[..., Result], *arguments: object, seconds: float | None = None, too_long: str = TOO_LONG
    ) -> Result:
        """What `work(*arguments)` returns or raises, worked out elsewhere. All of it must pickle.

        seconds : how long it may take, where not as long as usual. too_long : what is said when it takes longer.

        Raises
        ------
        IntakeError : when it takes too long or too much memory.
        """
        worker = self._idle.get()
        seconds = seconds or self._seconds
        try:
            if worker is None or not worker.alive:
                worker = _Worker(self._memory)
            try:
                result: Result = worker.run(work, arguments, seconds)
            except TimeoutError as error:
                raise IntakeError(too_long.format(seconds=seconds)) from error
            except (EOFError, OSError, MemoryError) as error:
                raise IntakeError(TOO_LARGE) from error
            return result
        finally:
            self._idle.put(worker if worker is not None and worker.alive else None)

    def close(self) -> None:
        """End every process that is idle; the others end with the server."""
        while not self._idle.empty():
            if (worker := self._idle.get_nowait()) is not None:
                worker.stop()


class _Worker:
    def __init__(self, memory: int) -> None:
        context = multiprocessing.get_context("spawn")
        self._here, there = context.Pipe()
        self._process = context.Process(target=_serve, args=(there, memory), daemon=True)
        self._process.start()
        there.close()
        self._begun = False

    @property
    def alive(self) -> bool:
        return self._process.is_alive()

    def run(self, work: Callable[..., Any], arguments: tuple[object, ...], seconds: float) -> Any:
        try:
            if not self._begun:  # its own start takes a second or two, which is not the work's fault
                if not self._here.poll(START_SECONDS):
                    raise TimeoutError
                self._begun = bool(self._here.recv())
            self._here.send((work, arguments))
            if not self._here.poll(seconds):
                raise TimeoutError
            done, result = self._here.recv()
        except (TimeoutError, EOFError, OSError, MemoryError):
            self.stop()
            raise
        if not done:
            raise result
        return result

    def stop(self) -> None:
        self._process.kill()
        self._process.join()
        self._here.close()


def _serve(pipe: Connection, memory: int) -> None:
    """One piece of work after the other, until the server ends."""
    with open("/proc/self/statm", encoding="ascii") as sizes:
        now = int(sizes.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (now + memory, now + memory))
    sys.setrecursionlimit(5_000)
    collect_seldom()
    pipe.send(True)
    while True:
        try:
            work, arguments = pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        # Nearly all that is made stays until the work is done: what is garbage is looked for when nobody waits.
        gc.disable()
        try:
            pipe.send((True, work(*arguments)))
        except KeyboardInterrupt:
            return
        except Exception as error:
            pipe.send((False, error))
        del work, arguments
        gc.enable()
        if not pipe.poll(IDLE):
            gc.collect()
