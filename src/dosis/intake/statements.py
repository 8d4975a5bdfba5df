"""The list “What Dosis understood”: one short statement for each thing taken for granted."""

from collections import Counter
from collections.abc import Sequence
from typing import Literal

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_numbers
from dosis.core.units import is_unit
from dosis.intake.along import ALONG
from dosis.intake.course_statements import state_courses
from dosis.intake.dilutions import parse_dilution
from dosis.intake.level_statements import (
    by_dilution,
    errors_statement,
    levels_statement,
    logged_statement,
    units_statement,
    worked_statement,
)
from dosis.intake.series import unnumbered
from dosis.intake.table import Table
from dosis.intake.text import FILE, ODD_MICRO, SEPARATOR_NAMES, Grid, Separator
from dosis.intake.understanding import Choices, ColumnKind, Statement
from dosis.intake.wording import count_of, number_word, rows_named, small
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.roles import ROLES, Role
from dosis.run.steps.summary import listed
from dosis.run.trade_words import counted

ALIKE = 3  # standards of one name, numbered, from which another of that name is pointed out
MOST_UNUSED = 0.1  # share of the numbers that may go unused without a second look
SEEN = 2_000  # rows in which odd letters are looked for
MEANT = {
    Meaning.ABOVE: "above the instrument's range",
    Meaning.BELOW: "below the instrument's range",
    Meaning.MISSING: "missing",
    Meaning.TEXT: "text, not a reading",
}


def state_all(table: Table, chosen: Choices) -> tuple[list[Statement], bool]:
    """All statements, and whether a run can be opened from this table."""
    stop = _stop(table)
    statements = [stop] if stop else [question_statement(table.question, table.asks, table.why)]
    if table.sheets:
        statements.append(_unlike(table) or sheet_statement(table.sheets, table.name))
    statements += [_turned(table), _columns(table)]
    if table.courses is not None and stop is None:
        said = [*state_courses(table, table.courses), _unused(table), _odd(table, chosen)]
        statements += [more for more in said if more]
    elif stop is None:  # nothing else matters before there are readings
        told = (
            _across(table),
            _series(table),
            _channel(table),
            _wells(table),
            units_statement(table),
            logged_statement(table),
            worked_statement(table),
            errors_statement(table),
            _roles(table),
            levels_statement(table),
            _unused(table),
            _odd(table, chosen),
            _stacked(table),
            _dilution(table),
        )
        statements += [more for more in told if more]
    statements.append(decimal_statement(table.decimal, table.separator))
    statements += [*_asides(table), *odd_letters(table.grid, chosen)]
    return statements, stop is None


def question_statement(question: QuestionId, proposed: QuestionId, why: str) -> Statement:
    """What is asked, and why that is proposed."""
    found = question_of(question)
    text = f"**{found.sentence}** {found.by}."
    text += f" {why}" if question == proposed else f" Proposed was {question_of(proposed).by.lower()}: {small(why)}"
    return Statement(id="question", state="ok", text=text, change="question")


def unused_statement(unused: int, of: int, where: str) -> Statement | None:
    """How many of the numbers are not used, and where they stand; more than a tenth are to be looked at."""
    if not unused:
        return None
    text = f"**{unused:,} of {of:,} numbers are not used:** {where}."
    return Statement(id="unused", state="look" if unused > MOST_UNUSED * of else "ok", text=text, change="columns")


def _unused(table: Table) -> Statement | None:
    dropped = (ColumnKind.NOTE, ColumnKind.IGNORE)
    marked = None if table.courses is None else table.courses.marked_by
    left_out = [
        i for i, kind in enumerate(table.kinds)
        if kind in dropped and i != marked and _numbers_in(table.columns[i].numbers)
    ]  # fmt: skip
    names = [f"column “{table.headings[i] or i + 1}”" for i in left_out]
    idle = [number for number, role in table.roles.items() if role is Role.UNUSED]
    at = {number: i for i, (number, _) in enumerate(table.body)}
    used = [i for i in range(len(table.kinds)) if i not in left_out]
    in_rows = sum(_numbers_in([table.columns[i].numbers[at[number]] for number in idle]) for i in used)
    aside = sum(_numbers_in(parse_numbers([c for c in table.grid[n - 1] if c], table.decimal)) for n in table.asides)
    places = (
        names
        + ([rows_named(idle)] if in_rows else [])
        + ([f"the title in {rows_named(table.asides)}"] if aside else [])
    )
    unused = sum(_numbers_in(table.columns[i].numbers) for i in left_out) + in_rows + aside
    if not unused:
        return None
    whole = sum(_numbers_in(column.numbers) for column in table.columns) + aside
    return unused_statement(unused, whole, ", ".join(places[:6]) + (" …" if len(places) > 6 else ""))


def _numbers_in(cells: Sequence[TypedNumber]) -> int:
    return sum(cell.meaning is Meaning.NUMBER and (not cell.unit or is_unit(cell.unit)) for cell in cells)


def decimal_statement(decimal: Decimal, separator: Separator | None) -> Statement:
    """The decimal sign, and what split the columns of a text."""
    sign = "point “.”" if decimal == "." else "comma “,”"
    split = f", columns split by {SEPARATOR_NAMES[separator]}" if separator else ""
    return Statement(id="decimal", state="ok", text=f"**Decimal {sign}**{split}.", change="decimal")


def sheet_statement(names: Sequence[str], name: str) -> Statement:
    """Which of several sheets or files is read."""
    read = f"Sheet **{name}** of {len(names)} is read." if name in names else f"**All {len(names)} files together**."
    return Statement(id="sheet", state="ok", text=read, change="sheet")


def _unlike(table: Table) -> Statement | None:
    """That several files are read as one table though each has headings of its own."""
    if not any(cells[0].startswith(FILE) for _, cells in table.body):
        return None
    text = (
        "**These files do not have the same headings.** All rows are read under those of the first file, so that what "
        "stands in other columns is misread. Choose one file, or give them the same headings."
    )
    return Statement(id="sheet", state="look", text=text, change="sheet")


def _turned(table: Table) -> Statement:
    if table.turned:
        text = "**Turned:** what were rows are columns here, because the headings stood down the side."
        return Statement(id="turn", state="ok", text=text, change="turn")
    return Statement(id="turn", state="ok", text="**One row for each thing read.**", change="turn")


def _across(table: Table) -> Statement | None:
    names = list(dict.fromkeys(table.channels))
    if not table.header_row and len(table.channels) > 1 and table.across in ("replicates", "series"):
        alike = "agree, and are taken as replicates" if table.across == "replicates" else "differ, and are series"
        text = f"**{len(table.channels)} columns of readings without headings** {alike}. Say so, if they are not."
        return Statement(id="across", state="look", text=text, change="across")
    if len(names) < 2 and table.across == "replicates":
        return None
    if table.counts:
        return _counts(table)
    shown = ", ".join(name or "reading" for name in names[:4]) + (f" … {names[-1]}" if len(names) > 4 else "")
    text = {
        "replicates": f"**{len(table.channels)} columns of readings** ({shown}) taken as replicates.",
        "channels": f"**{len(names)} readings of each row**: {shown}. {names[0] or 'The first'} is the signal "
        "until another is chosen.",
        "series": f"**{len(names)} series**, one for each column of readings: {shown}.",
        "pairs": f"**{len(names)} series**, each a pair of columns, x and y: {shown}.",
    }[table.across]
    # Wavelengths and times are told apart for certain; of other readings all but the first may have been meant, too.
    guessed = table.across == "channels" and not all(name[:1].isdigit() for name in names)
    return Statement(id="across", state="look" if guessed else "ok", text=text, change="across")


def _counts(table: Table) -> Statement:
    names = list(dict.fromkeys(count for count, _ in table.counts))
    kinds = {counted(name): name for name in reversed(names)}
    of = f"“{kinds['affected']}”" if "affected" in kinds else f"exposed less “{kinds.get('alive')}”"
    text = f"**Counts:** affected are {of}, of “{kinds.get('exposed')}”."
    if table.shares:
        text += f" {listed(table.shares)}: “3/5” is taken as 3 of 5."
    times = list(dict.fromkeys(time for _, time in table.counts if time))
    if (at := table.index(ColumnKind.TIME)) is not None:
        text += f" {table.headings[at]}: each time point is a series of its own."
    elif times:
        text += f" **{listed(times)}**, from the headings, are series of their own."
    rest = [name for name in names if counted(name) is None]
    text += f" Not used: {listed(rest)}." if rest else ""
    return Statement(id="across", state="look" if rest else "ok", text=text, change="across")


def _series(table: Table) -> Statement | None:
    """That rows are kept apart, by a column of series or by names that each stand at several levels."""
    rows = [(n, table.cell(cells, ColumnKind.SERIES), table.cell(cells, ColumnKind.NAME)) for n, cells in table.body]
    what = ColumnKind.SERIES if any(series for _, series, _ in rows) else ColumnKind.NAME
    levels: dict[str, set[float]] = {}
    for number, series, name in rows:
        word = series or name if what is ColumnKind.SERIES else name
        if word and (level := table.levels.values.get(number)) is not None:
            levels.setdefault(word, set()).add(level)
    names = [name for name, own in levels.items() if len(own) > 1]
    if len(names) < 2 or (what is ColumnKind.NAME and question_of(table.question).unknowns):
        return None
    shown = ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
    text = f"**One curve for each of {len(names)}**, told apart by {table.headings[table.index(what) or 0] or 'name'}: "
    return Statement(id="series", state="ok", text=f"{text}{shown}.", change="columns")


def _channel(table: Table) -> Statement | None:
    """That rows read at several wavelengths or times are not told apart where no wells are named."""
    at = table.index(ColumnKind.CHANNEL)
    if at is None or table.index(ColumnKind.WELL) is not None or len({cells[at] for _, cells in table.body}) < 2:
        return None
    text = (
        f"**{table.headings[at]} is not used:** rows are told apart by it only where they name wells. Give each its "
        "own column of readings, or take this column as the series."
    )
    return Statement(id="channel", state="look", text=text, change="columns")


def _wells(table: Table) -> Statement | None:
    found = table.wells
    if found is None:
        return None
    if isinstance(found, str):
        return Statement(id="wells", state="look", text=f"**{found}** The rows are read as a table.", change="columns")
    rows, columns = found.size
    plates = f"{len(found.plates)} plates" if len(found.plates) > 1 else "a plate"
    text = f"**{count_of(len(found.cells), 'well')}** of {plates} of {rows * columns:,}."
    return Statement(id="wells", state="ok", text=text, change="columns")


def _stop(table: Table) -> Statement | None:
    filled = [i for i, column in enumerate(table.columns) if any(n.text.strip() for n in column.numbers)]
    if sum(heading.endswith((", lower", ", upper", ", shown")) for heading in table.headings) > 1:
        text = (
            "**These are answers that Dosis wrote,** not readings. To go on with the run, bring in its XLSX or JSON, "
            "which hold the readings with all that is said of them."
        )
        return Statement(id="stop", state="stop", text=text)
    if not table.body:
        text = "**There is only a heading.** Paste the rows below it too."
        return Statement(id="stop", state="stop", text=text, change="header")
    if question_of(table.question).of_curves and table.courses is None:
        text = ALONG[question_of(table.question).along].missing
        return Statement(id="stop", state="stop", text=text, change="columns")
    numeric = [i for i in filled if any(n.meaning is Meaning.NUMBER for n in table.columns[i].numbers)]
    if not numeric:
        text = "**There are no numbers in this table.** Dosis needs at least one column of instrument readings."
        return Statement(id="stop", state="stop", text=text)
    if len(filled) == 1:
        text = (
            "**Only one column was found.** A run needs readings and, for the standards, their concentrations: "
            "paste both columns, or choose another separator if they stand in one."
        )
    elif ColumnKind.READING not in table.kinds:
        text = "**No column is taken for readings.** Choose the one that holds them, above the table."
    elif not any(table.kinds[i] is ColumnKind.READING for i in numeric):
        text = "**No number in the reading columns.** Choose the column that holds the readings."
    else:
        return None
    return Statement(id="stop", state="stop", text=text, change="columns")


def _columns(table: Table) -> Statement:
    count = table.kinds.count(ColumnKind.READING)
    heading = "**Columns, one header row.**" if table.header_row else "**Columns, no header row.**"
    rows = len(table.body)
    each = {0: "", 1: ", one reading each"}.get(count, f", {number_word(count)} readings each")
    text = f"{heading} {rows:,} {'row' if rows == 1 else 'rows'}{each}."
    return Statement(id="columns", state="ok", text=text, change="header")


def _roles(table: Table) -> Statement:
    if table.undescribed:
        text = "**No roles yet.** Open the run and lay the plate out: it takes a few drags."
        return Statement(id="roles", state="ok", text=text)
    asked = question_of(table.question)
    count = Counter(table.roles.values())
    if by_dilution(table):
        doses = count[Role.STANDARD] + count[Role.SAMPLE]
        beside = [count_of(count[role], asked.title(role).lower()) for role in asked.roles if count[role]]
        text = f"**{', '.join((count_of(doses, asked.point), *beside))}** by row, from the dilutions."
        return Statement(id="roles", state="ok" if doses else "look", text=text, change="roles")
    if not asked.unknowns:
        kept = {Role.STANDARD, *asked.roles}
        others = [count_of(count[role], asked.title(role).lower()) for role in Role
                  if role is not Role.STANDARD and count[role] and role in kept]  # fmt: skip
        points = ", ".join([count_of(count[Role.STANDARD], asked.point), *others])
        text = f"**{points}** by row, from the filled {asked.levels}."
        without = sum(count[role] for role in Role if role not in kept)
        if without:
            text += f" **{count_of(without, 'row')}** {'has' if without == 1 else 'have'} none."
        return Statement(id="roles", state="look" if without else "ok", text=text, change="roles")
    order = (Role.BLANK, Role.STANDARD, Role.SAMPLE, Role.QC, Role.UNUSED)
    parts = [count_of(count[role], ROLES[role].name) for role in order if count[role]]
    told = "the names and the filled concentrations" if ColumnKind.NAME in table.kinds else "the filled concentrations"
    state = "ok" if count[Role.STANDARD] and (count[Role.SAMPLE] or count[Role.QC]) else "look"
    missing = "" if count[Role.STANDARD] else " **No standards:** nothing can be read back without them."
    text = f"**{', '.join(parts) or 'No rows'}** by row, from {told}.{missing}"
    if alike := _named_like_standards(table):
        state = "look"
        one, what = len(alike) == 1, asked.levels.removesuffix("s")
        text += f" **{' and '.join(alike)}** {'has' if one else 'have'} no {what} but a name like the standards: "
        text += f"taken as {'a sample' if one else 'samples'}."
    return Statement(id="roles", state=state, text=text, change="roles")


def _named_like_standards(table: Table) -> list[str]:
    """One or two samples, beside others, whose names go on with those of the standards: "S6" after "S1" to "S5"."""
    names: dict[Role, list[str]] = {Role.STANDARD: [], Role.SAMPLE: []}
    for row, cells in table.body:
        if (role := table.roles.get(row)) in names:
            names[role].append(table.named(cells).strip())
    stems = {unnumbered(name) for name in names[Role.STANDARD]}
    if len(stems) != 1 or len(set(names[Role.STANDARD])) < ALIKE or not (stem := stems.pop()):
        return []
    found = [name for name in dict.fromkeys(names[Role.SAMPLE]) if name != stem and unnumbered(name) == stem]
    return found if len(found) < ALIKE and len(found) < len(set(names[Role.SAMPLE])) else []


def _odd(table: Table, chosen: Choices) -> Statement | None:
    if not table.odd:
        return None
    row, column, number = table.odd[0]
    given = {(c.row, c.column): c.meaning for c in chosen.cells}
    meaning = given.get((row, column)) or (number.meaning if number.meaning is not Meaning.NUMBER else Meaning.TEXT)
    if len(table.odd) == 1:
        kept = f"It is kept as “{MEANT[meaning]}” and left out of the mean."
        text = f"**“{number.text}” in row {row}** is not a number. {kept}"
    else:
        places = ", ".join(f"“{n.text}” in row {r}" for r, _, n in table.odd[:3])
        more = f" and {len(table.odd) - 3} more" if len(table.odd) > 3 else ""
        kept = "Each is kept for what it means and left out of the mean."
        text = f"**{len(table.odd)} cells are not numbers:** {places}{more}. {kept}"
    return Statement(id="cells", state="look", text=text, change="cells")


def _stacked(table: Table) -> Statement | None:
    index = table.index(ColumnKind.NAME)
    if index is not None and len({cells[index] for _, cells in table.body}) == len(table.body):
        return None  # every name once, so nothing is on several rows
    rows = Counter(key for n, cells in table.body if (key := table.same_thing(n, cells)) is not None)
    several = sum(count > 1 for count in rows.values())
    if not several:
        return None
    what = "level" if index is None else "name"
    text = f"**{count_of(several, what)} on several rows,** taken as replicates."
    if (apart := _told_apart(table)) is not None:
        name, heading, words = apart
        text += (
            f" {name} differs in {heading}: {listed(words)}. If these are different things, put that into their names."
        )
        return Statement(id="stack", state="look", text=text, change="stack")
    return Statement(id="stack", state="ok", text=text, change="stack")


def _told_apart(table: Table) -> tuple[str, str, list[str]] | None:
    """A name, and a column of words that tells its rows apart; words that come once in the table are mere notes."""
    for at, kind in enumerate(table.kinds):
        if kind is not ColumnKind.NOTE:
            continue
        words: dict[str, list[str]] = {}
        for number, cells in table.body:
            if cells[at] and (name := table.named(cells)) and table.roles[number] is Role.SAMPLE:
                words.setdefault(name, []).append(cells[at])
        all_words = [word for each in words.values() for word in each]
        again = len(set(all_words)) < len(all_words)
        for name, each in words.items():
            if again and len(each) > 1 and len(set(each)) == len(each):
                return name, table.headings[at], each
    return None


def _dilution(table: Table) -> Statement | None:
    index = table.index(ColumnKind.DILUTION)
    if index is None:
        return None
    told = [(n, cells[index]) for n, cells in table.body if cells[index] and cells[index] not in ("-", "–", "—")]
    bad = [(n, text) for n, text in told if parse_dilution(text, table.decimal) is None]
    if bad:
        row, text = bad[0]
        return unread_dilution(f"“{text}” in row {row}", len(bad), "columns")
    if not told:
        return None
    ratio = " “1:5” is taken as one part in five." if any(":" in text or "/" in text for _, text in told) else ""
    what = "; doses are divided by it" if question_of(table.question).diluted and not by_dilution(table) else ""
    text = f"**Dilution** given for {count_of(len(told), 'row')}{what}; × 1 elsewhere.{ratio}"
    undiluted = len(table.body) - len(told) if by_dilution(table) else 0
    if undiluted:
        text += f" **{count_of(undiluted, 'row')} without one** {'is' if undiluted == 1 else 'are'} taken as undiluted."
    return Statement(id="dilution", state="look" if undiluted else "ok", text=text, change="columns")


def unread_dilution(where: str, count: int, change: Literal["columns", ""]) -> Statement:
    """The same of a dilution."""
    said = (
        f"{where} and {count - 1} more are not dilution factors" if count > 1 else f"{where} is not a dilution factor"
    )
    text = f"**{said}.** × 1 is used there until it is changed."
    return Statement(id="dilution", state="look", text=text, change=change)


def _asides(table: Table) -> list[Statement]:
    found = []
    if table.asides:
        text = f"**Title in {rows_named(table.asides)}** kept with the pasted text, not used."
        found.append(Statement(id="asides", state="ok", text=text))
    if table.cleaned:
        text = f"**{count_of(table.cleaned, 'invisible character')}** left out of names; the pasted text keeps them."
        found.append(Statement(id="cleaned", state="look", text=text))
    return found


def odd_letters(grid: Grid, chosen: Choices) -> list[Statement]:
    """Where µ comes out as æ, the file was written in an old code page; and which was chosen."""
    if chosen.encoding:
        text = f"**Letters are read as code page {chosen.encoding.removeprefix('cp')}.**"
        return [Statement(id="encoding", state="ok", text=text, change="encoding")]
    rows = (row for row in grid[:SEEN] if ODD_MICRO.search("\t".join(row)))
    odd = next((found[0] + cell[found.end() :][:3] for row in rows for cell in row
                if (found := ODD_MICRO.search(cell))), None)  # fmt: skip
    if odd is None:
        return []
    text = f"**“{odd}” may be “µ{odd[1:]}”,** written in an old code page. Choose it, if so."
    return [Statement(id="encoding", state="look", text=text, change="encoding")]
