"""Laying a plate out: what each well becomes, in which order, and what is refused in words."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.intake.understand import understand
from dosis.run.changes import Exclude
from dosis.run.evaluate import evaluate
from dosis.run.laying_out import ApplyLayout, AssignWells, ClearWells, Describe, FillSeries, NumberSamples, counted
from dosis.run.layout import Layout, Quantity
from dosis.run.method import default_method
from dosis.run.readings import Readings
from dosis.run.recipes import FromStock, Weighed
from dosis.run.roles import Role
from dosis.run.saved_layout import misfits, saved
from dosis.run.wells import SIZES, arranged, parse_well, row_letters, well_name
from tests.outcomes import answers
from tests.tables import plate_text

METHOD = default_method("concentration")


def plate(rows: int = 8, columns: int = 12) -> tuple[Readings, Layout]:
    """A plate as an instrument prints it, without a layout."""
    intake = understand(plate_text(rows, columns))
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, intake.layout


def wells(readings: Readings, *names: str) -> tuple[int, ...]:
    """Ids of wells, or of all between two corners ("A1:H2")."""
    found = []
    for name in names:
        first, _, last = name.partition(":")
        (r0, c0), (r1, c1) = parse_well(first) or (0, 0), parse_well(last or first) or (0, 0)
        found += [r.id for r in readings.readings if r0 <= r.row <= r1 and c0 <= r.column <= c1]
    return tuple(found)


def described(readings: Readings, layout: Layout) -> dict[str, tuple[str, float | None]]:
    at = {r.id: well_name(r.row, r.column) for r in readings.readings}
    return {at[id]: (group.name, group.level) for group in layout.groups for id in group.readings}


def test_a_series_goes_down_with_its_replicates_side_by_side() -> None:
    readings, layout = plate()
    fill = FillSeries(readings=wells(readings, "A1:H2"), top="20 µg/L", factor=2, replicates=2)
    laid, _ = fill.apply(readings, layout, METHOD)
    is_what = described(readings, laid)
    assert is_what["A1"] == is_what["A2"] == ("Std 1", 20.0)
    assert is_what["B1"] == is_what["B2"] == ("Std 2", 10.0)
    assert is_what["H2"] == ("Std 8", 0.15625)
    assert laid.level.unit == "µg/L"
    assert laid.groups[3].working == "20 ÷ 2^3 = 2.5 µg/L"
    assert fill.words(readings, layout, METHOD) == "Wells A1 to H2 (16): dilution series from 20 µg/L, ÷ 2"


def test_a_series_goes_across_with_its_zero_last() -> None:
    readings, layout = plate()
    fill = FillSeries(
        readings=wells(readings, "A1:B6"), top="100", factor=10, direction="across", replicates=2, zero_at_end=True
    )
    laid, _ = fill.apply(readings, layout, METHOD)
    is_what = described(readings, laid)
    assert [is_what[f"A{c}"][1] for c in range(1, 7)] == [100, 10, 1, 0.1, 0.01, 0]
    assert is_what["B6"] == ("Std 6", 0)


def test_a_top_in_another_unit_of_the_kind_is_converted_and_another_kind_refused() -> None:
    readings, layout = plate()
    laid, _ = FillSeries(readings=wells(readings, "A1:D1"), top="1 mg/L", factor=2).apply(readings, layout, METHOD)
    more, _ = AssignWells(readings=wells(readings, "E1"), role=Role.STANDARD, level="50 µg/L").apply(
        readings, laid, METHOD
    )
    assert described(readings, more)["E1"][1] == pytest.approx(0.05, rel=1e-12)
    with pytest.raises(ValueError, match="do not measure the same kind"):
        AssignWells(readings=wells(readings, "E1"), role=Role.STANDARD, level="5 mV").apply(readings, laid, METHOD)
    with pytest.raises(ValueError, match="“much” is not a concentration"):
        FillSeries(readings=wells(readings, "A1:D1"), top="much", factor=2).apply(readings, layout, METHOD)


def test_levels_from_a_mass_and_from_a_stock_keep_their_working() -> None:
    # Worked by hand: 13.61 mg of KH2PO4 (136.09 g/mol) in 100 mL is 1.0001 mmol/L; 0.5 mL of 1 g/L in 50 mL is 10 mg/L.
    value, unit, working = Weighed(mass="13.61 mg", volume="100 mL", molar_mass=136.09).level("µM")
    assert value == pytest.approx(1000.0734807, rel=1e-9) and unit == "µM"
    assert working == "13.61 mg ÷ (136.09 g/mol × 100 mL) = 1000.07 µM"
    assert FromStock(stock="1 g/L", volume="0.5 mL", final_volume="50 mL").level("mg/L")[0] == pytest.approx(
        10, rel=1e-12
    )
    assert Weighed(mass="10 mg", volume="1 L", purity=98).level("")[:2] == (0.0098, "g/L")
    with pytest.raises(ValueError, match="molar mass is needed"):
        Weighed(mass="10 mg", volume="1 L").level("µM")
    with pytest.raises(ValueError, match="volume “100” has no unit"):
        Weighed(mass="10 mg", volume="100").level("mg/L")
    with pytest.raises(ValueError, match="too large or too small"):
        Weighed(mass="1e60 g", volume="1e-60 L").level("")


def test_samples_are_numbered_in_triplicate_down_the_plate() -> None:
    readings, layout = plate()
    number = NumberSamples(readings=wells(readings, "A4:H12"), first="M-099", replicates=3, dilution=20)
    laid, _ = number.apply(readings, layout, METHOD)
    is_what = described(readings, laid)
    assert len(laid.groups) == 24 and all(len(group.readings) == 3 for group in laid.groups)
    assert [is_what[w][0] for w in ("A4", "A6", "B4", "H6", "A7", "H12")] == [
        "M-099", "M-099", "M-100", "M-106", "M-107", "M-122",
    ]  # fmt: skip
    assert {group.dilution for group in laid.groups} == {20.0}


def test_assigning_keeps_what_is_not_given_and_joins_what_is_alike() -> None:
    readings, layout = plate()
    one, _ = AssignWells(readings=wells(readings, "A12:B12"), role=Role.BLANK).apply(readings, layout, METHOD)
    two, _ = AssignWells(readings=wells(readings, "C12:D12"), role=Role.BLANK).apply(readings, one, METHOD)
    assert [(g.name, len(g.readings)) for g in two.groups] == [("Blank", 4)]
    three, _ = AssignWells(
        readings=wells(readings, "A1:A2"), role=Role.QC, name="QC low", level="2 µM", dilution=5
    ).apply(readings, two, METHOD)
    four, _ = AssignWells(readings=wells(readings, "A2"), dilution=10).apply(readings, three, METHOD)
    by_well = {id: g for g in four.groups for id in g.readings}
    first, second = (by_well[id] for id in wells(readings, "A1:A2"))
    assert (first.dilution, second.dilution) == (5, 10)
    assert (second.name, second.level, second.role) == ("QC low", 2.0, Role.QC)
    with pytest.raises(ValueError, match="no role yet"):
        AssignWells(readings=wells(readings, "H1"), name="x").apply(readings, four, METHOD)


def test_clearing_takes_exclusions_along_and_says_so() -> None:
    readings, layout = plate()
    ids = wells(readings, "A1:B1")
    laid, _ = AssignWells(readings=ids, role=Role.SAMPLE).apply(readings, layout, METHOD)
    out, _ = Exclude(readings=ids[:1], reason="bubble").apply(readings, laid, METHOD)
    clear = ClearWells(readings=ids)
    assert clear.words(readings, out, METHOD) == "Wells A1 to B1 (2): role removed; 1 exclusion with it"
    gone, _ = clear.apply(readings, out, METHOD)
    assert gone.groups == () and gone.exclusions == ()


def test_a_saved_layout_lays_out_another_plate_and_says_what_does_not_fit() -> None:
    readings, layout = plate()
    layout, _ = FillSeries(readings=wells(readings, "A1:H2"), top="20 mg/L", factor=2, replicates=2).apply(
        readings, layout, METHOD
    )
    kept = saved("Eight in duplicate", readings, layout, 0)
    other = understand(plate_text(8, 12, empty=("A1",)))
    assert other.readings is not None and other.layout is not None
    laid, _ = ApplyLayout(layout=kept).apply(other.readings, other.layout, METHOD)
    assert described(other.readings, laid) == described(readings, layout)
    assert [remark.text for remark in misfits(other.readings, laid)] == [
        "A1 has a role but no reading.",
        "A3, A4, A5, A6 and 76 more have a reading but no role, and stay out of the answers.",
    ]
    small = understand(plate_text(4, 6))
    assert small.readings is not None and small.layout is not None
    with pytest.raises(ValueError, match="uses well E1, which a plate of 4 × 6 wells does not have"):
        ApplyLayout(layout=kept).apply(small.readings, small.layout, METHOD)


def test_describing_renames_without_touching_numbers() -> None:
    readings, layout = plate()
    laid, _ = Describe(level=Quantity(name="Domoic acid", unit="µg/L")).apply(readings, layout, METHOD)
    assert laid.level.label == "Domoic acid / µg/L" and laid.signal == layout.signal


@pytest.mark.parametrize(
    ("first", "names"),
    [("M-101", ["M-101", "M-102"]), ("S09", ["S09", "S10"]), ("Pond", ["Pond 1", "Pond 2"]), ("a3b", ["a3b", "a4b"])],
)
def test_names_count_on(first: str, names: list[str]) -> None:
    assert counted(first, 2) == names


@given(
    st.sampled_from(sorted(SIZES.values())), st.data(), st.sampled_from(["down", "across"]), st.integers(1, 5),
    st.booleans(),
)  # fmt: skip
@settings(max_examples=60)
def test_every_selected_well_is_arranged_once(size, data, direction, replicates, beside) -> None:  # type: ignore[no-untyped-def]
    rows, columns = size
    chosen = data.draw(
        st.sets(st.tuples(st.just(0), st.integers(0, rows - 1), st.integers(0, columns - 1)), min_size=1)
    )
    groups = arranged(tuple(chosen), direction, replicates, beside)
    assert sorted(place for group in groups for place in group) == sorted(chosen)
    assert all(1 <= len(group) <= replicates for group in groups)


def test_wells_are_named_as_plates_are_printed() -> None:
    assert row_letters(0) == "A" and row_letters(25) == "Z" and row_letters(31) == "AF"
    for rows, columns in SIZES.values():
        for place in ((0, 0), (rows - 1, columns - 1)):
            assert parse_well(well_name(*place)) == place
    assert parse_well("b07") == (1, 6)
    assert parse_well("A0") is None and parse_well("A49") is None and parse_well("Std 1") is None


def test_a_laid_out_plate_is_evaluated() -> None:
    readings, layout = plate()
    layout, _ = FillSeries(readings=wells(readings, "A1:H2"), top="20", factor=2, replicates=2).apply(
        readings, layout, METHOD
    )
    layout, _ = NumberSamples(readings=wells(readings, "A4:H12"), replicates=3).apply(readings, layout, METHOD)
    outcome = evaluate(readings, layout, METHOD)
    assert len(answers(outcome)) == 24
    assert [remark.short for remark in outcome.layout] == ["8 × no role"]
