"""What an export is."""

from collections.abc import Callable
from dataclasses import dataclass

from dosis.run.layout import Layout
from dosis.run.outcome.outcome import Outcome
from dosis.run.readings import Readings


@dataclass(frozen=True)
class Subject:
    """A run as it leaves, in one of its revisions."""

    title: str
    readings: Readings
    layout: Layout
    outcome: Outcome


@dataclass(frozen=True)
class Export:
    """A kind of file.

    form : its ending, and its name in the address. title : on the page; note : what it holds.
    whole : whether curves made in brief are to be made in full first. make : the file's bytes.
    pasted : whether it is copied to be pasted, not downloaded.
    """

    form: str
    title: str
    note: str
    media: str
    make: Callable[[Subject], bytes]
    whole: bool = False
    pasted: bool = False
