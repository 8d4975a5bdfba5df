"""The notation of a figure's words, and units as they are printed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dosis.output.figures.markup import literal, pieces, plain
from dosis.output.figures.unit_setting import set_title, set_unit


def told(text: str) -> str:
    """Pieces as one text: ↑…| raised, ↓…| lowered, /…/ italic, #…# bold."""
    made = ""
    for piece in pieces(text):
        inner = f"#{piece.text}#" if piece.bold else piece.text
        inner = f"/{inner}/" if piece.italic else inner
        made += {"line": inner, "up": f"↑{inner}|", "down": f"↓{inner}|"}[piece.level]
    return made


@pytest.mark.parametrize(("typed", "set_as"), [
    ("x^2", "x↑2|"), ("mL^-1", "mL↑−1|"), ("H_2O", "H↓2|O"), ("[Fe^3+]", "[Fe↑3+|]"), ("24 ^oC", "24 ↑o|C"),
    ("SO_4^2-", "SO↓4|↑2−|"), ("V_max", "V↓max|"), ("K_m", "K↓m|"), ("A_600", "A↓600|"), ("^13C", "↑13|C"),
    ("x^{n+1}", "x↑n+1|"), ("*A* at 1 cm", "/A/ at 1 cm"), ("**bold**", "#bold#"), ("**a *b***", "#a #/#b#/"),
    ("\\alpha, \\Delta", "α, Δ"), ("\\nothing", "\\nothing"), ("\\^2", "^2"), ("5 ^ 3", "5 ^ 3"),
])  # fmt: skip
def test_notation_is_set(typed: str, set_as: str) -> None:
    assert told(typed) == set_as


@pytest.mark.parametrize(
    "typed", ["*open", "a * b * c", "x^", "_", "**", "{", "<script>alert(1)</script>", "$x$", "a_ b"]
)
def test_what_is_no_notation_stands_as_it_was_typed(typed: str) -> None:
    assert told(typed) == typed


@given(st.text(max_size=60))
def test_a_name_out_of_the_data_is_set_as_it_stands(name: str) -> None:
    shown = "".join(char if char.isprintable() else " " for char in name)
    assert plain(literal(name)) == shown
    assert all(piece.level == "line" and not piece.italic and not piece.bold for piece in pieces(literal(name)))


@given(st.text(alphabet="ab1-+^_*{}\\ ", max_size=40))
def test_nothing_typed_is_lost_but_the_notation(text: str) -> None:
    kept = [char for char in plain(text) if char.isalnum()]
    assert kept == [char for char in text if char.isalnum()] or "\\" in text  # a backslash names a letter


@pytest.mark.parametrize(("typed", "set_as"), [
    ("umol L-1", "µmol L^{−1}"), ("mol/L", "mol/L"), ("ug/mL", "µg/mL"), ("bar", "bar"), ("ohm", "Ω"), ("mL/s", "mL/s"),
    ("kohm", "kΩ"), ("mg dm-3", "mg dm^{−3}"), ("cm2", "cm^{2}"), ("mol m^-2 s^-1", "mol m^{−2} s^{−1}"),
    ("degC", "°C"), ("m.s-1", "m·s^{−1}"), ("uM", "µM"), ("U/mL", "U/mL"), ("min-1", "min^{−1}"),
    ("% of control", "% of control"), ("cells/mL", "cells/mL"), ("bananas", "bananas"), ("", ""),
])  # fmt: skip
def test_units_are_set_as_they_are_printed(typed: str, set_as: str) -> None:
    """IUPAC Green Book (2007), 1.3: units upright, powers raised, a space or a half-high dot between."""
    assert set_unit(typed) == set_as


@pytest.mark.parametrize(("typed", "set_as"), [
    ("Rate (umol L-1)", "Rate (µmol L^{−1})"), ("Phosphate / ug/mL", "Phosphate / µg/mL"),
    ("Conc [mg L-1]", "Conc [mg L^{−1}]"),
    ("A (1 cm)", "A (1 cm)"), ("and/or", "and/or"), ("Rate (umol", "Rate (umol"), ("Fluorescence", "Fluorescence"),
])  # fmt: skip
def test_the_unit_of_a_typed_title_is_set(typed: str, set_as: str) -> None:
    assert set_title(typed) == set_as
