"""Every table of the corpus is understood for what it is."""

from collections import Counter
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from dosis.intake.understand import understand
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.opening import opened
from dosis.run.readings import Readings
from tests.intake.corpus import CORPUS


@pytest.mark.parametrize("name", CORPUS)
def test_a_table_is_understood_for_what_it_is(name: str) -> None:
    text, wanted = CORPUS[name]
    intake = understand(text)
    found, readings, layout = intake.understanding, intake.readings, intake.layout
    assert found.ready and readings is not None and layout is not None
    if "asks" in wanted:
        assert found.asks == wanted["asks"], found.why
    asked, method = opened(readings, layout, found.asks)
    got: dict[str, Any] = {
        "kinds": [column.kind.value for column in found.columns],
        "series": list(dict.fromkeys(group.series for group in asked.groups if group.level is not None)),
        "unit": layout.level.unit,
        "level": layout.level.name,
        "signal": (layout.signal.name, layout.signal.unit),
        "plates": len(readings.plates),
        "turned": found.turned,
        "decimal": found.decimal,
        "notes": len(found.notes),
        "channels": [channel.name for channel in readings.channels],
        "numbers": sum(reading.value is not None for reading in readings.readings),
        "errors": [reading.error for reading in readings.readings],
        "roles": dict(Counter(group.role.value for group in layout.groups)),
        "names": [group.name for group in layout.groups if group.role.value == "sample"],
        "names_of": {
            role: list(dict.fromkeys(g.name for g in asked.groups if g.role.value == role))
            for role in wanted.get("names_of", ())
        },
        "dilutions": {group.name: group.dilution for group in layout.groups if group.dilution != 1},
    }  # fmt: skip
    if readings.axis is not None:
        got |= {
            "courses": [group.name for group in layout.groups], "time": readings.axis.quantity.unit,
            "points": int(readings.curves.there.sum()),
        }  # fmt: skip
    for key in got.keys() & wanted.keys():
        assert got[key] == wanted[key], key
    if "levels" in wanted:
        levels = sorted({group.level for group in asked.groups if group.level is not None})
        assert levels[: len(wanted["levels"])] == pytest.approx(wanted["levels"], rel=1e-9)
    # A guess that leaves something to say says it; what is plain has no second look.
    assert sorted(s.id for s in found.statements if s.state == "look") == sorted(wanted.get("looks", []))
    outcome = evaluate(readings, asked, method)
    assert outcome.verdict.headline


def test_the_corpus_is_large_enough() -> None:
    assert len(CORPUS) >= 40


words = st.text("abcdefghijklmnopqrstuvwxyz", min_size=2, max_size=8)
numbers = st.floats(-1e6, 1e6, allow_nan=False).map(lambda value: f"{value:.4g}")


@given(st.data())
@settings(max_examples=150)
def test_a_table_of_numbers_under_headings_is_never_a_plate(data: st.DataObject) -> None:
    columns = data.draw(st.sampled_from([2, 3, 5, 6, 8, 12, 13, 24, 25, 48]))
    rows = data.draw(st.sampled_from([2, 4, 5, 6, 8, 9, 16, 32]))
    heads = data.draw(st.lists(words, min_size=columns, max_size=columns, unique=True))
    body = [[data.draw(numbers) for _ in range(columns)] for _ in range(rows)]
    separator = data.draw(st.sampled_from(["\t", ","]))
    found = understand("\n".join(separator.join(row) for row in [heads, *body])).understanding
    assert found.shape == "table" and found.plates == ()


@given(st.data())
@settings(max_examples=60)
def test_a_rising_first_column_beside_readings_is_never_a_plate(data: st.DataObject) -> None:
    """Without headings, too, where the axis is typed otherwise than what was read."""
    columns, rows = data.draw(st.sampled_from([(6, 4), (8, 6), (12, 8), (24, 16)]))
    start, step = data.draw(st.integers(0, 500)), data.draw(st.integers(1, 10))
    readings = st.floats(0, 4).map(lambda value: f"{value:.3f}")
    body = [[str(start + step * r), *(data.draw(readings) for _ in range(columns - 1))] for r in range(rows)]
    assert understand("\n".join("\t".join(row) for row in body)).understanding.shape == "table"


@given(st.data())
@settings(max_examples=40)
def test_any_relation_that_is_written_comes_back_as_itself(data: st.DataObject) -> None:
    names = data.draw(st.lists(words.map(str.title), min_size=1, max_size=4, unique=True))
    x = data.draw(st.lists(st.integers(-50, 50), min_size=3, max_size=9, unique=True))
    text = "\n".join(
        ["\t".join(["Position (mm)", *names]), *("\t".join([str(v), *(data.draw(numbers) for _ in names)]) for v in x)]
    )
    intake = understand(text)
    assume(intake.readings is not None and intake.layout is not None and intake.understanding.asks == "relation")
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "relation")
    outcome = evaluate(intake.readings, layout, method, whole=True)
    written = EXPORTS["json"].make(Subject("relation", intake.readings, layout, outcome)).decode()
    back = understand(written)
    assert back.readings is not None and back.layout is not None
    again, _ = opened(back.readings, back.layout, back.understanding.question)
    assert back.understanding.question == "relation"

    def points(readings: Readings, of: Layout) -> list[tuple[str, float | None, str]]:
        return sorted((g.series, g.level, readings.by_id[id].text) for g in of.groups for id in g.readings)

    assert points(back.readings, again) == points(intake.readings, layout)
