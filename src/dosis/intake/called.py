"""What a run is called until a person names it: the line above its table, or what was read in what."""

from dosis.intake.table import Table
from dosis.run.roles import Role

LONGEST = 90
NAMED = 2  # samples
_PLAIN = ("", "Signal", "Concentration", "Level")


def called(table: Table) -> str:
    """A name for what stands in a table, as "Phosphate: Pier N, Pier S and 3 more"; empty where it names nothing."""
    for number in table.asides[:1]:
        title = " ".join(filter(None, table.grid[number - 1])).strip()
        if 0 < len(title) <= LONGEST and number <= (table.header_row or number):
            return title
    names = list(dict.fromkeys(_names(table)))
    quantities = (table.signal[0],) if table.courses is not None else (table.level[0], table.signal[0])
    what = next((each for each in quantities if each not in _PLAIN), "")
    more = f" and {len(names) - NAMED} more" if len(names) > NAMED else ""
    of = f"{', '.join(names[:NAMED])}{more}" if names else ""
    return ": ".join(filter(None, (what, of)))[:LONGEST] if of else ""


def _names(table: Table) -> list[str]:
    if table.courses is not None:
        return [course.name for course in table.courses.courses if course.role is not Role.BLANK]
    wanted = (Role.SAMPLE, Role.POINT)
    named = [table.named(cells) for number, cells in table.body if table.roles.get(number) in wanted]
    return [name for name in named if name and not name.replace(".", "").isdigit()]
