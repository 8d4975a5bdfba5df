"""Where the files of a batch are worked: a cluster of Dask, of this machine's own or one that is there already."""

import os
from collections.abc import Callable, Iterable, Iterator
from queue import Empty, Queue
from types import TracebackType
from typing import Any, Generic, Self, TypeVar

Item = TypeVar("Item")
AHEAD = 4  # pieces of work for each worker that are handed out before results are waited for
PATIENCE = 15.0  # seconds without any worker, after which they are started anew
TOLD = "Working on it ended the process again and again; it may be too large for this machine's memory."
WAIT = 1.0  # seconds for a result, after which it is asked whether to go on


class Lost(Exception):
    """A piece of work that ended its worker again and again; the message is for people."""


class Cluster(Generic[Item]):
    """Workers, started when they are entered and ended when they are left.

    Parameters
    ----------
    workers : how many processes of this machine; by default as many as it has processors. address : of a scheduler that
        runs already, such as tcp://10.0.0.5:8786; its machines need this version of Dosis.

    Example
    -------
    >>> with Cluster(2) as cluster:  # doctest: +SKIP
    ...     for item, result in cluster.each(range(3), lambda item: (pow, item, 2)):
    ...         print(item, result)
    """

    def __init__(self, workers: int | None = None, address: str = "") -> None:
        self._workers = workers or len(os.sched_getaffinity(0))
        self._address = address

    def __enter__(self) -> Self:
        self._start()
        return self

    def _start(self) -> None:
        # Imported here: it takes a second, and only batches need it.
        import dask
        from distributed import Client, LocalCluster

        quiet = {"distributed.scheduler.allowed-failures": 2, "distributed.worker.daemon": False}
        dask.config.set({**quiet, "distributed.comm.timeouts.connect": "30s"})
        self._local: Any = None
        made: Any = LocalCluster
        connect: Any = Client
        if not self._address:
            self._local = made(
                n_workers=self._workers, threads_per_worker=1, processes=True, dashboard_address="127.0.0.1:0",
                security=True, host="127.0.0.1", silence_logs=50, memory_limit=0,
            )  # fmt: skip
        self._client: Any = connect(self._local or self._address, set_as_default=False)

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._end()

    def _end(self) -> None:
        self._client.close()
        if self._local is not None:
            self._local.close()

    @property
    def address(self) -> str:
        """Of its scheduler."""
        return str(self._client.scheduler.address)

    def count(self) -> int:
        """How many workers there are."""
        return max(1, len(self._client.nthreads()))

    def processes(self) -> list[int]:
        """The ids of its workers' processes, where they are of this machine."""
        return [] if self._local is None else [w.pid for w in self._local.workers.values()]

    def each(
        self, items: Iterable[Item], work: Callable[[Item], tuple[Any, ...]], go_on: Callable[[], bool] = lambda: True
    ) -> Iterator[tuple[Item, Any]]:
        """Every item with what came of it, in the order in which they are done.

        work : a function and its arguments for an item. A worker that dies is replaced and its work done again; what
        ends its worker three times comes as `Lost`, and what raises as that exception. go_on : asked now and then;
        where it says no, what is not done yet is dropped.
        """
        suspects = list[Item]()
        for item, result in self._spread(items, work, go_on, AHEAD * self.count()):
            if isinstance(result, Lost):
                suspects.append(item)
            else:
                yield item, result
        # What was at hand when a worker died may have had no part in it: each is tried once more, by itself.
        yield from self._spread(suspects, work, go_on, 1)

    def _spread(
        self, items: Iterable[Item], work: Callable[[Item], tuple[Any, ...]], go_on: Callable[[], bool], at_once: int
    ) -> Iterator[tuple[Item, Any]]:
        left, running, done = iter(items), dict[str, tuple[Any, Item, bool]](), Queue[Any]()

        def hand_out(item: Item, *, again: bool = False) -> None:
            function, *arguments = work(item)
            future = self._client.submit(function, *arguments, pure=False)
            running[future.key] = future, item, again
            future.add_done_callback(done.put)

        def fill() -> None:
            while len(running) < at_once and (item := next(left, None)) is not None:
                hand_out(item)

        fill()
        alone = 0.0  # seconds without any worker
        while running:
            if not go_on():
                for future, *_ in running.values():
                    future.cancel()
                return
            try:
                future = done.get(timeout=WAIT)
            except Empty:
                if self._local is not None and not self._client.nthreads():
                    alone += WAIT
                if alone < PATIENCE:
                    continue
                # A worker that dies while it is being started is not always started again: begin anew, and what was
                # at hand, too, for a slow machine may only have been slow; the second time it is lost.
                self._end()
                self._start()
                waiting = [(item, again) for _, item, again in running.values()]
                running.clear()
                alone, done = 0.0, Queue[Any]()
                for item, again in waiting:
                    if again:
                        yield item, Lost(TOLD)
                    else:
                        hand_out(item, again=True)
                fill()
                continue
            alone = 0.0
            _, item, _ = running.pop(future.key)
            yield item, _result(future)
            future.release()
            fill()


def _result(future: Any) -> Any:
    from distributed.scheduler import KilledWorker

    try:
        error = future.exception()
        found = future.result() if error is None else error
    except KilledWorker as killed:  # its worker ended with the result before it was fetched, and did so again
        found = killed
    return Lost(TOLD) if isinstance(found, KilledWorker) else found
