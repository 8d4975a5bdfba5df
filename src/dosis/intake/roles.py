"""Which row is what: blank, standard, QC, sample or control, from its role, its name and whether it has a level."""

import re
from functools import lru_cache

from dosis.run.layout import Role

_BLANK = re.compile(r"\bblanks?\b|^(blk|bl|zero reagent)\s*[-_#.]?\s*\d*$", re.IGNORECASE)
_QC = re.compile(r"^(qc|q\.c\.|quality|check|control)\b|\bqc\b", re.IGNORECASE)
_STANDARD = re.compile(r"^(std|stds|standard|cal|calibrator|calibration)\b|^(std|cal)\s*[-_#.]?\s*\d+$", re.IGNORECASE)
_SAMPLE = re.compile(r"^(sample|unknown|unk|spl|smp)s?\b|^(unk|spl|smp)\s*[-_#.]?\s*\d+$", re.IGNORECASE)
_VEHICLE = re.compile(r"^(vehicle|veh|solvent|untreated|dmso|0 ?% effect)\b", re.IGNORECASE)
_FULL = re.compile(r"^(full[- ](effect|kill|inhibition)|100 ?% effect|positive control)\b", re.IGNORECASE)
_UNUSED = re.compile(r"^(unused|ignore|empty|none|not used)$", re.IGNORECASE)

_PATTERNS = (
    (Role.UNUSED, _UNUSED), (Role.VEHICLE, _VEHICLE), (Role.FULL, _FULL), (Role.BLANK, _BLANK), (Role.QC, _QC),
    (Role.STANDARD, _STANDARD), (Role.SAMPLE, _SAMPLE),
)  # fmt: skip


def guess_role(role_cell: str, name: str, has_level: bool) -> Role:
    """The role of a row: what its role cell says, else its name, else whether it has a known concentration."""
    return _named_role(role_cell) or _named_role(name) or (Role.STANDARD if has_level else Role.SAMPLE)


def names_a_role(name: str) -> bool:
    """Whether a word says by itself what it stands for ("Std 1", "Blank")."""
    return _named_role(name) is not None


def _named_role(name: str) -> Role | None:
    # Which number a name ends in makes no difference, so that a thousand samples are one question.
    name = name.strip()
    bare = name.rstrip("0123456789")
    return _role_of(bare if bare == name else bare + "0")


@lru_cache(maxsize=4096)
def _role_of(name: str) -> Role | None:
    return next((role for role, pattern in _PATTERNS if name and pattern.search(name)), None)
