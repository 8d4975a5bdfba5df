"""A measured figure, its target, and how they are printed."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """What was measured; `target` is an upper limit in the same unit, or a lower one when `at_least`."""

    what: str
    value: float
    unit: str
    target: float | None = None
    note: str = ""
    at_least: bool = False

    @property
    def met(self) -> str:
        """Whether the target is met, in a word."""
        if self.target is None:
            return ""
        met = self.value >= self.target if self.at_least else self.value <= self.target
        return "met" if met else "MISSED"


def show(figures: list[Figure]) -> None:
    """Print the figures in columns."""
    width = max(len(figure.what) for figure in figures)
    for f in figures:
        target = "" if f.target is None else f"{'≥' if f.at_least else '≤'} {f.target:g} {f.unit}"
        print(f"{f.what:<{width}}  {f.value:9.2f} {f.unit:<3} {target:>12}  {f.met:<7} {f.note}".rstrip())
