"""The bench of standard additions, on which the sample itself is the standard to which nothing was added."""

from dataclasses import dataclass
from typing import ClassVar

from dosis.run.layout import Group
from dosis.run.outcome.drawn import SamplePoint
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench


@dataclass
class AdditionsBench(StandardBench):
    """itself : ids of the groups that are the sample without addition."""

    samples_choose: ClassVar[bool] = False
    blank_cancels: ClassVar[bool] = False
    itself: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        super().__post_init__()
        samples = [group for group in self.groups(Role.SAMPLE) if group.level is None]
        zero = samples or [group for group in self.groups(Role.STANDARD, Role.SAMPLE) if group.level == 0]
        self.itself = tuple(group.id for group in zero)
        groups = tuple(
            group.model_copy(update={"role": Role.STANDARD, "level": group.level or 0.0})
            if group.role is Role.SAMPLE
            else group
            for group in self.layout.groups
        )
        self.layout = self.layout.model_copy(update={"groups": groups})

    def answered(self) -> list[Group]:
        """The sample itself."""
        return sorted([group for group in self.layout.groups if group.id in self.itself], key=self.place_of)

    def answer_role(self, group: Group) -> Role:
        """What counts as a standard on this bench is the sample."""
        return Role.SAMPLE

    def known_level(self, group: Group) -> float | None:
        """Nothing is known of the sample before."""
        return None

    def sample_points(self) -> tuple[SamplePoint, ...]:
        """The sample lies where the line reaches zero signal."""
        found = [(id, value) for id in self.itself if (value := self.in_reading[id].value) is not None]
        return tuple(SamplePoint(group=id, role=Role.SAMPLE, x=-value, y=0.0) for id, value in found)
