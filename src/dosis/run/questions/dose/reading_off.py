"""What the half-effect step reads off the curves: doses and areas, of all curves of a model in one array program."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from dosis.core.inference.areas import Area, areas_under
from dosis.core.inference.doses import Dose, doses_at
from dosis.core.inference.result import Fit
from dosis.run.questions.dose.bench import DoseBench
from dosis.run.questions.dose.reference_errors import with_raw_target

Scale = Literal["span", "response"]


@dataclass(frozen=True)
class ReadOff:
    """By series: doses at an effect in percent, or why the curve has none, areas over log10 dose, who falls."""

    doses: dict[tuple[str, float, Scale], Dose | str] = field(default_factory=dict)
    areas: dict[str, Area] = field(default_factory=dict)
    falls: dict[str, bool] = field(default_factory=dict)


def read_off(bench: DoseBench, levels: Sequence[float], interval: float) -> ReadOff:
    """Everything the curves on the bench are asked."""
    found = ReadOff()
    models: dict[str, dict[str, Fit]] = {}
    for key, compound in bench.compounds.items():
        if compound.fit is not None:
            models.setdefault(compound.fit.model.id, {})[key] = compound.fit
    for fits in models.values():
        for percent in levels:
            _doses(found, fits, dict.fromkeys(fits, percent / 100), percent, "span", interval)
            at = {key: bench.response_at(bench.compounds[key], percent / 100) for key in fits}
            asked = fits
            if bench.of_raw and bench.references:
                asked = {key: with_raw_target(bench, bench.compounds[key], fits[key], percent / 100) for key in fits}
            _doses(found, asked, at, percent, "response", interval)
        _whole_curves(found, fits, interval)
    return found


def _doses(
    found: ReadOff, fits: dict[str, Fit], effects: dict[str, float | None], percent: float, of: Scale, interval: float
) -> None:
    wanted = {key: effect for key, effect in effects.items() if effect is not None}
    try:
        doses: Sequence[Dose | str] = doses_at([fits[key] for key in wanted], list(wanted.values()), of, interval)
    except ValueError as error:  # the model has no plateaus, whatever the curve
        doses = [str(error)] * len(wanted)
    found.doses.update({(key, percent, of): dose for key, dose in zip(wanted, doses, strict=True)})


def _whole_curves(found: ReadOff, fits: dict[str, Fit], interval: float) -> None:
    first, *_ = fits.values()
    values = np.array([fit.values for fit in fits.values()])
    ends = first.model.value(np.array([fit.range for fit in fits.values()]), values)
    found.falls.update(zip(fits, (ends[:, 1] < ends[:, 0]).tolist(), strict=True))
    spans: dict[tuple[float, float], list[str]] = {}
    for key, fit in fits.items():
        spans.setdefault(dose_range(fit), []).append(key)
    for (low, high), keys in spans.items():
        if 0 < low < high:
            areas = areas_under([fits[key] for key in keys], low, high, interval, logarithmic=True)
            whole = {key: area for key, area in zip(keys, areas, strict=True) if math.isfinite(area.estimate)}
            found.areas.update(whole)


def dose_range(fit: Fit) -> tuple[float, float]:
    """Lowest dose above zero, and the highest."""
    above = fit.x[fit.x > 0]
    return (float(above.min()) if above.size else 0.0), float(fit.x.max())
