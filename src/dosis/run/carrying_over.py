"""What a layout keeps when the readings are understood anew from the same source."""

from dosis.run.layout import Exclusion, Layout
from dosis.run.readings import Reading, Readings

Place = tuple[int | None, int, int, str]


def carried_over(before: Readings, old: Layout, after: Readings, new: Layout) -> Layout:
    """The new layout with the exclusions of readings that stand where they stood, and read what they read."""
    now = {_place(reading): reading.id for reading in after.readings}
    kept = []
    for each in old.exclusions:
        id = now.get(_place(before.by_id[each.reading]))
        if id is not None and id in new.members:
            kept.append(Exclusion(reading=id, at=each.at, reason=each.reason))
    return new.having(exclusions=tuple(kept))


def anew_words(old: Layout, kept: Layout, asked: bool) -> str:
    """What the Ledger says of it; `asked` whether the question is another one, with a working of its own."""
    lost = len(old.exclusions) - len(kept.exclusions)
    gone = f"; {lost} exclusions no longer fit" if lost > 0 else ""
    working = "; the working begins anew" if asked else ""
    return f"Understood anew from what was brought in; the layout is as understood{gone}{working}"


def _place(reading: Reading) -> Place:
    return reading.plate, reading.row, reading.column, reading.text
