"""Counts, rows and beginnings in words, as the list of what was understood says them."""


def rows_named(rows: list[int]) -> str:
    """The rows by number, the first of many."""
    named = ", ".join(map(str, rows[:4])) + (f" and {len(rows) - 4} more" if len(rows) > 4 else "")
    return f"{'row' if len(rows) == 1 else 'rows'} {named}"


def count_of(n: int, noun: str) -> str:
    """A number and what there are so many of: "1 row", "2 rows"."""
    plural = noun if n == 1 or noun in ("not used",) else f"{noun}s"
    return f"{n:,} {plural}"


def roughly(n: int) -> str:
    """A number to two digits: "11,000,000"."""
    return f"{float(f'{n:.2g}'):,.0f}"


def number_word(n: int) -> str:
    """A small number as a word."""
    return {2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}.get(n, str(n))


def small(text: str) -> str:
    """A sentence as it goes on within another."""
    return text[:1].lower() + text[1:]
