"""Recordings recognized: equal steps of time, units of their own, comments as marks; short and long."""

import numpy as np
import pytest

from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake


def table(rows: int, *, heads: str = "Probe (mV)\tSensor (V)", step: float = 0.005, marks: dict[int, str] | None = None,
          comment: str = "") -> str:  # fmt: skip
    notes = marks or {}
    lines = [f"{step * i:.4f}\t{i % 7}\t{0.1 * (i % 3):.1f}" + (f"\t{notes.get(i, '')}" if comment else "")
             for i in range(rows)]  # fmt: skip
    return "\n".join([f"Time (s)\t{heads}" + (f"\t{comment}" if comment else ""), *lines])


def asked(intake: Intake) -> str:
    return intake.understanding.asks


def test_voltages_at_equal_steps_are_a_recording_from_a_hundred_on() -> None:
    assert asked(understand(table(100))) == "recording"
    assert asked(understand(table(99))) != "recording"


def test_with_marks_twenty_samples_are_enough() -> None:
    assert asked(understand(table(20, comment="Comment", marks={5: "acid"}))) == "recording"
    assert asked(understand(table(19, comment="Comment", marks={5: "acid"}))) != "recording"


def test_units_of_amount_are_a_course_unless_marks_stand_beside_them() -> None:
    heads = "Ammonium (mg/L)\tNitrate (mg/L)"
    assert asked(understand(table(200, heads=heads))) == "rate"
    assert asked(understand(table(200, heads=heads, comment="Comment", marks={5: "acid"}))) == "recording"


def test_uneven_steps_are_no_recording() -> None:
    text = table(200).splitlines()
    uneven = [text[0], *(line for i, line in enumerate(text[1:]) if i % 10 or i < 10)]
    assert asked(understand("\n".join(uneven))) != "recording"


def test_each_channel_has_its_name_and_unit_and_comments_are_marks() -> None:
    intake = understand(table(200, comment="Comment", marks={0: "air", 150: "water"}))
    assert intake.readings is not None and intake.layout is not None and intake.readings.axis is not None
    assert [group.name for group in intake.layout.groups] == ["Probe", "Sensor"]
    assert [each.unit for each in intake.readings.axis.of] == ["mV", "V"]
    assert [(mark.x, mark.text) for mark in intake.readings.axis.marks] == [(0.0, "air"), (0.75, "water")]
    said = {each.id: each.text for each in intake.understanding.statements}
    assert "2 marks" in said["channels"] and "unused" not in said


@pytest.mark.parametrize("rows", [49_999, 72_000])
def test_long_recordings_keep_their_marks_to_the_end(rows: int) -> None:
    """Six minutes at 200 Hz are more rows than a table may have."""
    intake = understand(table(rows, comment="Comment", marks={10: "start", rows - 5: "stop"}))
    assert intake.readings is not None and intake.readings.axis is not None
    assert intake.readings.curves.y.shape == (2, rows)
    assert [mark.text for mark in intake.readings.axis.marks] == ["start", "stop"]
    assert intake.readings.axis.marks[1].x == pytest.approx(0.005 * (rows - 5))
    np.testing.assert_allclose(intake.readings.curves.y[0, -3:], [(rows - 3 + k) % 7 for k in range(3)])


def test_any_columns_beside_a_time_are_channels_where_a_person_says_so() -> None:
    intake = understand(table(30, heads="A\tB"), Choices(question="recording"))
    assert intake.readings is not None and intake.readings.curves.y.shape == (2, 30)
