"""Tables as people have them: text, and what must come of it. All invented.

asks : the question. kinds : of the columns. series : in their order. numbers : how many readings are numbers.
unit, level : of the levels. roles : how many groups of each. looks : ids of statements that ask for a second look.
answers : what the run says of itself, in part.
"""

from typing import Any

T = "\t"


def rows(*lines: str) -> str:
    return "\n".join(lines) + "\n"


def grid(heads: list[str], xs: list[float], *of: Any, places: int = 3) -> str:
    """A table with x and a column for each function."""
    return rows(T.join(heads), *(T.join([f"{x:g}", *(f"{f(x):.{places}f}" for f in of)]) for x in xs))


DOSES = [0.1, 0.3, 1, 3, 10, 30, 100, 300]


def sigmoid(half: float) -> Any:
    return lambda x: 2 + 96 / (1 + (x / half) ** 1.1) + 0.3 * ((hash((round(x * 10), round(half))) % 7) - 3)


TEMPS = [5.0, 10, 15, 20, 25, 30, 35]

CORPUS: dict[str, tuple[str, dict[str, Any]]] = {
    "dose and five compounds": (
        grid(["Dose (µM)", *(f"EX-0{i}" for i in range(1, 6))], DOSES, *(sigmoid(h) for h in (1, 3, 8, 20, 5))),
        {
            "asks": "dose",
            "kinds": ["level"] + 5 * ["reading"],
            "series": [f"EX-0{i}" for i in range(1, 6)],
            "unit": "µM",
            "numbers": 40,
            "plates": 0,
        },
    ),
    "dose and seven compounds, eight doses": (
        grid(["conc (nM)", *(f"C000{i}" for i in range(1, 8))], DOSES, *(sigmoid(h) for h in (1, 3, 8, 20, 5, 9, 2))),
        {"asks": "dose", "series": [f"C000{i}" for i in range(1, 8)], "numbers": 56, "plates": 0},
    ),
    "dose and eleven compounds": (
        grid(["Dose", *(f"K{i}" for i in range(1, 12))], DOSES, *(sigmoid(h) for h in range(1, 12))),
        {"asks": "dose", "numbers": 88, "plates": 0, "looks": ["unit"]},
    ),
    "time and five trials": (
        grid(
            ["Time (min)", *(f"Trial {i}" for i in range(1, 6))],
            [float(t) for t in range(22)],
            *((lambda x, k=k: 0.1 + 0.01 * k * x) for k in range(1, 6)),
        ),
        {"asks": "rate", "courses": [f"Trial {i}" for i in range(1, 6)], "points": 110, "time": "min", "plates": 0},
    ),
    "wavelength and seven scans": (
        grid(
            ["Wavelength (nm)", *(f"Flask {c}" for c in "ABCDEFG")],
            [float(w) for w in range(400, 611)],
            *((lambda x, k=k: 0.2 + k * 0.01 + 0.001 * (x - 400)) for k in range(7)),
        ),
        {
            "asks": "spectrum",
            "courses": [f"Flask {c}" for c in "ABCDEFG"],
            "points": 7 * 211,
            "time": "nm",
            "plates": 0,
        },
    ),
    "six plain columns": (
        grid(["a1", "b2", "c3", "d4", "e5", "f6"], [1.0, 2, 4, 8], *((lambda x, k=k: k + 0.1 * x) for k in range(5))),
        {"asks": "relation", "numbers": 20, "plates": 0},
    ),
    "twelve columns over eight rows with a heading": (
        grid(["T", *(f"n{i}x" for i in range(11))], [*TEMPS, 40.0], *((lambda x, k=k: k + 0.1 * x) for k in range(11))),
        {"asks": "relation", "numbers": 88, "plates": 0},
    ),
    "temperature and rate in triplicate": (
        grid(
            ["Temperature (°C)", "Rate 1 (U/g)", "Rate 2 (U/g)", "Rate 3 (U/g)"],
            TEMPS,
            *((lambda x, k=k: 0.4 * x + 0.1 * k) for k in range(3)),
            places=2,
        ),
        {"asks": "relation", "series": [""], "numbers": 21, "unit": "°C", "signal": ("Rate", "U/g")},
    ),
    "rep 1 and rep 2 said": (
        grid(["Depth (m)", "Light rep 1", "Light rep 2"], TEMPS, lambda x: 90 - x, lambda x: 89 - x),
        {"asks": "relation", "series": [""], "numbers": 14, "unit": "m"},
    ),
    "an error column": (
        rows("x\ty\terror", "1\t2.1\t0.1", "2\t3.9\t0.2", "3\t6.2\t0.2", "4\t7.8\t0.3"),
        {"asks": "relation", "kinds": ["level", "reading", "error"], "numbers": 4, "errors": [0.1, 0.2, 0.2, 0.3]},
    ),
    "two series, each with its SD": (
        rows(
            "Depth (m)\tNorth\tSD\tSouth\tSD",
            "1\t20.1\t0.4\t18.2\t0.3",
            "2\t18.8\t0.5\t17.7\t0.2",
            "4\t15.2\t0.3\t14.9\t0.4",
            "8\t11.2\t0.2\t10.1\t0.3",
        ),
        {
            "asks": "relation",
            "kinds": ["level", "reading", "error", "reading", "error"],
            "series": ["North", "South"],
            "errors": [0.4, 0.3, 0.5, 0.2, 0.3, 0.4, 0.2, 0.3],
        },
    ),
    "±, with the sign in the cells": (
        rows("T (K)\tk (1/s)\t±", "290\t0.11\t±0.01", "300\t0.21\t± 0.02", "310\t0.39\t± 0.02", "320\t0.72\t±0.03"),
        {"asks": "relation", "kinds": ["level", "reading", "error"], "errors": [0.01, 0.02, 0.02, 0.03], "unit": "K"},
    ),
    "u(y) beside y": (
        rows("m (g)\tV (mL)\tu(V)", "1.2\t3.4\t0.1", "2.3\t6.1\t0.1", "3.1\t8.8\t0.2", "4.4\t12.0\t0.2"),
        {"asks": "relation", "kinds": ["level", "reading", "error"]},
    ),
    "pairs of x and y": (
        rows(
            "t A (s)\tOD A\tt B (s)\tOD B",
            "0\t0.10\t0\t0.10",
            "10\t0.21\t20\t0.31",
            "20\t0.32\t40\t0.52",
            "30\t0.40\t60\t0.70",
        ),
        {
            "asks": "relation",
            "kinds": ["level", "reading", "level", "reading"],
            "series": ["A", "B"],
            "numbers": 8,
            "unit": "s",
        },
    ),
    "pairs of unequal length": (
        rows("x 1\ty 1\tx 2\ty 2", "1\t2\t1\t3", "2\t4\t3\t9", "3\t6\t5\t15", "4\t8\t\t"),
        {"asks": "relation", "kinds": ["level", "reading", "level", "reading"], "numbers": 7},
    ),
    "pairs under merged headings": (
        rows(
            "Compound A,,Compound B,",
            "dose (µM),response,dose (µM),response",
            "1,95,1,97",
            "3,80,3,90",
            "10,50,10,70",
            "30,20,30,40",
            "100,5,100,12",
        ),
        {"asks": "dose", "series": ["A", "B"], "unit": "µM", "numbers": 10},
    ),
    "units in a second heading row": (
        rows("Time,Temp,Rate", "s,°C,mV", "0,20,1.1", "10,21,2.2", "20,22,3.1", "30,23,4.4"),
        {"asks": "relation", "unit": "s", "series": ["Temp", "Rate"], "numbers": 8},
    ),
    "a title and a date above": (
        rows(
            "Creek survey",
            "Date: 2026-03-04 10:42:17",
            "Depth (m)\tOxygen (mg/L)",
            "1\t9.1",
            "2\t8.7",
            "4\t7.9",
            "8\t6.0",
        ),
        {"asks": "relation", "numbers": 4, "unit": "m", "notes": 2},
    ),
    "turned": (
        rows(
            "Sample\tBlank\tStd 1\tStd 2\tStd 3\tPier", "Conc (µM)\t0\t1\t2\t4\t", "A880\t0.01\t0.11\t0.20\t0.41\t0.30"
        ),
        {"asks": "concentration", "turned": True, "roles": {"blank": 1, "standard": 3, "sample": 1}, "unit": "µM"},
    ),
    "names that look like headings": (
        rows(
            "Sample\tConc (µM)\tA880",
            "Blank\t0\t0.01",
            "Std A\t1\t0.10",
            "Std B\t2\t0.20",
            "Std C\t4\t0.40",
            "Well\t\t0.22",
            "unknown (20 µL in 400 µL)\t\t0.30",
            "tube 5\t\t0.20",
            "Tank 3\t\t0.25",
        ),
        {
            "asks": "concentration",
            "turned": False,
            "roles": {"blank": 1, "standard": 3, "sample": 4},
            "names": ["Well", "unknown (20 µL in 400 µL)", "tube 5", "Tank 3"],
        },
    ),
    "tubes with names": (
        rows("Tube\tStd (mg/L)\tAbs", "1\t0\t0.01", "2\t5\t0.10", "3\t10\t0.21", "tube 5\t\t0.15", "Tank 3\t\t0.18"),
        {"asks": "concentration", "kinds": ["name", "level", "reading"], "names": ["tube 5", "Tank 3"]},
    ),
    "dilutions in words": (
        rows(
            "Name,Dilution,Conc (µM),OD",
            "Blank,,0,0.05",
            "S1,,1,0.20",
            "S2,,2,0.40",
            "S3,,4,0.80",
            "Pier,1000/50,,0.33",
            "Mole,1:20,,0.31",
            "Quay,20 µL in 400 µL,,0.50",
            "Weir,20 µL + 380 µL,,0.50",
        ),
        {"asks": "concentration", "dilutions": {"Pier": 20, "Mole": 20, "Quay": 20, "Weir": 20}},
    ),
    "levels worked out": (
        rows(
            "Sample\tConc (mg/L)\tA",
            "Std 1\t0.080*2/10\t0.02",
            "Std 2\t0.080*5/10\t0.05",
            "Std 3\t0.080*10/10\t0.10",
            "Pier\t\t0.07",
        ),
        {"asks": "concentration", "levels": [0.016, 0.04, 0.08]},
    ),
    "log10 doses": (
        rows(
            "log10 dose / M\tResponse",
            "-9\t3",
            "-8.5\t6",
            "-8\t10",
            "-7.5\t25",
            "-7\t45",
            "-6.5\t70",
            "-6\t90",
            "-5.5\t95",
            "-5\t99",
        ),
        {"asks": "dose", "unit": "M", "level": "Dose", "levels": [1e-9, 10**-8.5, 1e-8]},
    ),
    "log C, with one that stands for none": (
        rows("log C\tA\tB", "-12\t1\t2", "-9\t3\t5", "-8\t10\t12", "-7\t45\t40", "-6\t90\t80", "-5\t99\t97"),
        {"asks": "dose", "series": ["A", "B"], "looks": ["log", "unit"]},
    ),
    "counts in words": (
        rows(
            "Clone\tCu (µg/L)\tn\timmobile",
            "A\t0\t20\t0",
            "A\t5\t20\t3",
            "A\t10\t20\t9",
            "A\t20\t20\t17",
            "B\t0\t20\t1",
            "B\t5\t20\t1",
            "B\t10\t20\t5",
            "B\t20\t20\t12",
        ),
        {"asks": "mortality", "series": ["A", "B"], "unit": "µg/L"},
    ),
    "survivors by vessel with controls": (
        rows(
            "Dose mg/L\tTank\tTotal\tSurviving",
            "Control\t1\t10\t10",
            "Control\t2\t10\t9",
            "1\t1\t10\t8",
            "1\t2\t10\t9",
            "2\t1\t10\t5",
            "2\t2\t10\t6",
            "4\t1\t10\t1",
            "4\t2\t10\t2",
        ),
        {"asks": "mortality", "kinds": ["level", "vessel", "reading", "reading"], "unit": "mg/L"},
    ),
    "counts at two times in the headings": (
        rows(
            "Dose (mg/L)\tExposed\tDead 24 h\tDead 48 h",
            "Control\t20\t0\t1",
            "Solvent control\t20\t1\t1",
            "1\t20\t3\t5",
            "2\t20\t8\t11",
            "4\t20\t15\t18",
            "8\t20\t19\t20",
        ),
        {"asks": "mortality", "series": ["24 h", "48 h"], "names_of": {"vehicle": ["Control", "Solvent control"]}},
    ),
    "counts as shares": (
        rows("Treatment\tdose (mg/kg)\tdead", "Meadow\t1\t0/5", "Meadow\t3\t2/5", "Meadow\t10\t3/5", "Meadow\t30\t5/5"),
        {"asks": "mortality", "kinds": ["series", "level", "reading", "reading"], "channels": ["dead", "Exposed"]},
    ),
    "affected of number exposed": (
        rows(
            "Species,Conc (mg/L),Number exposed,Number affected",
            "shrimp,1,20,1",
            "shrimp,2,20,6",
            "shrimp,4,20,13",
            "shrimp,8,20,19",
        ),
        {"asks": "mortality", "series": ["shrimp"]},
    ),
    "German, decimal comma": (
        rows(
            "Probe;Konzentration (µg/L);Extinktion",
            "Blindwert;;0,012",
            "Standard 1;1;0,11",
            "Standard 2;2;0,21",
            "Standard 3;4;0,40",
            "Teich;;0,25",
            "Bach;;0,31",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 2}, "unit": "µg/L", "decimal": ","},
    ),
    "French": (
        rows(
            "Échantillon;Concentration (mg/L);Absorbance",
            "Blanc;;0,010",
            "Étalon 1;1;0,11",
            "Étalon 2;2;0,20",
            "Étalon 3;5;0,52",
            "Étang;;0,31",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 1}, "decimal": ","},
    ),
    "Spanish": (
        rows(
            "Muestra;Concentración (mg/L);Absorbancia",
            "Blanco;;0,010",
            "Patrón 1;1;0,11",
            "Patrón 2;2;0,20",
            "Patrón 3;5;0,52",
            "Laguna;;0,31",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 1}},
    ),
    "Italian": (
        rows(
            "Campione;Concentrazione (mg/L);Assorbanza",
            "Bianco;;0,010",
            "Standard 1;1;0,11",
            "Standard 2;2;0,20",
            "Standard 3;5;0,52",
            "Stagno;;0,31",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 1}},
    ),
    "Portuguese": (
        rows(
            "Amostra;Concentração (mg/L);Absorvância",
            "Branco;;0,010",
            "Padrão 1;1;0,11",
            "Padrão 2;2;0,20",
            "Padrão 3;5;0,52",
            "Lagoa;;0,31",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 1}},
    ),
    "Dutch": (
        rows(
            "Monster;Concentratie (mg/L);Extinctie;Verdunning",
            "Blanco;;0,010;",
            "Standaard 1;1;0,11;",
            "Standaard 2;2;0,20;",
            "Standaard 3;5;0,52;",
            "Sloot;;0,31;5x",
        ),
        {"asks": "concentration", "roles": {"blank": 1, "standard": 3, "sample": 1}, "dilutions": {"Sloot": 5}},
    ),
    "German doses and counts": (
        rows("Dosis (mg/L);eingesetzt;gestorben", "0;20;0", "1;20;4", "2;20;10", "4;20;17", "8;20;20"),
        {"asks": "mortality", "unit": "mg/L"},
    ),
    "an instrument's log": (
        rows("Time (s),U (V),T (°C)", *(f"{0.5 * i:g},{0.1 + 0.001 * i:.4f},{20 + 0.01 * i:.2f}" for i in range(400))),
        {"asks": "relation", "series": ["U", "T"], "numbers": 800, "unit": "s", "plates": 0},
    ),
    "without headings": (
        rows(*(f"{t}\t{0.03 + 0.1 * t:.3f}\t{0.03 + 0.2 * t:.3f}\t{0.03 + 0.3 * t:.3f}" for t in range(1, 8))),
        {"asks": "relation", "series": ["y 1", "y 2", "y 3"], "looks": ["across"]},
    ),
    "without headings, alike": (
        rows("1\t2.1\t2.0", "2\t3.9\t4.1", "3\t6.2\t5.9", "4\t7.8\t8.1", "5\t10.1\t9.9"),
        {"asks": "relation", "series": [""], "looks": ["across"], "numbers": 10},
    ),
    "a look-up table": (
        rows("Conductivity (mS/cm),Salinity (psu)", "2,1.2", "5,3.2", "8,5.3", "12,8.2", "16,11.3"),
        {"asks": "relation", "unit": "mS/cm", "signal": ("Salinity", "psu"), "numbers": 5},
    ),
    "names and two signals": (
        rows(
            "Sample,Conc (µM),A880,A660",
            "Blank,0,0.01,0.01",
            "Std 1,1,0.11,0.05",
            "Std 2,2,0.20,0.10",
            "Pier,,0.15,0.07",
        ),
        {"asks": "concentration", "channels": ["880 nm", "660 nm"]},
    ),
    "long, a column of compounds": (
        rows(
            "Compound,Conc (nM),Response",
            *(f"{c},{d:g},{100 / (1 + d / h):.2f}" for c, h in (("TP-17", 5), ("TP-18", 40)) for d in DOSES),
        ),
        {"asks": "dose", "series": ["TP-17", "TP-18"], "numbers": 16, "question": "dose"},
    ),
    "a plate with dates and times": (
        rows(
            "Reader run",
            "Date: 2026-03-04 10:42:17",
            "Absorbance 450 nm",
            T.join(["", *map(str, range(1, 13))]),
            *(T.join([r, *(f"{0.1 + 0.01 * c:.3f}" for c in range(12))]) for r in "ABCDEFGH"),
            "",
            "Date: 2026-03-04 10:43:02",
            "Absorbance 620 nm",
            T.join(["", *map(str, range(1, 13))]),
            *(T.join([r, *(f"{0.05 + 0.001 * c:.3f}" for c in range(12))]) for r in "ABCDEFGH"),
        ),
        {"plates": 1, "channels": ["450 nm", "620 nm"], "numbers": 96},
    ),
    "a plate with a list under it": (
        rows(
            "Plate 1",
            T.join(["", *map(str, range(1, 7))]),
            *(T.join([r, *(f"{0.1 + 0.02 * c:.3f}" for c in range(6))]) for r in "ABCD"),
            "",
            "Well\tName\tDose (µM)",
            "A1\tVehicle\t",
            "A2\tTP-17\t1",
            "A3\tTP-17\t3",
            "A4\tTP-17\t10",
            "A5\tTP-17\t30",
        ),
        {"plates": 1, "asks": "dose", "levels": [1, 3, 10, 30], "unit": "µM", "level": "Dose"},
    ),
    "a plate with compounds and doses in grids": (
        rows(
            "Signal",
            T.join(["", *map(str, range(1, 7))]),
            *(T.join([r, *(f"{90 - 10 * c + k:.1f}" for c in range(6))]) for k, r in enumerate("ABCD")),
            "",
            "Compound",
            T.join(["", *map(str, range(1, 7))]),
            *(T.join([r, *(6 * ["TP-17" if k < 2 else "TP-18"])]) for k, r in enumerate("ABCD")),
            "",
            "Dose (nM)",
            T.join(["", *map(str, range(1, 7))]),
            *(T.join([r, "1", "3", "10", "30", "100", "300"]) for r in "ABCD"),
        ),
        {"plates": 1, "asks": "dose", "series": ["TP-17", "TP-18"], "unit": "nM", "levels": [1, 3, 10, 30, 100, 300]},
    ),
    "units written otherwise": (
        rows(
            "Sample\tConc (mol L^-1)\tA",
            "Std 1\t0.001\t0.10",
            "Std 2\t0.002\t0.20",
            "Std 3\t0.004\t0.40",
            "Pier\t\t0.3",
        ),
        {"asks": "concentration", "unit": "mol/L"},
    ),
    "pressure and volume": (
        rows("p (bar)\tV (mL)", "1\t24.1", "2\t12.0", "3\t8.1", "4\t6.0", "5\t4.8"),
        {"asks": "relation", "unit": "bar", "signal": ("V", "mL")},
    ),
}
