"""JCAMP-DX in all its forms.

The compressed forms of one spectrum are the example of the standard (McDonald & Wilks 1988, Appl. Spectrosc. 42, 151),
written from memory; the sums of their differences are checked by the plain form.
"""

import pytest

from dosis.intake.jcamp import decode, jcamp_grid
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand

PLAIN = [
    0, 0, 0, 0, 2, 4, 4, 4, 7, 5, 4, 4, 5, 5, 7, 10, 11, 11, 6, 5, 7, 6, 9, 9, 7, 10, 10, 9, 10, 11, 12, 15, 16, 16,
    14, 17, 38, 38, 35, 38, 42, 47, 54, 59, 66, 75, 78, 88, 96, 104, 110, 121, 128,
]  # fmt: skip
SQUEEZE, NEGATIVE = "@ABCDEFGHI", "@abcdefghi"


def squeezed(values: list[int]) -> str:
    return "".join((SQUEEZE if v >= 0 else NEGATIVE)[int(str(abs(v))[0])] + str(abs(v))[1:] for v in values)


@pytest.mark.parametrize(
    "line",
    [
        "599.860 " + " ".join(map(str, PLAIN)),
        "599.860" + "".join(f"+{v}" for v in PLAIN),
        "599.860" + squeezed(PLAIN),
        "599.860@VKT%TLkj%J%KLJ%njKjL%kL%jJULJ%kLK1%lLMNPNPRLJ0QTOJ1P",
    ],
    ids=["fixed", "packed", "squeezed", "differences"],
)
def test_every_form_of_the_standards_example_is_one_spectrum(line: str) -> None:
    starts, y = decode([line])
    assert starts == [599.86] and y == PLAIN


def test_a_line_after_differences_begins_with_a_check_of_the_last() -> None:
    assert decode(["1 @JJ", "3 BJ"])[1] == [0, 1, 2, 3]
    with pytest.raises(IntakeError, match="does not go on where the one before ends"):
        decode(["1 @JJ", "3 CJ"])


def test_below_zero_and_exponents() -> None:
    assert decode(["10 abJ1"])[1] == [-1, -2, 9]
    assert decode(["10 -1.5E-02 2.5e+01"])[1] == [-0.015, 25]


BLOCK = """##TITLE= {title}
##JCAMP-DX= 4.24 $$ a comment
##DATA TYPE= UV/VIS SPECTRUM
##XUNITS= NANOMETERS
##YUNITS= ABSORBANCE
##XFACTOR= 1
##YFACTOR= 0.001
##FIRSTX= 400
##LASTX= {last}
##NPOINTS= {n}
##XYDATA= (X++(Y..Y))
400 {y}
##END=
"""


def test_a_block_becomes_a_table_of_its_own_axis() -> None:
    intake = understand(BLOCK.format(title="Marsh", last=430, n=4, y="100 250 300 120"))
    found = intake.understanding
    assert found.asks == "relation" and [c.heading for c in found.columns] == ["Wavelength (nm)", "Marsh"]
    assert intake.layout is not None and [g.level for g in intake.layout.groups] == [400, 410, 420, 430]
    assert intake.readings is not None and [r.value for r in intake.readings.readings] == [0.1, 0.25, 0.3, 0.12]


def test_blocks_of_one_axis_are_columns_and_of_others_have_gaps() -> None:
    one = BLOCK.format(title="Marsh", last=430, n=4, y="100 250 300 120")
    two = BLOCK.format(title="Pier", last=430, n=4, y="90 200 260 100")
    linked = f"##TITLE= Both\n##DATA TYPE= LINK\n##BLOCKS= 2\n{one}{two}##END=\n"
    assert jcamp_grid(linked)[1] == ["Wavelength (nm)", "Marsh", "Pier"]
    longer = BLOCK.format(title="Pier", last=440, n=4, y="90 200 260 100")
    grid = jcamp_grid(one + longer)
    assert grid[1] == ["Wavelength (nm)", "Marsh", "Pier"]
    assert grid[2] == ["400", "0.1", "0.09"] and grid[-1] == ["440", "", "0.1"]
    with pytest.raises(IntakeError, match="not along one axis"):
        jcamp_grid(one + two.replace("NANOMETERS", "1/CM"))


def test_fewer_points_than_told_are_said() -> None:
    grid = jcamp_grid(BLOCK.format(title="Marsh", last=430, n=5, y="100 250 300 120"))
    assert "says 5 points and has 4" in grid[0][0]


def test_ntuples_are_a_series_a_page() -> None:
    text = """##TITLE= Decay
##DATA CLASS= NTUPLES
##NTUPLES= UV SPECTRA
##SYMBOL= X, Y, T
##VAR_DIM= 3, 3, 2
##UNITS= NANOMETERS, ABSORBANCE, SECONDS
##FACTOR= 1, 0.01, 1
##FIRST= 300, 0, 0
##LAST= 320, 0, 60
##PAGE= T=0
##DATA TABLE= (X++(Y..Y)), XYDATA
300 10 20 30
##PAGE= T=60
##DATA TABLE= (X++(Y..Y)), XYDATA
300 5 10 15
##END NTUPLES= UV SPECTRA
##END=
"""
    assert jcamp_grid(text) == [
        ["Absorbance"], ["Wavelength (nm)", "Decay T=0 s", "Decay T=60 s"],
        ["300", "0.1", "0.05"], ["310", "0.2", "0.1"], ["320", "0.3", "0.15"],
    ]  # fmt: skip


def test_points_are_read_in_pairs_and_what_has_none_is_refused() -> None:
    text = "##TITLE= Peaks\n##XUNITS= 1/CM\n##YUNITS= ABSORBANCE\n##XYPOINTS= (XY..XY)\n900.5, 0.1; 910, 0.2\n##END=\n"
    assert jcamp_grid(text) == [["Absorbance"], ["Wavenumber (1/cm)", "Peaks"], ["900.5", "0.1"], ["910", "0.2"]]
    with pytest.raises(IntakeError, match="no table of data"):
        jcamp_grid("##TITLE= Nothing\n##END=\n")
