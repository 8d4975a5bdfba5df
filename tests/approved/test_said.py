"""What runs say, word for word: a changed sentence, number or line of working is read by a person before it is kept.

To keep what they say now: ./dosis python -m tests.approved.test_said, and read the difference before it is committed.
"""

from pathlib import Path

import pytest

from tests.approved.runs import RUNS
from tests.approved.saying import near, said

PAGES = Path(__file__).parent / "pages"


@pytest.mark.parametrize("name", sorted(RUNS))
def test_it_says_what_was_approved(name: str) -> None:
    page, now = (PAGES / f"{name}.txt").read_text("utf-8").splitlines(), said(RUNS[name]()).splitlines()
    for line, (one, other) in enumerate(zip(page, now, strict=False), start=1):
        assert near(one, other), f"line {line}"
    assert len(page) == len(now)


def test_every_page_is_of_a_run() -> None:
    assert sorted(page.stem for page in PAGES.glob("*.txt")) == sorted(RUNS)


if __name__ == "__main__":
    PAGES.mkdir(exist_ok=True)
    for path in PAGES.glob("*.txt"):
        path.unlink()
    for run, make in RUNS.items():
        (PAGES / f"{run}.txt").write_text(said(make()) + "\n", "utf-8")
