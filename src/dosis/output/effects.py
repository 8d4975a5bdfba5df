"""The answers of a dose–response run as rows: one for each series and effect, full precision beside what is shown."""

from dosis.run.effects.effect import Effect
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import Value

Cell = str | float | None
ENDS = ("lower", "upper")  # of the interval, whose level is the run's own


def effect_table(outcome: Outcome) -> tuple[list[str], list[list[Cell]]]:
    """Headings and rows; a bound has no number, and what is shown says so."""
    unit = f" ({outcome.level_unit})" if outcome.level_unit else ""
    headings = ["Series", "Effect (%)", "Kind"]
    for name in (f"Relative dose{unit}", f"Absolute dose{unit}"):
        headings += [name, *_ends(name.partition(" (")[0]), f"{name.partition(' (')[0]}, shown"]
    headings += [f"Between points{unit}", f"On the other scale{unit}"]
    for name in ("-log10 of the dose", "Slope", "Lower plateau", "Upper plateau", "Area over log dose"):
        headings += [name, *_ends(name)]
    headings += ["R2", "R2 about", f"Spearman-Karber{unit}", f"Trimmed{unit}", "Fit", "Readings", "Remarks"]
    rows: list[list[Cell]] = []
    for effect in outcome.effects:
        for first, dose in enumerate(effect.doses):
            once = first == 0  # what is said of the series stands in its first row
            rows.append([
                effect.name, dose.percent, effect.symbol, *_bounds(dose.relative), *_bounds(dose.absolute),
                dose.between.value, effect.other.value if once else None,
                *(cell if once else None for cell in _shape(effect)),
                effect.r_squared if once else None,
                _about(effect) if once else "",
                effect.spearman.value if once else None,
                effect.trimmed.value if once else None, effect.shown_fit if once else "", float(effect.n),
                " ".join(remark.text for remark in effect.remarks) if once else "",
            ])  # fmt: skip
    return headings, rows


def _about(effect: Effect) -> str:
    return "" if effect.r_squared is None else "zero" if effect.about_zero else "the mean"


def _ends(name: str) -> list[str]:
    """Headings of an interval's ends: no two columns of a table have the same."""
    return [f"{name}, {end}" for end in ENDS]


def _shape(effect: Effect) -> list[Cell]:
    shape = effect.shape
    values = (shape.minus_log, shape.slope, shape.lower, shape.upper, shape.area)
    return [cell for value in values for cell in (value.value, value.lower, value.upper)]


def _bounds(value: Value) -> list[Cell]:
    return [value.value, value.lower, value.upper, value.shown]
