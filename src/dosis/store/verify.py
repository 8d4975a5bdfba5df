"""Whether an archive still says what was written, and this program comes to the same answers."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass

from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.store.archive import Archive
from dosis.store.packing import text_of

MOST = 5  # answers that are named where they differ


@dataclass(frozen=True)
class Verified:
    """A revision worked out again: `same` to the byte, or what differs in words."""

    run: str
    title: str
    revision: int
    same: bool
    differs: str = ""


def verify(archive: Archive) -> Iterator[Verified]:
    """Work out every revision of every run again, one after the other."""
    for folder in archive.folders:
        found = archive.json(f"{folder}/run.json")
        for each in found["revisions"]:
            own, number = f"{folder}/revision-{each['number']}", int(each["number"])
            readings = archive.readings(folder, each["readings"])
            layout = Layout.model_validate_json(archive.text(f"{own}/layout.json"))
            method = Method.model_validate_json(archive.text(f"{own}/method.json"))
            text, outcome = text_of(evaluate(readings, layout, method), exclude={"working"})
            stored = archive.text(f"{own}/outcome.json") if archive.has(f"{own}/outcome.json") else None
            digest = each["sha256"] or (hashlib.sha256(stored).hexdigest() if stored is not None else "")
            same = hashlib.sha256(text).hexdigest() == digest
            words = "" if same else _differing(None if stored is None else Outcome.model_validate_json(stored), outcome)
            yield Verified(folder, found["title"], number, same, words)


def _differing(stored: Outcome | None, now: Outcome) -> str:
    if stored is None:
        return "its outcome was stored as a digest alone, and is another now"
    before, after = _shown(stored), _shown(now)
    found = [f"{name}: {before.get(name, 'none')} then, {after.get(name, 'none')} now"
             for name in {**before, **after} if before.get(name) != after.get(name)]  # fmt: skip
    more = f" and {len(found) - MOST} more" if len(found) > MOST else ""
    return f"{'; '.join(found[:MOST])}{more}" if found else "the same answers; other parts of the outcome differ"


def _shown(outcome: Outcome) -> dict[str, str]:
    """Every leading answer in full, by what it is called."""
    shown = {}
    for column in outcome.answers.leads:
        for i, row in enumerate(outcome.answers.rows):
            value = column.value(i)
            shown[f"{row.name}, {column.heading}"] = f"{value.value!r} ({value.lower!r} to {value.upper!r})"
    return shown
