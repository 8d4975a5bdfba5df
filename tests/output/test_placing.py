"""Room for labels: they cover nothing, and stand apart from each other."""

import itertools

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from dosis.output.figures.placing import Box, Room, apart


@given(st.lists(st.tuples(st.floats(0, 190), st.floats(0, 90)), max_size=40), st.floats(5, 60), st.floats(5, 30))
def test_a_label_covers_no_point(points: list[tuple[float, float]], width: float, height: float) -> None:
    room = Room(Box(10, 20, 200, 100))
    x, y = np.array([p[0] for p in points]) + 10, np.array([p[1] for p in points]) + 20
    room.take_dots(x, y, 2.0)
    box = room.free(width, height)
    if box is None:
        return
    assert box.left >= 10 and box.bottom >= 20 and box.right <= 211 and box.top <= 121
    assert not any(box.overlaps(Box(a - 2, b - 2, 4, 4)) for a, b in zip(x, y, strict=True))


def test_a_corner_is_chosen_that_is_free() -> None:
    room = Room(Box(0, 0, 100, 100))
    first = room.free(20, 10)
    assert first is not None and first.right > 95 and first.top > 95  # the upper right, where nothing stands
    room.take(Box(50, 50, 50, 50))
    second = room.free(20, 10)
    assert second is not None and not second.overlaps(Box(50, 50, 50, 50))
    room.take(Box(0, 0, 100, 100))
    assert room.free(20, 10) is None


def test_a_line_takes_its_places() -> None:
    room = Room(Box(0, 0, 100, 100))
    room.take_line([0, 100], [0, 100])
    assert room.covered(Box(49, 49, 2, 2)) and not room.covered(Box(70, 20, 5, 5))


@given(st.lists(st.floats(-50, 150), min_size=1, max_size=9), st.floats(1, 12))
def test_labels_stand_apart_in_their_order(wanted: list[float], height: float) -> None:
    places = apart(wanted, height, 0.0, 100.0)
    if places is None:
        assert height * len(wanted) > 100
        return
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    stood = [places[i] for i in order]
    assert all(b - a >= height - 1e-6 for a, b in itertools.pairwise(stood))
    assert min(stood) >= height / 2 - 1e-6 and max(stood) <= 100 - height / 2 + 1e-6


def test_labels_with_room_stand_where_they_are_wanted() -> None:
    assert apart([80.0, 20.0, 50.0], 10.0, 0.0, 100.0) == [80.0, 20.0, 50.0]
