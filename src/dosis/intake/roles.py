"""Which row is what: blank, standard, QC, sample or control, from its role, its name and whether it has a level."""

from functools import lru_cache

from dosis.run.roles import ROLES, Role
from dosis.run.trade_words import role_word

_BY_NAME = {of.name.casefold(): role for role, of in ROLES.items()}


def guess_role(role_cell: str, name: str, has_level: bool) -> Role:
    """The role of a row: what its role cell says, else its name, else whether it has a known concentration."""
    said = _BY_NAME.get(role_cell.strip().casefold()) or role_named(role_cell)
    return said or role_named(name) or (Role.STANDARD if has_level else Role.SAMPLE)


def names_no_series(word: str) -> bool:
    """Whether a word in a column of series says what its rows are instead: a blank, a vehicle, the full effect."""
    return role_named(word) in (Role.BLANK, Role.VEHICLE, Role.FULL)


def names_a_role(name: str) -> bool:
    """Whether a word says by itself what it stands for ("Std 1", "Blank")."""
    return role_named(name) is not None


def role_named(name: str) -> Role | None:
    """The role a name says, in English or another language; None where it is only a name."""
    # Which number a name ends in makes no difference, so that a thousand samples are one question.
    name = name.strip()
    bare = name.rstrip("0123456789")
    return _role_of(bare if bare == name else bare + "0")


@lru_cache(maxsize=4096)
def _role_of(name: str) -> Role | None:
    found = next((role for role, of in ROLES.items() if name and of.named and of.named.search(name)), None)
    if found is None and name and (word := role_word(name)):
        return Role(word)
    return found
