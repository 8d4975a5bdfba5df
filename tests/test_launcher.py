"""The launcher as a person uses it from the shell."""

import json
import os
import re
import signal
import socket
import subprocess
import time
from pathlib import Path

import httpx
import pytest

from dosis.settings import ROOT
from tests.tables import PHOSPHATE, fluorescein_table

DOSIS = str(ROOT / "dosis")


def dosis(*words: str, cwd: Path, **more: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run([DOSIS, *words], cwd=cwd, capture_output=True, text=True, check=False, timeout=120, **more)


def test_evaluate_prints_the_published_answers_and_the_verdict(tmp_path: Path) -> None:
    """Miller & Miller, fluorescein: 6.21 and 11.13 pg/mL; 0.72 is below the lowest standard above zero."""
    (tmp_path / "readings.csv").write_text(fluorescein_table().replace("\t", ","), "utf-8")
    done = dosis("evaluate", "readings.csv", "--json", "out.json", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    for value in ("< 2", "6.21", "11.13"):
        assert re.search(rf"\s{value}\s", done.stdout)
    assert "2 of 3 samples read." in done.stdout.splitlines()[-1]
    outcome = json.loads((tmp_path / "out.json").read_text("utf-8"))
    in_sample = next(column for column in outcome["answers"]["columns"] if column["id"] == "in_sample")
    assert [round(value, 2) for value in in_sample["values"][1:]] == [6.21, 11.13]
    assert in_sample["uppers"][0] == 2.0


@pytest.mark.parametrize(("content", "said"), [("", "nothing to read"), ("a\tb\nc\td", "no numbers")])
def test_evaluate_refuses_in_words(tmp_path: Path, content: str, said: str) -> None:
    done = dosis("evaluate", "-", cwd=tmp_path, input=content)
    assert done.returncode == 2
    assert said in done.stderr and "Traceback" not in done.stderr
    assert "No such file" in dosis("evaluate", "nowhere.csv", cwd=tmp_path).stderr


def test_python_has_the_core(tmp_path: Path) -> None:
    code = "from dosis.core import fit; print(fit('line', [1, 2, 3], [2, 4, 6]).parameters['slope'].estimate)"
    assert float(dosis("python", "-c", code, cwd=tmp_path).stdout) == pytest.approx(2)


def test_an_unknown_command_shows_the_known_ones(tmp_path: Path) -> None:
    done = dosis("brew", cwd=tmp_path)
    assert done.returncode == 1
    assert "no command “brew”" in done.stderr and "evaluate FILE" in done.stderr


def test_core_imports_nothing_heavy() -> None:
    """Import stays quick: no statistics, data-frame or symbolic package, nor the web, comes along."""
    heavy = "('scipy.stats', 'pandas', 'sympy', 'fastapi', 'pint')"
    code = f"import sys, dosis.core; print([name for name in {heavy} if name in sys.modules])"
    assert dosis("python", "-c", code, cwd=ROOT).stdout.strip() == "[]"


class Demo:
    """`./dosis demo` in a folder of its own."""

    def __init__(self, home: Path) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        environment = {**os.environ, "DOSIS_HOME": str(home), "DOSIS_PORT": str(port)}
        self.process = subprocess.Popen(
            [DOSIS, "demo"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
        )
        self.client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=10)
        for _ in range(600):
            try:
                self.client.get("/api/health")
                break
            except httpx.TransportError:
                time.sleep(0.05)

    def stop(self, how: signal.Signals) -> str:
        self.client.close()
        self.process.send_signal(how)
        return self.process.communicate(timeout=60)[0]


def servers_on(home: Path) -> list[str]:
    found = []
    for command in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            text = command.read_bytes().decode(errors="replace")
        except OSError:
            continue
        if "mariadbd" in text and str(home) in text:
            found.append(text)
    return found


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM])
def test_demo_keeps_what_was_done_and_stops_cleanly(tmp_path: Path, how: signal.Signals) -> None:
    demo = Demo(tmp_path)
    before = [run["title"] for run in demo.client.get("/api/runs?study=1&count=200").json()["runs"]]
    body = {"study": 1, "title": "Kept", "key": "3f1c6f60-52b8-4bd0-8b83-0d3b7a4be1f1", "text": PHOSPHATE}
    assert demo.client.post("/api/runs", json=body).status_code == 201
    assert len(servers_on(tmp_path)) == 1
    said = demo.stop(how)
    assert "Dosis is ready at" in said and "Traceback" not in said
    assert servers_on(tmp_path) == []
    again = Demo(tmp_path)
    titles = [run["title"] for run in again.client.get("/api/runs?study=1&count=200").json()["runs"]]
    again.stop(signal.SIGINT)
    assert titles == ["Kept", *before] and len(before) > 8


def test_a_killed_demo_leaves_a_database_that_the_next_start_takes_over(tmp_path: Path) -> None:
    Demo(tmp_path).stop(signal.SIGKILL)
    assert len(servers_on(tmp_path)) == 1
    again = Demo(tmp_path)
    assert again.client.get("/api/studies").status_code == 200
    again.stop(signal.SIGINT)
    assert servers_on(tmp_path) == []


def test_without_root_the_missing_packages_are_named(tmp_path: Path) -> None:
    """An ordinary user is told the exact apt-get line; stand-ins play a machine that lacks the packages."""
    for name, script in (("dpkg-query", "exit 1"), ("id", "echo 1000")):
        (tmp_path / name).write_text(f"#!/bin/sh\n{script}\n")
        (tmp_path / name).chmod(0o755)
    done = dosis("demo", cwd=tmp_path, env={**os.environ, "PATH": f"{tmp_path}:{os.environ['PATH']}"})
    assert done.returncode == 1
    assert "apt-get install --no-install-recommends mariadb-server" in done.stderr


def test_a_taken_port_is_said(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        environment = {**os.environ, "DOSIS_HOME": str(tmp_path), "DOSIS_PORT": str(taken.getsockname()[1])}
        done = dosis("demo", cwd=tmp_path, env=environment)
    assert done.returncode == 1
    assert "is taken" in done.stderr and "DOSIS_PORT" in done.stderr
