"""How what earlier versions stored becomes what this one reads: one file for each step from a form to the next.

The first form of everything was stored without a version and counts as version 1. An upgrade takes the record as plain
JSON data and returns it in the next form; what it was given stays as it is. Stored rows are never rewritten.
"""

from collections.abc import Callable
from typing import Any

from pydantic import BaseModel

from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.store.upgrades import method_1, method_2, method_3, outcome_1, outcome_2, working_1
from dosis.store.working import Working

Upgrade = Callable[[dict[str, Any]], dict[str, Any]]

UPGRADES: dict[type[BaseModel], tuple[Upgrade, ...]] = {
    Method: (method_1.upgrade, method_2.upgrade, method_3.upgrade),
    Outcome: (outcome_1.upgrade, outcome_2.upgrade),
    Working: (working_1.upgrade,),
}


def version_of(kind: type[BaseModel]) -> int:
    """The form in which this program stores that kind of record, counted from 1."""
    return 1 + len(UPGRADES.get(kind, ()))


def upgraded(kind: type[BaseModel], data: dict[str, Any], version: int) -> dict[str, Any]:
    """A record of that version in the form of today."""
    for upgrade in UPGRADES.get(kind, ())[version - 1 :]:
        data = upgrade(data)
    return data
