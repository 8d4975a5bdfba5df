"""What is understood and what runs say, word for word: what changes is read by a person before it is kept.

To keep what they say now: ./dosis python -m tests.approved.test_said, and read the difference before it is committed.
"""

from pathlib import Path

import pytest

from tests.approved.files import FILES
from tests.approved.runs import RUNS
from tests.approved.saying import near, said
from tests.approved.tables import TABLES

PAGES, LEAVING, UNDERSTOOD = (Path(__file__).parent / name for name in ("pages", "leaving", "understood"))


def compare(path: Path, text: str) -> None:
    page, now = path.read_text("utf-8").splitlines(), text.splitlines()
    for line, (one, other) in enumerate(zip(page, now, strict=False), start=1):
        assert near(one, other), f"{path.name}, line {line}\n  was {one}\n  is  {other}"
    assert len(page) == len(now), f"{path.name} had {len(page)} lines and has {len(now)}"


@pytest.mark.parametrize("name", sorted(RUNS))
def test_it_says_what_was_approved(name: str) -> None:
    compare(PAGES / f"{name}.txt", said(RUNS[name]()))


@pytest.mark.parametrize("name", sorted(FILES))
def test_it_leaves_as_what_was_approved(name: str) -> None:
    compare(LEAVING / f"{name}.txt", FILES[name]())


@pytest.mark.parametrize("name", sorted(TABLES))
def test_it_is_understood_as_was_approved(name: str) -> None:
    compare(UNDERSTOOD / f"{name}.txt", TABLES[name]())


def test_every_page_is_of_a_run() -> None:
    for folder, runs in ((PAGES, RUNS), (LEAVING, FILES), (UNDERSTOOD, TABLES)):
        assert sorted(page.stem for page in folder.glob("*.txt")) == sorted(runs)


if __name__ == "__main__":
    for folder, texts in (
        (PAGES, {name: said(make()) for name, make in RUNS.items()}),
        (LEAVING, {name: make() for name, make in FILES.items()}),
        (UNDERSTOOD, {name: make() for name, make in TABLES.items()}),
    ):
        folder.mkdir(exist_ok=True)
        for path in folder.glob("*.txt"):
            path.unlink()
        for name, text in texts.items():
            (folder / f"{name}.txt").write_text(text + "\n", "utf-8")
