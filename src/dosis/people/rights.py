"""What a person may do, and where: roles in all studies or in single ones, narrowed by the scope of a token."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class LabRole(StrEnum):
    """What an account is for."""

    READER = "reader"
    ANALYST = "analyst"
    REVIEWER = "reviewer"
    ADMINISTRATOR = "administrator"


class Right(StrEnum):
    """One thing that can be allowed."""

    READ = "read"
    WORK = "work"
    REVIEW = "review"
    ADMINISTER = "administer"


GIVES: Mapping[LabRole, frozenset[Right]] = {
    LabRole.READER: frozenset({Right.READ}),
    LabRole.ANALYST: frozenset({Right.READ, Right.WORK}),
    LabRole.REVIEWER: frozenset({Right.READ, Right.REVIEW}),
    LabRole.ADMINISTRATOR: frozenset({Right.READ, Right.ADMINISTER}),
}
ALL_RIGHTS = frozenset(Right)
ALL_ROLES = frozenset(LabRole)


@dataclass(frozen=True)
class Rights:
    """Roles of a person. everywhere : in all studies; studies : in single ones, in addition.

    scope, only : what a token leaves of it: these rights, in that study alone.

    >>> Rights(studies={3: frozenset({LabRole.ANALYST})}).may(Right.WORK, 4)
    False
    """

    everywhere: frozenset[LabRole] = frozenset()
    studies: Mapping[int, frozenset[LabRole]] = field(default_factory=dict)
    scope: frozenset[Right] = ALL_RIGHTS
    only: int | None = None

    def may(self, right: Right, study: int | None = None) -> bool:
        """Whether it is allowed in that study; without one, in the lab as a whole."""
        if right not in self.scope or (self.only is not None and study != self.only):
            return False
        here = self.studies.get(study, frozenset()) if study is not None else frozenset()
        return any(right in GIVES[role] for role in self.everywhere | here)

    def where(self, right: Right) -> frozenset[int] | None:
        """The studies in which it is allowed; None for all."""
        if right not in self.scope:
            return frozenset()
        if any(right in GIVES[role] for role in self.everywhere):
            return None if self.only is None else frozenset({self.only})
        found = {study for study, roles in self.studies.items() if any(right in GIVES[role] for role in roles)}
        return frozenset(found if self.only is None else found & {self.only})

    def anywhere(self, right: Right) -> bool:
        """Whether it is allowed in some study, or in the lab as a whole."""
        found = self.where(right)
        return found is None or bool(found)
