"""The answers of a dose–response run as rows: one for each series and effect, full precision beside what is shown."""

from dosis.run.outcome import Outcome, Value

Cell = str | float | None


def effect_table(outcome: Outcome) -> tuple[list[str], list[list[Cell]]]:
    """Headings and rows; a bound has no number, and what is shown says so."""
    unit = f" ({outcome.level_unit})" if outcome.level_unit else ""
    headings = [
        "Series", "Effect (%)", "Kind", f"Relative dose{unit}", "lower 95 %", "upper 95 %", "Relative, shown",
        f"Absolute dose{unit}", "lower 95 %", "upper 95 %", "Absolute, shown", f"Between points{unit}",
        f"On the other scale{unit}", "-log10 of the dose", "Slope", "Plateaus", "Area over log dose", "R2",
        f"Spearman-Karber{unit}", f"Trimmed{unit}", "Fit", "Readings", "Remarks",
    ]  # fmt: skip
    rows: list[list[Cell]] = []
    for effect in outcome.effects:
        for first, dose in enumerate(effect.doses):
            once = first == 0  # what is said of the series stands in its first row
            rows.append([
                effect.name, dose.percent, effect.symbol, *_bounds(dose.relative), *_bounds(dose.absolute),
                dose.between.value, effect.other.value if once else None, effect.minus_log if once else None,
                effect.slope if once else None, effect.shown_plateaus if once else "", effect.area if once else None,
                effect.r_squared if once else None, effect.spearman.value if once else None,
                effect.trimmed.value if once else None, effect.shown_fit if once else "", float(effect.n),
                " ".join(remark.text for remark in effect.remarks) if once else "",
            ])  # fmt: skip
    return headings, rows


def _bounds(value: Value) -> list[Cell]:
    return [value.value, value.lower, value.upper, value.shown]
