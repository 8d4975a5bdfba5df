"""What is understood of many tables, plates and files, or said against them; kept beside, and read when it changes."""
# ruff: noqa: E501 — a table in one line is read more easily

import io
import json
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import xlsxwriter

from dosis.core.numbers import Meaning
from dosis.intake.lookup import read_lookup
from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand
from dosis.intake.understanding import CellChoice, Choices, ColumnChoice, ColumnKind, Intake, RowChoice
from dosis.run.layout import Layout
from dosis.run.readings import Readings
from dosis.run.roles import Role
from tests.approved.saying import digits
from tests.tables import PHOSPHATE, fluorescein_table, plate_text

EXPORTS = Path(__file__).parents[1] / "intake" / "exports"
SHOWN = 40  # rows and readings of which a page tells


def understood(intake: Intake) -> Iterator[str]:
    """All that was understood, and what was made of it."""
    found = intake.understanding
    yield f"{found.shape} ready={found.ready} turned={found.turned} {found.across} asks={found.asks}"
    yield f"sheets {found.sheets} {found.sheet} separator={found.separator!r} {found.decimal} header={found.header}"
    yield f"signal {found.signal_name} | {found.signal_unit}; level {found.level_name} | {found.level_unit}"
    yield f"channels {found.channels} notes {found.notes} rows {found.row_count}"
    yield from (f"plate {plate.name} {plate.rows} × {plate.columns}, {plate.filled}" for plate in found.plates)
    yield from (f"column {each.heading} | {each.kind.value} | {each.unit}" for each in found.columns)
    yield from (f"{each.state} {each.id}: {each.text} [{each.change}]" for each in found.statements)
    for row in found.rows[:SHOWN]:
        marks = " ".join(mark.value[:3] for mark in row.marks)
        yield f"row {row.number} {row.role.value if row.role else '–'}: {' | '.join(row.cells)} ({marks})"
    if intake.readings is not None and intake.layout is not None:
        yield from _readings(intake.readings)
        yield from _layout(intake.layout)


def _readings(readings: Readings) -> Iterator[str]:
    yield f"channels {[each.label for each in readings.channels]} notes {readings.notes}"
    yield from (f"plate {plate.name} {plate.rows} × {plate.columns}" for plate in readings.plates)
    yield f"{len(readings.readings)} readings, {sum(r.value is not None for r in readings.readings)} with a value"
    for r in readings.readings[:SHOWN]:
        more = "; ".join(f"{cell.text} {cell.meaning.value} {digits(cell.value)}" for cell in r.more)
        yield f"reading {r.id} {r.plate} {r.row} {r.column}: {r.text} {r.meaning.value} {digits(r.value)} {more}"


def _layout(layout: Layout) -> Iterator[str]:
    yield f"signal {layout.signal.label}, level {layout.level.label}"
    for group in layout.groups[:SHOWN]:
        told = f"{digits(group.level)} × {digits(group.dilution)} | {group.series} | {group.note} | {group.spike_of}"
        yield f"group {group.id} {group.role.value} {group.name}: {told} {group.readings}"


def page(make: Callable[[], Intake]) -> str:
    """What was understood, or the sentence of the refusal."""
    try:
        return "\n".join(understood(make()))
    except IntakeError as error:
        return f"refused: {error}"


def _file(name: str) -> Callable[[], Intake]:
    return lambda: _files([(name, (EXPORTS / name).read_bytes())])


def _files(files: Sequence[tuple[str, bytes]], choices: Choices | None = None) -> Intake:
    return understand("", choices, files=[SourceFile.model_construct(name=name, data=data) for name, data in files])


def _empty_workbook() -> bytes:
    made = io.BytesIO()
    book = xlsxwriter.Workbook(made, {"in_memory": True})
    book.add_worksheet("Nothing")
    book.close()
    return made.getvalue()


def _t(rows: str) -> str:
    """A table written with bars between its cells and slashes between its rows."""
    return "\n".join("\t".join(cell.strip() for cell in row.split("|")) for row in rows.split(" // "))


def _lookup(text: str) -> str:
    try:
        table = read_lookup("Sensor", text)
    except IntakeError as error:
        return f"refused: {error}"
    return f"{table.name}: {table.x} {table.x_unit} → {table.y} {table.y_unit}"


STANDARDS = "Std 1|1|0.1 // Std 2|2|0.2 // Std 3|4|0.4"
TEXTS: dict[str, str] = {
    "phosphate": PHOSPHATE,
    "fluorescein": "A title\n\n" + fluorescein_table(),
    "titles": "A title\nof two lines\n" + _t(f"Name | Conc (µM) | A // {STANDARDS}"),
    "no_header": _t(f"{STANDARDS} // Pier||0.3"),
    "no_unit": _t(f"Name | Conc | A // {STANDARDS} // Pier||0.3"),
    "units_mixed": _t("Name | Conc | A // S1|500 µg/L|0.1 // S2|1 mg/L|0.2 // S3|2 mg/L|0.4 // Pier||0.3"),
    "units_clash": _t("Name | Conc | A // S1|5 µM|0.1 // S2|1 mg/L|0.2 // S3|2 mg/L|0.4"),
    "unit_once": _t("Name | Conc | A // S1|5 µM|0.1 // S2|1|0.2 // S3|2|0.4 // QC|2|0.2"),
    "levels_unread": _t("Name | Conc (µM) | A // Std 1|one|0.1 // Std 2|two|0.2 // Std 3|4|0.4 // Std 4||0.5 // P||0.3"),
    "units_by_cells": _t("Std 1|0.1|5 µM // Std 2|0.2|10 µM // Std 3|0.4|20 µM // Pier|0.3|"),
    "scan_with_words": _t("Wavelength (nm)|S1|S2 // 400|0.1|0.2 // 410|0.2|0.3 // max|0.4|0.5 // 420|0.3|0.4"),
    "scan_back_and_forth": _t("Time (s)|S1|S2 // 0|0.1|0.2 // 10|0.2|0.4 // 5|0.3|0.6 // 30|0.4|0.8"),
    "wells_wavelength_words": _t("Well | Wavelength nm | A // A1|450|0.1 // A1|620|0.01 // B1|450|0.2 // B1|620|0.02"),
    "channels_unnamed": _t("Name | Conc (µM) | A 1 | 450 nm // S1|1|0.1|0.2 // S2|2|0.2|0.4 // P||0.3|0.6"),
    "levels_bare": _t("Name | Conc (µM) | A // Std 1||0.1 // Std 2||0.2 // Std 3||0.4 // Std 4||0.5 // P||0.3"),
    "levels_bare_5": _t("Name | Conc (µM) | A // " + " // ".join(f"Std {i}||{i}" for i in range(5)) + " // P||0.3 // Std|1|2"),
    "level_one_unread": _t("Name | Conc (µM) | A // Std 1|one|0.1 // S2|2|0.2 // S3|4|0.4 // P||0.3"),
    "no_levels": _t("Name | A | B // Pier|0.1|0.2 // Marsh|0.3|0.4"),
    "no_samples": _t(f"Name | Conc (µM) | A // {STANDARDS}"),
    "no_numbers": "Pier\tnorth\nMarsh\tsouth",
    "only_heading": "Sample\tConc\tA",
    "one_column": "0.1\n0.2\n0.3",
    "bare_pairs": "0\t2.1\n2\t5.0\n4\t9.0",
    "nothing": " \n\t\n",
    "odd_one": _t(f"Name | Conc (µM) | A // {STANDARDS} // Pier||OVER"),
    "odd_several": _t(
        f"Name | Conc (µM) | A | A // {STANDARDS} // P1||OVER|0.3 // P2||<0.05|bad // P3||n/a|12 or so // P4||>4|-"
    ),
    "dilutions": _t(f"Name | Conc (µM) | A | Dil // {STANDARDS} // P1||0.3|× 5 // P2||0.3|1:5 // P3||0.3|– // P4||0.3|10-fold"),
    "dilutions_bad": _t(f"Name | Conc (µM) | A | Dilution // {STANDARDS} // P1||0.3|lots // P2||0.3|few // P3||0.3|0"),
    "dilutions_by_cells": _t(f"Name | Conc (µM) | A | Taken // {STANDARDS} // P1||0.3|5x // P2||0.3|1/20"),
    "dilutions_none": _t(f"Name | Conc (µM) | A | Dilution // {STANDARDS} // P1||0.3|"),
    "replicate_columns": _t(f"Name | Conc (µM) | A 1 | A 2 | A 3 // {'|0.1|0.12 // '.join(STANDARDS.split(' // '))}|0.4|0.41"),
    "repeats": _t("Name | Conc (µM) | first | second // Std 1|1|0.1|0.1 // Std 2|2|0.2|0.2 // Std 3|4|0.4|"),
    "wavelengths": _t("Name | Conc (µM) | 450 nm | 620 nm // Std 1|1|0.1|0.01 // Std 2|2|0.2|0.02 // Std 3|4|0.4|0.01"),
    "wavelengths_twice": _t("Name | Conc (µM) | A450 rep 1 | A450 rep 2 | A620 // S1|1|0.1|0.11|0.01 // S2|2|0.2|0.2|0.02"),
    "many_channels": _t(
        "Name | Conc (µM) | 400 nm | 410 nm | 420 nm | 430 nm | 440 nm | 450 nm // S1|1|1|2|3|4|5|6 // S2|2|2|3|4|5|6|7"
    ),
    "three_channels": _t("Name | Conc (µM) | red | green | blue // S1|1|1|2|3 // S2|2|2|3|4 // P||2|3|4"),
    "series_columns": _t("Conc (µM) | Lot A | Lot B // 1|0.1|0.12 // 2|0.2|0.22 // 4|0.4|0.41"),
    "five_series": _t("Conc (µM) | K1 | K2 | K3 | K4 | K5 // 1|1|2|3|4|5 // 2|2|3|4|5|6 // 4|4|5|6|7|8"),
    "series_by_column": _t("Compound | Dose (µM) | Response // K7|1|90 // K7|3|50 // M2|1|80 // M2|3|30 // K7||100"),
    "series_by_name": _t("Name | Dose (µM) | Response // K7|1|90 // K7|3|50 // M2|1|80 // M2|3|30 // Vehicle||100"),
    "series_by_words": _t("Name | Conc (µM) | A | Boat // Std|1|0.1|Eider // Std|2|0.2|Eider // Std|1|0.1|Skua // Std|2|0.3|Skua"),
    "six_series": _t("Name | Dose (µM) | R // " + " // ".join(f"C{i}|{x}|{50 + i * x}" for i in range(6) for x in (1, 2))),
    "counts": _t("Lot | Dose (mg/L) | Exposed | Dead // A|0|20|0 // A|1|20|4 // A|2|20|12 // A|4|20|19"),
    "counts_in_time": _t(
        "Lot | Time (h) | Dose (mg/L) | Exposed | Dead // A|24|0|20|0 // A|24|2|20|4 // A|48|0|20|1 // A|48|2|20|12"
    ),
    "counts_by_days": _t("Days | TP-17 (mg/L) | n | affected // 1|0|20|0 // 1|2|20|4 // 2|0|20|1 // two|2|20|12"),
    "turned": _t("Sample|Std 1|Std 2|Std 3|Pier // Conc (µM)|1|2|4| // A880|0.1|0.2|0.4|0.3"),
    "turned_levels": _t("Conc|0|1|2|4 // A880|0.01|0.1|0.2|0.4 // A880|0.02|0.11|0.19|0.41"),
    "scan": _t("Wavelength (nm)|Blank|Std 1|Std 2|Pier // 400|0.1|0.2|0.3|0.25 // 410|0.1|0.3|0.5|0.4 // 420|0.1|0.2|0.4|0.3"),
    "course": _t("Time (s)|S1|S2 // 0|0.1|0.2 // 10|0.2|0.4 // 20|0.3|0.6 // 30|0.4|0.8"),
    "same_names": _t("Name | Conc (µM) | A // Std|1|0.1 // Std|1|0.12 // Std|2|0.2 // Pier||0.15 // Pier||0.16 // ||0.2"),
    "unnamed": _t("Conc (µM) | A // 1|0.1 // 1|0.12 // 2|0.2 // |0.15 // |0.16"),
    "roles": _t("Name | Type | Conc (µM) | A // a|blank|0|0.1 // b|standard|1|0.2 // c|standard|2|0.3 // d|QC|1|0.2 // e|unknown||0.2"),
    "notes": _t("Name | Conc (µM) | A | Comment | Date // Std 1|1|0.1|cloudy|3 May // Std 2|2|0.2||3 May // P||0.2|late|"),
    "long_name": _t(f"Name | Conc (µM) | A // {STANDARDS} // {'x' * 250}||0.3"),
    "invisible": _t(f"Name | Conc (µM) | A // {STANDARDS} // Pi\x00er\x07||0.3"),
    "half_characters": _t(f"Name | Conc (µM) | A // {STANDARDS} // P\ud83dier||0.3"),
    "old_code_page": _t("Name | Conc (æM) | A // Std 1|1|0.1 // Std 2|2|0.2"),
    "semicolons": PHOSPHATE.replace(".", ",").replace("\t", ";"),
    "commas": PHOSPHATE.replace("\t", ","),
    "comma_decimals": PHOSPHATE.replace(".", ","),
    "wells": _t("Well | Name | Conc (µM) | A // A1|Std|1|0.1 // A2|Std|2|0.2 // B1|Pier||0.3 // B2|Pier||0.31 // H12|Blank||0.01"),
    "wells_bare": _t("Well | A // A1|0.1 // A2|0.2 // B1|0.3 // B2|0.4 // C1|0.5 // C2|0.6"),
    "wells_by_cells": _t("Place | A // A1|0.1 // A2|0.2 // B1|0.3 // B2|0.4 // C1|0.5 // C2|0.6"),
    "wells_wrong": _t("Well | Name | A // A1|a|0.1 // ZZ99|b|0.2"),
    "wells_twice": _t("Well | Name | A // A1|a|0.1 // A1|b|0.2"),
    "wells_too_far": _t("Well | Name | A // A1|a|0.1 // AF60|b|0.2"),
    "wells_two_plates": _t("Plate | Well | Name | A // P1|A1|a|0.1 // P1|B2|b|0.2 // P2|A1|a|0.3 // P2|B2|b|OVER"),
    "wells_wavelengths": _t("Well | Wavelength (nm) | A // A1|450|0.1 // A1|620|0.01 // B1|450|0.2 // B1|620|0.02"),
    "channel_of_words": _t("Channel | Dose (mV) | R // Wild|-40|0.1 // Wild|0|0.5 // Mutant|-40|0.2 // Mutant|0|0.7"),
    "channel_without_wells": _t("Sample | Wavelength (nm) | Conc (µM) | A // S1|450|1|0.1 // S1|620|1|0.01 // S2|450|2|0.2 // S2|620|2|0.01"),
    "control_as_series": _t("Treatment | Dose (mg/L) | Exposed | Dead // Control|0|20|1 // Solvent control|0|20|2 // A|1|20|4 // A|2|20|9"),
    "vehicle_as_series": _t("Compound | Dose (µM) | R // K7|1|90 // K7|3|50 // M2|1|80 // M2|3|30 // Vehicle||100 // Blank||4"),
    "wells_cycles": _t("Well | Cycle | A // A1|1|0.1 // A1|2|0.01 // B1|1|0.2"),
    "wells_columns": _t("Well | 450 nm | 620 nm // A1|0.1|0.01 // B1|0.2|0.02"),
    "wells_replicates": _t("Well | A 1 | A 2 // A1|0.1|0.11 // B1|0.2|0.21"),
    "plate_24": plate_text(4, 6, title="Fluorescence of plate 7"),
    "plate_gaps": plate_text(4, 6, empty=("A1", "D6")),
    "plate_odd": plate_text(4, 6).replace("2.0000", "OVER").replace("1.9167", "bad").replace("1.8333", "<0.1"),
    "plate_wavelengths": plate_text(4, 6, title="450 nm") + "\n\n" + plate_text(4, 6, title="620 nm"),
    "plate_times": "\n\n".join(plate_text(4, 6, title=f"Time: {t} s") for t in (0, 30, 60, 90, 120, 150)),
    "plates_named": plate_text(4, 6, title="Plate P1") + "\n\n" + plate_text(4, 6, title="Plate P2"),
    "plates_of_two_sizes": plate_text(4, 6) + "\n\n" + plate_text(6, 8),
    "plate_of_words": plate_text(4, 6, title="450 nm") + "\n\nNames\n" + "\n".join(
        ["\t".join(["", *map(str, range(1, 7))])]
        + ["\t".join(["ABCD"[r], "Blank", f"Std {r + 1}", f"Std {r + 1}", "S1", "S2", ""]) for r in range(4)]
    ),
    "plate_of_levels": plate_text(4, 6, title="450 nm") + "\n\nConcentration (µM)\n" + "\n".join(
        ["\t".join(["", *map(str, range(1, 7))])]
        + ["\t".join(["ABCD"[r], "0", *[str(2**r)] * 2, "", "", ""]) for r in range(4)]
    ),
    "plate_of_levels_first": "Doses (nM)\n" + plate_text(4, 6) + "\n\n450 nm\n" + plate_text(4, 6),
    "plate_of_dilutions": plate_text(4, 6, title="450 nm") + "\n\nNames\n" + "\n".join(
        ["\t".join(["", *map(str, range(1, 7))])] + ["\t".join(["ABCD"[r], *["S1"] * 6]) for r in range(4)]
    ) + "\n\nDilution\n" + "\n".join(
        ["\t".join(["", *map(str, range(1, 7))])] + ["\t".join(["ABCD"[r], *["1", "2", "5", "10", "x", ""]]) for r in range(4)]
    ),
    "plate_levels_alone": plate_text(4, 6, title="Concentration"),
    "plate_levels_clash": plate_text(4, 6, title="450 nm") + "\n\nConc\n" + plate_text(4, 6).replace("2.0000", "2 µM").replace(
        "1.9583", "1 mg/L"
    ),
    "plate_without_numbers": plate_text(4, 6, empty=tuple(f"{r}{c}" for r in "ABCD" for c in range(1, 7))),
    "plate_letters": "\n".join(line for line in plate_text(4, 6).splitlines()[1:]),
    "plate_bare": "\n".join(line.split("\t", 1)[1] for line in plate_text(4, 6).splitlines()[1:]),
    "plate_numbers_above": "\n".join(line.split("\t", 1)[1] for line in plate_text(4, 6).splitlines()),
    "plate_two_lines": "\n".join(
        line for line in ("\t1\t2\t3\t4\t5\t6", *(f"{r}\t1\t2\t3\t4\t5\t6\t450\n\t.1\t.2\t.3\t.4\t.5\t.6\t620" for r in "ABCD"))
    ),
    "plate_partial": "\n".join(plate_text(8, 12).splitlines()[:6]),
    "json": json.dumps({"signal": "A880", "level": "Conc (µM)", "rows": [
        {"name": "Std 1", "level": 1, "readings": [0.1, 0.11]}, {"name": "Std 2", "level": "2", "readings": [0.2]},
        {"name": "Pier", "dilution": "× 2", "note": "late", "series": "A", "readings": ["OVER", 0.1234567890123456789]},
    ]}),
    "json_channels": json.dumps({"rows": [
        {"well": "A1", "plate": "P", "role": "blank", "readings": {"450 nm": 0.1, "620 nm": None}},
        {"well": "B2", "plate": "P", "role": "sample", "readings": {"450 nm": 0.1, "700 nm": 0.3}},
    ]}),
    "json_wrong": json.dumps({"rows": [{"name": "Std 1", "readings": [0.1], "color": "red"}]}),
    "json_wrong_reading": json.dumps({"rows": [{"name": "Std 1", "readings": [[0.1]]}]}),
    "json_empty": json.dumps({"rows": []}),
    "json_list": "[1, 2]",
    "json_wide": json.dumps({"rows": [{"readings": {f"c{i}": 1.0 for i in range(5001)}}]}),
    "json_large": json.dumps({"rows": [{"readings": [1.0] * 101}] * 10_000}),
    "too_wide": "1\t" * 5500,
    "unclosed": 'a\t"' + "1\n" * 5000,
}  # fmt: skip

ABOVE = CellChoice(row=9, column=2, meaning=Meaning.BELOW)
CHOSEN: dict[str, tuple[str, Choices]] = {
    "every_choice": (PHOSPHATE, Choices(
        columns=(ColumnChoice(column=3, kind=ColumnKind.IGNORE),), rows=(RowChoice(row=8, role=Role.QC),), cells=(ABOVE,),
        level_name="Phosphate", level_unit="mmol/L", signal_name="Absorbance", signal_unit="AU",
    )),
    "name_elsewhere": (PHOSPHATE, Choices(columns=(ColumnChoice(column=5, kind=ColumnKind.NAME),))),
    "no_readings": (PHOSPHATE, Choices(columns=tuple(ColumnChoice(column=i, kind=ColumnKind.NOTE) for i in (2, 3)))),
    "readings_of_words": (PHOSPHATE, Choices(columns=(
        *(ColumnChoice(column=i, kind=ColumnKind.NOTE) for i in (2, 3)), ColumnChoice(column=0, kind=ColumnKind.READING),
    ))),
    "not_stacked": (TEXTS["same_names"], Choices(stack=False)),
    "as_channels": (PHOSPHATE, Choices(across="channels")),
    "as_series": (PHOSPHATE, Choices(across="series")),
    "as_replicates": (TEXTS["wavelengths"], Choices(across="replicates")),
    "headless": (PHOSPHATE, Choices(header=False)),
    "turned_by_hand": (TEXTS["bare_pairs"], Choices(turn=True)),
    "not_turned": (TEXTS["turned"], Choices(turn=False)),
    "as_table": (TEXTS["plate_24"], Choices(shape="table")),
    "as_plate": (PHOSPHATE, Choices(shape="plate")),
    "other_separator": (PHOSPHATE, Choices(separator=",")),
    "other_decimal": (PHOSPHATE, Choices(decimal=",")),
    "plate_choices": (TEXTS["plate_odd"], Choices(
        signal_name="F", signal_unit="RFU", level_name="Toxin", level_unit="nM",
        cells=(CellChoice(row=2, column=1, meaning=Meaning.MISSING),),
    )),
}  # fmt: skip

PLATE_FILES = [("one.txt", plate_text(4, 6).encode()), ("two.txt", plate_text(4, 6, empty=("A1",)).encode())]
FILES: dict[str, Callable[[], Intake]] = {
    "two_plate_files": lambda: _files(PLATE_FILES),
    "second_of_two": lambda: _files(PLATE_FILES, Choices(sheet=1)),
    "two_tables_of_one_heading": lambda: _files([("a.csv", b"Name,Conc (nM),A\nS,1,2\n"), ("b.csv", b"Name,Conc (nM),A\nS,2,4\n")]),
    "two_tables": lambda: _files([("a.csv", b"Name,Conc (nM),A\nS,1,2\nT,2,4\n"), ("b.csv", b"Sample;A\nS;2\n")]),
    "old_page_chosen": lambda: _files([("a.csv", b"Name,Conc (\xe6M),A\nS,1,2\nT,2,4\n")], Choices(encoding="cp850")),
    "western_page": lambda: _files([("a.csv", b"Name,Conc (\xb5M),A\nS,1,2\nT,2,4\n")]),
    "utf16_without_mark": lambda: _files([("a.csv", "Name,Conc (µM),A\nS,1,2\n".encode("utf-16-le"))]),
    "utf16_other_end": lambda: _files([("a.csv", "Name,Conc (µM),A\nS,1,2\n".encode("utf-16-be"))]),
    "no_text": lambda: _files([("a.bin", bytes([*range(1, 90), *[0] * 20]))]),
    "broken_workbook": lambda: _files([("a.xlsx", b"PK\x03\x04 and nothing else")]),
    "empty_workbook": lambda: _files([("a.xlsx", _empty_workbook())]),
    "empty_file": lambda: _files([("a.csv", b"")]),
    "fifty_one_files": lambda: _files([("a.csv", b"1,2\n")] * 51),
}  # fmt: skip

LOOKUPS = {
    "headed": "pH\tVoltage (mV)\n4\t177\n7\t0\n10\t-177",
    "bare": "1;2\n2;4",
    "commas": "1,5\t2\n2,5\t4",
    "one_row": "1\t2",
    "three": "1\t2\n1\t2\t3",
    "words": "x\ty\n1\t2\n3\tfour",
    "same_twice": "1\t2\n1\t3",
}

TABLES: dict[str, Callable[[], str]] = {
    **{name: lambda text=text: page(lambda: understand(text)) for name, text in TEXTS.items()},
    **{name: lambda of=of: page(lambda: understand(of[0], of[1])) for name, of in CHOSEN.items()},
    **{name: lambda make=make: page(make) for name, make in FILES.items()},
    **{
        f"export_{path.name.replace('.', '_')}": lambda path=path: page(_file(path.name))
        for path in EXPORTS.iterdir() if path.name[0].isdigit()
    },
    "first_rows": lambda: page(lambda: understand(PHOSPHATE, look_only=True, first=3)),
    "lookups": lambda: "\n".join(f"{name}: {_lookup(text)}" for name, text in LOOKUPS.items()),
}  # fmt: skip
