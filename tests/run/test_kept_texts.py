"""What is kept from one run shows in no other: texts and values are the same whatever was evaluated before."""

import pytest

from dosis.core.rounding import fixed, given, significant, with_interval
from dosis.run.curves.equation import put
from dosis.run.outcome.value import Value


@pytest.mark.parametrize("first", [-0.0, 0.0])
def test_a_zero_has_no_sign_whichever_came_first(first: float) -> None:
    for kept in (given, significant, fixed, put):
        kept.cache_clear()
    Value.of.cache_clear()
    for zero in (first, -first):
        assert given(zero) == significant(zero) == put(zero) == "0"
        assert fixed(zero, 2) == "0.00" and with_interval(zero, -1.0, 1.0)[0] == "0.0"
        made = Value.of(zero, zero, 1.0)
        assert str(made.value) == str(made.lower) == "0.0"


def test_a_whole_number_and_a_fraction_that_are_equal_are_kept_as_one() -> None:
    Value.of.cache_clear()
    assert repr(Value.of(1, 0, 2).value) == "1.0"
