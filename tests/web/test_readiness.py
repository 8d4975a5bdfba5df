"""The first start: pages are served while the fitting loops are compiled, and runs wait for that."""

import subprocess
import time
from threading import Thread

from dosis.web.readiness import Readiness


def test_it_is_ready_at_once_where_nothing_is_compiled() -> None:
    assert Readiness().now


def test_a_run_waits_for_the_compiling_and_no_longer() -> None:
    compiling = subprocess.Popen(["sleep", "1"])
    readiness, waited = Readiness(str(compiling.pid)), []
    assert not readiness.now
    thread = Thread(target=lambda: (readiness.wait(), waited.append(time.monotonic())))
    thread.start()
    time.sleep(0.3)
    assert not waited
    thread.join(timeout=5)  # it has ended, though nobody has asked how: the launcher is gone by then
    assert readiness.now and waited
    compiling.wait()
