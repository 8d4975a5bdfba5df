"""Plates understood: every grid is given its plate and its channel, and grids of words say what the wells are."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass, field

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_number
from dosis.core.rounding import given
from dosis.core.units import is_unit, normal_unit
from dosis.intake.assemble import MAX_NAME, numbered, reading_cell
from dosis.intake.dilutions import parse_dilution
from dosis.intake.kinds import kind_words
from dosis.intake.kinetic_plates import LEAST_TIMES, Kinetic, kinetic, of_wells, state_times, time_channels
from dosis.intake.level_statements import unread_level
from dosis.intake.levels import read_levels
from dosis.intake.listed_wells import Listed, find_list
from dosis.intake.plates import Block, parsed, purpose, read_title
from dosis.intake.roles import guess_role, names_no_series
from dosis.intake.sheets import Sheet
from dosis.intake.statements import (
    MEANT,
    decimal_statement,
    odd_letters,
    question_statement,
    sheet_statement,
    unread_dilution,
    unused_statement,
)
from dosis.intake.text import IntakeError
from dosis.intake.understanding import (
    CellMark,
    Choices,
    Intake,
    PlateSeen,
    Row,
    Statement,
    Understanding,
)
from dosis.intake.wording import count_of
from dosis.run.laying_out import DescribeWells
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.method import default_method
from dosis.run.questions.question import Question
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Reading, Readings
from dosis.run.roles import ROLES, Role
from dosis.run.wells import Plate, well_name

Numbers = list[list[TypedNumber]]
MAX_POINTS = 2_000_000  # of courses
MAX_CELLS = 400_000  # wells × channels of one run
MARKS = {
    Meaning.NUMBER: CellMark.NUMBER, Meaning.ABOVE: CellMark.ABOVE, Meaning.BELOW: CellMark.BELOW,
    Meaning.MISSING: CellMark.MISSING, Meaning.TEXT: CellMark.ODD,
}  # fmt: skip


@dataclass
class OnePlate:
    """The grids of one plate."""

    name: str
    rows: int
    columns: int
    channels: dict[str, tuple[Block, Numbers]] = field(default_factory=dict)
    facts: dict[str, tuple[Block, Numbers]] = field(default_factory=dict)


def understand_plates(
    sheet: Sheet, decimal: Decimal, blocks: list[Block], notes: list[int], chosen: Choices, names: list[str],
    number: int | None,
) -> Intake:  # fmt: skip
    """Readings and layout of the plates found in a sheet. Raises IntakeError when they are too many."""
    plates = _plates(sheet, decimal, blocks)
    channels = list(dict.fromkeys(name for plate in plates for name in plate.channels))
    wells = sum(plate.rows * plate.columns for plate in plates)
    if wells * max(len(channels), 1) > (MAX_CELLS if kinetic(plates, channels, chosen) is None else MAX_POINTS):
        raise IntakeError(
            f"This is {wells:,} wells at {len(channels):,} wavelengths or times; {MAX_CELLS:,} numbers are the most "
            "in one "
            "run. Split it, or leave out wavelengths that are not needed."
        )
    if courses := kinetic(plates, channels, chosen):
        channels = courses.channels
    listed = find_list(sheet.grid, notes, decimal)
    told = [" ".join(filter(None, sheet.grid[row])) for row in notes if row not in listed.rows]
    signal = Quantity(name=chosen.signal_name or _signal(channels, told), unit=chosen.signal_unit or "")
    if courses is not None:
        readings = courses.readings(plates, told)
    else:
        readings = _readings(plates, channels, chosen, signal, told)
    layout, troubles = _layout(plates, readings, signal, chosen, decimal)
    if listed.wells:
        layout, problem = _described(readings, layout, listed)
        troubles += [problem] if problem else []
    if courses is not None:
        layout = of_wells(readings, layout)
    read = [r for r in readings.readings if r.meaning is not Meaning.MISSING]
    ready = any(r.meaning is Meaning.NUMBER for r in read)
    dose = layout.level.name == "Dose" or any(g.role in (Role.VEHICLE, Role.FULL) for g in layout.groups)
    asks: QuestionId = "dose" if dose else "concentration"
    why = "Doses or a vehicle stand in the wells." if dose else "A plate."
    if courses is not None or len(time_channels(channels)) >= LEAST_TIMES:
        asks, why = "rate", "The same wells were read again and again."
    statements = _statements(
        sheet, decimal, plates, channels, readings, layout, told, chosen, names, ready, troubles,
        (chosen.question or asks, asks, why), listed.rows, courses,
    )  # fmt: skip
    seen = tuple(
        PlateSeen(name=plate.name, rows=plate.rows, columns=plate.columns, filled=sum(r.plate == i for r in read))
        for i, plate in enumerate(plates)
    )
    rows = _rows(sheet, plates)
    return Intake(
        understanding=Understanding(
            shape="plate", turned=False, across="replicates", sheets=tuple(names), sheet=number, plates=seen,
            channels=tuple(channels) if len(channels) > 1 and courses is None else (), notes=tuple(told),
            separator=sheet.separator, decimal=decimal, header=False, columns=(), rows=rows, row_count=len(rows),
            statements=tuple(statements),
            asks=asks, why=why,
            question=chosen.question or asks, kinds=kind_words(chosen.question or asks), edited=(),
            ready=ready, signal_name=signal.name, signal_unit=signal.unit, level_name=layout.level.name,
            level_unit=layout.level.unit,
        ),
        readings=readings if ready else None,
        layout=layout if ready else None,
    )  # fmt: skip


def _plates(sheet: Sheet, decimal: Decimal, blocks: list[Block]) -> list[OnePlate]:
    """Grids sorted into plates: a new one begins with a new name, another size, or a channel that is there already."""
    plates: list[OnePlate] = []
    named: dict[str, OnePlate] = {}
    waiting: dict[str, tuple[Block, Numbers]] = {}
    for block in blocks:
        numbers = parsed(block, sheet.grid, decimal)
        title, kind = read_title(block), purpose(block, numbers)
        if kind != "readings":
            # What the wells are may stand before the readings or after them.
            home = named.get(title.plate) if title.plate else (plates[-1] if plates else None)
            if home is None or kind in home.facts:
                waiting[kind] = (block, numbers)
            else:
                home.facts[kind] = (block, numbers)
            continue
        channel = " ".join(part for part in (title.wavelength, title.time) if part)
        plate = named.get(title.plate) if title.plate else (plates[-1] if plates else None)
        size = (block.rows, block.columns)
        if plate is None or channel in plate.channels or (plate.rows, plate.columns) != size:
            plate = OnePlate(title.plate or f"Plate {len(plates) + 1}", *size)
            plates.append(plate)
            plate.facts, waiting = {**waiting}, {}
        named[plate.name] = plate
        plate.channels[channel] = (block, numbers)
    for plate in plates:  # one grid of names serves every plate that has none of its own
        plate.facts = {**waiting, **plate.facts}
    if not plates:
        raise IntakeError(
            "The plate grids in it hold names or concentrations, but no readings. Add the grid that was read."
        )
    return plates


def _signal(channels: list[str], told: list[str]) -> str:
    words = " ".join(told).casefold()
    known = ("absorbance", "fluorescence", "luminescence", "optical density")
    name = next((word.capitalize() for word in known if word in words), "Signal")
    if name == "Signal" and channels and channels[0].endswith("nm"):
        name = "Absorbance"
    return name


def _readings(
    plates: list[OnePlate], channels: list[str], chosen: Choices, signal: Quantity, told: list[str]
) -> Readings:  # fmt: skip
    given_meaning = {(c.row, c.column): c.meaning for c in chosen.cells}
    made: list[Reading] = []
    for index, plate in enumerate(plates):
        sides = [plate.channels.get(channel) for channel in channels]
        for r in range(plate.rows):
            for c in range(plate.columns):
                cells = [
                    reading_cell(None, None) if side is None else
                    reading_cell(side[1][r][c], given_meaning.get(_place(side[0], r, c)))
                    for side in sides
                ]  # fmt: skip
                first = cells[0]
                made.append(Reading(
                    id=len(made) + 1, text=first.text, meaning=first.meaning, value=first.value, row=r, column=c,
                    plate=index, more=tuple(cells[1:]),
                ))  # fmt: skip
    several = len(channels) > 1
    return Readings(
        readings=tuple(made),
        channels=tuple(Quantity(name=name or signal.name, unit=signal.unit) for name in channels) if several else (),
        plates=tuple(Plate(name=plate.name, rows=plate.rows, columns=plate.columns) for plate in plates),
        notes=tuple(told),
    )


def _place(block: Block, r: int, c: int) -> tuple[int, int]:
    """Row from 1 and column from 0 in the sheet, as choices of cells name them."""
    if r >= len(block.cells):
        return (0, 0)
    row, column = block.cells[r][c]
    return row + 1, column


def _layout(
    plates: list[OnePlate], readings: Readings, signal: Quantity, chosen: Choices, decimal: Decimal
) -> tuple[Layout, list[Statement]]:  # fmt: skip
    """Groups from the grids that name wells, if there are any, and what in those grids could not be read.

    Wells alike on one plate are replicates.
    """
    level_cells: dict[int, TypedNumber] = {}
    at = 0
    for plate in plates:
        grid = plate.facts.get("levels")
        for i in range(plate.rows * plate.columns):
            if grid:
                level_cells[at + i + 1] = grid[1][i // plate.columns][i % plate.columns]
        at += plate.rows * plate.columns
    places = {r.id: _where(plates, r) for r in readings.readings}
    levels = read_levels(level_cells, _title_unit(plates), chosen, lambda id: places[id])
    no_factor: list[str] = []
    members: dict[tuple[object, ...], list[int]] = {}
    facts: dict[tuple[object, ...], dict[str, object]] = {}
    for reading in readings.readings:
        plate = plates[reading.plate or 0]
        name, series = _cell(plate, "names", reading), _cell(plate, "series", reading)
        level = levels.values.get(reading.id)
        if names_no_series(series):  # "Blank" or "Vehicle" among the compounds
            name, series = name or series, ""
        if not name and not series and level is None:
            continue
        role = guess_role("", name, level is not None)
        factor = _cell(plate, "dilutions", reading)
        dilution = parse_dilution(factor, decimal)
        if factor and dilution is None:
            no_factor.append(f"“{factor}” in {places[reading.id]}")
        dilution = dilution or 1.0
        key = (reading.plate, role, name, series, level, dilution)
        members.setdefault(key, []).append(reading.id)
        facts[key] = {
            "role": role, "name": name[:MAX_NAME], "series": series[:MAX_NAME], "level": level, "dilution": dilution,
        }  # fmt: skip
    groups = [
        Group.model_validate({"id": f"g{n}", "readings": tuple(ids), **facts[key]})
        for n, (key, ids) in enumerate(members.items(), start=1)
    ]
    unit = levels.unit
    level_name = chosen.level_name or ("Dose" if _of_doses(plates) else "Concentration")
    layout = Layout(signal=signal, level=Quantity(name=level_name, unit=unit), groups=tuple(numbered(groups)))
    troubles = []
    if levels.clash:
        text = f"**Units do not agree.** {levels.clash}"
        troubles.append(Statement(id="unit", state="look", text=text, change="cells"))
    if levels.unread:
        id, cell = next(iter(levels.unread.items()))
        text = unread_level(f"“{cell}” in {places[id]}", len(levels.unread))
        troubles.append(Statement(id="levels", state="look", text=text))
    if no_factor:
        troubles.append(unread_dilution(no_factor[0], len(no_factor), ""))
    return layout, troubles


def _of_doses(plates: list[OnePlate]) -> bool:
    titles = [line for plate in plates for block, _ in plate.facts.values() for line in block.title]
    return any("dose" in line.casefold() for line in titles)


def _described(readings: Readings, layout: Layout, listed: Listed) -> tuple[Layout, Statement | None]:
    """The layout with what a list under the grids says of the wells; or why it could not be used."""
    method = default_method("dose" if layout.level.name == "Dose" else "concentration")
    try:
        found = DescribeWells(wells=listed.wells).apply(readings, layout, method)[0]
    except ValueError as error:
        return layout, Statement(id="list", state="look", text=f"**The list of wells is not used.** {error}")
    if "dose" in listed.level_name.casefold() and found.level.name == "Concentration":
        found = found.model_copy(update={"level": Quantity(name="Dose", unit=found.level.unit)})
    groups = [g.model_copy(update={"role": Role.STANDARD}) if g.role is Role.DOSE else g for g in found.groups]
    lost = f" **{count_of(len(listed.lost), 'row')} of it** name no well." if listed.lost else ""
    text = f"**{count_of(len(listed.wells), 'well')}** described by the list beside the grids.{lost}"
    said = Statement(id="list", state="look" if lost else "ok", text=text)
    return found.model_copy(update={"groups": tuple(groups)}), said


def _where(plates: list[OnePlate], reading: Reading) -> str:
    well = well_name(reading.row, reading.column)
    return well if len(plates) == 1 else f"{well} of {plates[reading.plate or 0].name}"


def _title_unit(plates: list[OnePlate]) -> str:
    for plate in plates:
        if grid := plate.facts.get("levels"):
            words = grid[0].title[-1].replace("(", " ").replace(")", " ").split() if grid[0].title else []
            return next((normal_unit(word) for word in words if len(word) > 1 and is_unit(word)), "")
    return ""


def _cell(plate: OnePlate, kind: str, reading: Reading) -> str:
    grid = plate.facts.get(kind)
    cell = grid[1][reading.row][reading.column] if grid else None
    return "" if cell is None or cell.meaning is Meaning.MISSING else cell.text.strip()


def _statements(
    sheet: Sheet, decimal: Decimal, plates: list[OnePlate], channels: list[str], readings: Readings, layout: Layout,
    told: list[str], chosen: Choices, names: list[str], ready: bool, troubles: list[Statement],
    asks: tuple[QuestionId, QuestionId, str], listed: Collection[int], courses: Kinetic | None,
) -> list[Statement]:  # fmt: skip
    said = [question_statement(asks[0], asks[1], asks[2])] if ready else []
    if not ready:
        text = "**No number on the plate.** Are these the readings, or only what the wells are?"
        said.append(Statement(id="stop", state="stop", text=text, change="shape"))
    if names:
        said.append(sheet_statement(names, sheet.name))
    sizes = Counter((plate.rows, plate.columns) for plate in plates)
    kinds = ", ".join(
        (f"**A plate of {r * c:,} wells**" if n == 1 else f"**{n} plates of {r * c:,} wells**") + f", {r} × {c}"
        for (r, c), n in sizes.items()
    )
    said.append(Statement(id="shape", state="ok", text=f"{kinds}.", change="shape"))
    if readings.axis is not None:
        said += state_times(readings, courses)
    elif len(channels) > 1:
        shown = ", ".join(channels[:4]) + (f" … {channels[-1]}" if len(channels) > 4 else "")
        text = (
            f"**{len(channels)} readings of every well**: {shown}. {channels[0]} is the signal until another is chosen."
        )
        said.append(Statement(id="channels", state="ok", text=text))
    said += _about_wells(plates, readings, layout, troubles, question_of(asks[0]))
    odd = [r for r in readings.readings if r.meaning not in (Meaning.NUMBER, Meaning.MISSING)]
    if odd:
        wells = ", ".join(f"“{r.text}” in {well_name(r.row, r.column)}" for r in odd[:3])
        more = f" and {len(odd) - 3} more" if len(odd) > 3 else ""
        kept = f"It is kept as “{MEANT[odd[0].meaning]}”" if len(odd) == 1 else "Each is kept for what it means"
        is_no = "is not a number" if len(odd) == 1 else "are not numbers"
        text = f"**{wells}{more}** {is_no}. {kept} and left out of the mean."
        said.append(Statement(id="cells", state="look", text=text, change="cells"))
    said += _unused(sheet, decimal, plates, listed)
    said.append(decimal_statement(decimal, sheet.separator))
    said += odd_letters(sheet.grid, chosen)
    if told:
        text = f"**{count_of(len(told), 'line')} of text** around the grid kept as notes."
        said.append(Statement(id="asides", state="ok", text=text))
    if sheet.cleaned:
        text = f"**{count_of(sheet.cleaned, 'invisible character')}** left out; the source keeps them."
        said.append(Statement(id="cleaned", state="look", text=text))
    return said


def _unused(sheet: Sheet, decimal: Decimal, plates: list[OnePlate], listed: Collection[int]) -> list[Statement]:
    """Numbers around the grids: a line of words with a number in it is text, a line of numbers is not."""
    inside = {
        place
        for plate in plates
        for block, _ in [*plate.channels.values(), *plate.facts.values()]
        for place in [*block.labels, *(place for line in block.cells for place in line)]
    }
    beside, whole, rows = 0, 0, []
    for r, row in enumerate(sheet.grid):
        if r in listed:
            continue
        numbers = [c for c, cell in enumerate(row) if cell and parse_number(cell, decimal).meaning is Meaning.NUMBER]
        out = [c for c in numbers if (r, c) not in inside]
        whole += len(numbers)
        if len(out) > 1:
            beside += len(out)
            rows.append(r + 1)
    where = f"they stand outside the grids, in {'row' if len(rows) == 1 else 'rows'} {', '.join(map(str, rows[:6]))}"
    found = unused_statement(beside, whole, where + (" …" if len(rows) > 6 else ""))
    return [found.model_copy(update={"change": "shape"})] if found else []


def _about_wells(
    plates: list[OnePlate], readings: Readings, layout: Layout, troubles: list[Statement], asked: Question
) -> list[Statement]:  # fmt: skip
    filled = sum(r.meaning is not Meaning.MISSING for r in readings.readings)
    if not layout.groups:
        wells = count_of(filled, "well")
        text = f"**{wells} read, none with a role yet.** Open the run and lay the plate out: it takes a few drags."
        return [Statement(id="roles", state="ok", text=text), *troubles]
    count = Counter(group.role for group in layout.groups)
    names = {role: ROLES[role].name for role in Role} | {Role.STANDARD: asked.point, Role.POINT: asked.point}
    parts = [count_of(count[role], names[role]) for role in Role if count[role]]
    from_what = " and ".join(
        kind for kind in ("names", "series", "levels") if any(kind in plate.facts for plate in plates)
    )
    said = [
        Statement(
            id="roles", state="ok", text=f"**{', '.join(parts)}**{from_what and f' from the grid of {from_what}'}."
        )
    ]
    levels = [group.level for group in layout.groups if group.level is not None]
    if levels and not any(trouble.id == "unit" for trouble in troubles):
        text = (
            f"**{asked.levels.capitalize()} are in {layout.level.unit}**"
            if layout.level.unit
            else f"**{asked.levels.capitalize()} have no unit**"
        )
        span = f"{given(min(levels))} to {given(max(levels))}"
        state = "ok" if layout.level.unit else "look"
        said.append(Statement(id="unit", state=state, text=f"{text}, {span}.", change="unit"))
    return said + troubles


def _rows(sheet: Sheet, plates: list[OnePlate]) -> tuple[Row, ...]:
    marks: dict[tuple[int, int], CellMark] = {}
    for plate in plates:
        for kind, (block, numbers) in [*plate.channels.items(), *plate.facts.items()]:
            named = kind in ("names", "series", "levels", "dilutions")
            for line, row in zip(block.cells, numbers, strict=False):
                for place, number in zip(line, row, strict=True):
                    marks[place] = CellMark.NAME if named else MARKS[number.meaning]
            marks.update(dict.fromkeys(block.labels, CellMark.LABEL))
    width = max(map(len, sheet.grid))
    return tuple(
        Row.model_construct(
            number=r + 1, role=None, cells=(*row, *[""] * (width - len(row))),
            marks=tuple(marks.get((r, c), CellMark.TEXT) for c in range(width)),
        )
        for r, row in enumerate(sheet.grid)
        if any(row)
    )  # fmt: skip
