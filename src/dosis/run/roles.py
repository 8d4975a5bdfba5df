"""Roles: what a group of readings can be there for, each declared once with all that is said of it."""

import re
from dataclasses import dataclass
from enum import StrEnum


class Role(StrEnum):
    """What a group of readings is there for."""

    STANDARD = "standard"
    BLANK = "blank"
    SAMPLE = "sample"
    QC = "qc"
    DOSE = "dose"
    POINT = "point"
    VEHICLE = "vehicle"
    FULL = "full"
    UNUSED = "unused"


@dataclass(frozen=True)
class RoleFacts:
    """A role's words.

    name : in a sentence. title : in a list of choices. stem : begins the names of new groups ("Std 1"); of a role that
        is `alone` one group is enough, so its name needs no number. key : assigns it to the selected wells; empty where
        it takes more than a key.
    named : finds it by the name of a row, in the order of `ROLES`.
    """

    name: str
    title: str
    stem: str
    alone: bool = False
    key: str = ""
    named: re.Pattern[str] | None = None


def _words(pattern: str) -> re.Pattern[str]:
    return re.compile(pattern, re.IGNORECASE)


ROLES: dict[Role, RoleFacts] = {
    Role.UNUSED: RoleFacts(
        "not used", "Not used", "Not used", alone=True, named=_words(r"^(unused|ignore|empty|none|not used)$")
    ),
    Role.VEHICLE: RoleFacts(
        "vehicle", "Vehicle", "Vehicle", alone=True, key="v",
        named=_words(r"^(vehicle|veh|solvent|untreated|dmso|0 ?% effect)\b"),
    ),
    Role.FULL: RoleFacts(
        "full effect", "Full effect", "Full effect", alone=True, key="f",
        named=_words(r"^(full[- ](effect|kill|inhibition)|100 ?% effect|positive control)\b"),
    ),
    Role.BLANK: RoleFacts(
        "blank", "Blank", "Blank", alone=True, key="b",
        named=_words(r"\bblanks?\b|^(blk|bl|zero reagent)\s*[-_#.]?\s*\d*$"),
    ),
    Role.QC: RoleFacts("QC", "QC", "QC", named=_words(r"^(qc|q\.c\.|quality|check|control)\b|\bqc\b")),
    Role.STANDARD: RoleFacts(
        "standard", "Standard", "Std",
        named=_words(r"^(std|stds|standard|cal|calibrator|calibration)\b|^(std|cal)\s*[-_#.]?\s*\d+$"),
    ),
    Role.SAMPLE: RoleFacts(
        "sample", "Sample", "Sample",
        named=_words(r"^(sample|unknown|unk|spl|smp)s?\b|^(unk|spl|smp)\s*[-_#.]?\s*\d+$"),
    ),
    Role.DOSE: RoleFacts("dose", "Dose", "Dose"),
    Role.POINT: RoleFacts("point", "Point", "Point"),
}  # fmt: skip
