"""What decides an answer, against leaving readings out by hand."""

import numpy as np
import pytest

from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.influence import MOST, Influence, influence
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.readings import Readings

STANDARDS = [(0.0, 0.02), (1.0, 0.121), (2.0, 0.219), (4.0, 0.424), (8.0, 0.95)]  # the top one bends away
TABLE = "\n".join(
    ["Sample\tConc (µM)\tA 1\tA 2", *(f"Std {i}\t{x:g}\t{y}\t{y + 0.002}" for i, (x, y) in enumerate(STANDARDS)),
     "Pond\t\t0.31\t0.312", "Marsh\t\t0.2\t0.21"]
)  # fmt: skip


def taken(text: str, question: str = "concentration") -> tuple[Readings, Layout, Method]:
    found = understand(text, Choices(question=question))
    assert found.readings is not None and found.layout is not None
    return found.readings, *opened(found.readings, found.layout, question)


def key(of: tuple[Readings, Layout, Method], name: str) -> str:
    return next(row.key for row in evaluate(*of).answers.rows if row.name == name)


def asked(of: tuple[Readings, Layout, Method], name: str) -> Influence:
    found = influence(*of, key(of, name))
    assert found is not None
    return found


def test_the_reading_that_moves_an_answer_most_stands_first() -> None:
    """A line by numpy, fitted anew without each of the readings."""
    of = taken(TABLE)
    found = asked(of, "Pond")
    x = np.repeat([x for x, _ in STANDARDS], 2)
    y = np.array([y + d for _, y in STANDARDS for d in (0.0, 0.002)])
    own = np.array([0.31, 0.312])

    def read(x: np.ndarray, y: np.ndarray, own: np.ndarray) -> float:
        slope, intercept = np.polyfit(x, y, 1)
        return float((own.mean() - intercept) / slope)

    base = read(x, y, own)
    moves = [read(np.delete(x, i), np.delete(y, i), own) / base - 1 for i in range(10)]
    moves += [read(x, y, np.delete(own, i)) / base - 1 for i in range(2)]
    moves.sort(key=abs, reverse=True)
    assert [each.change for each in found.moves] == pytest.approx(moves[:5], rel=1e-6)
    assert found.moves[0].name == "Std 3 4" and found.moves[0].text in ("0.424", "0.426")
    assert (found.tried, found.untried) == (14, 0)  # the other sample's two readings are tried, too


def test_readings_that_are_excluded_are_not_tried_and_stay_out() -> None:
    readings, layout, method = taken(TABLE)
    first = asked((readings, layout, method), "Pond").moves[0]
    less = layout.having(exclusions=({"reading": first.reading, "reason": "a slip"},))
    found = asked((readings, less, method), "Pond")
    assert found.tried == 13 and first.reading not in {each.reading for each in found.moves}


def test_an_answer_that_is_lost_without_a_reading_says_so() -> None:
    """A sample that was read once: without that reading it has no answer, which moves it most."""
    found = asked(taken(TABLE + "\nLone\t\t0.25\t"), "Lone")
    first = found.moves[0]
    assert (first.name, first.text, first.shown, first.change, first.shown_change) == (
        "Lone", "0.25", "—", None, "no answer"
    )  # fmt: skip
    assert first.beyond and "rests on few readings" in found.said


def test_an_answer_without_an_interval_is_not_said_to_stay_within_it() -> None:
    """A line through two standards exactly leaves no spread, and so no interval."""
    of = taken("Sample\tConc (µM)\tA\nStd 1\t1\t0.1\nStd 2\t2\t0.2\nStd 3\t4\t0.4\nPond\t\t0.3")
    value = evaluate(*of).answers.leads[0].value(0)
    if value.lower is None:
        assert "has no interval" in asked(of, "Pond").said
    else:
        assert value.lower == pytest.approx(value.value)


def test_there_is_no_influence_on_what_has_no_number() -> None:
    of = taken(TABLE + "\nHigh\t\t3.0\t3.1")
    assert influence(*of, key(of, "High")) is None
    assert influence(*of, "nobody") is None


def test_of_very_many_readings_the_nearest_are_tried(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dosis.run.influence.MOST", 4)
    found = asked(taken(TABLE), "Marsh")
    assert (found.tried, found.untried) == (4, 10)
    assert MOST == 300
    own = {each.name for each in found.moves}
    assert "Marsh" in own
