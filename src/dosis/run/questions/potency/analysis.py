"""One assay worked out: by lines, by slopes or by curves, chosen where nobody has."""

import math
from collections.abc import Hashable
from typing import Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.potency import Potency, analysis_of_variance, cross_over, parallel_curves, parallel_lines, slope_ratio
from dosis.core.potency.curves import without_blocks
from dosis.core.potency.variance import Analysis, of_curves
from dosis.run.questions.potency.bench import Assay

Model = Literal["lines", "slopes", "logistic4", "logistic5"]
CALLED: dict[str, str] = {
    "lines": "parallel lines on log dose", "slopes": "slopes from one intercept",
    "logistic4": "parallel four-parameter curves", "logistic5": "parallel five-parameter curves",
}  # fmt: skip
CURVED = 5  # doses of each preparation from which a curve is tried
BETTER = 2.0  # AICc by which a curve must beat a line
SHOWN = 0.05  # p of the regression from which on there is no potency
NOTHING = 1e-12  # share of a sum of squares that is what arithmetic leaves
SILENT = "The response does not follow the dose, so there is no potency."
FEW = 6  # degrees of freedom between replicates below which their scatter alone is too little to judge by


def fitting(assay: Assay, model: str) -> Assay:
    """The readings that the model can have: a zero dose has no logarithm."""
    return assay.with_dose() if model == "lines" else assay


def best_model(assays: list[Assay]) -> Model:
    """By AICc over all assays; the simpler where a curve is not clearly better."""
    if any(assay.crossed for assay in assays):
        return "lines"
    zero = any(x == 0 for assay in assays for x in assay.x)
    tried: list[Model] = ["slopes" if zero else "lines"]
    if min(_doses(assay) for assay in assays) >= CURVED:
        tried.append("logistic4")
    if not zero and "logistic4" not in tried:
        tried.append("slopes")
    scores = {model: sum(_aicc(assay, model) for assay in assays) for model in tried}
    first = tried[0]
    best = min(tried, key=lambda model: scores[model])
    return best if scores[best] < scores[first] - BETTER else first


def _doses(assay: Assay) -> int:
    names = set(assay.preparation)
    return min(len({x for x, n in zip(assay.x, assay.preparation, strict=True) if n == name}) for name in names)


def _aicc(assay: Assay, model: Model) -> float:
    try:
        found = together(assay, model)
    except ValueError:
        return math.inf
    return math.inf if found.aicc is None else found.aicc


def together(assay: Assay, model: str) -> SharedFit:
    """All preparations with the shape they share, blocks taken off; as they are drawn."""
    labels = np.array([list(dict.fromkeys(assay.preparation)).index(name) for name in assay.preparation], dtype=np.intp)
    y, lost = without_blocks(np.array(assay.x), np.array(assay.y), labels, assay.blocks)
    if model in ("lines", "slopes"):
        x: Array = np.log(assay.x) if model == "lines" else np.array(assay.x)
        share = ["slope"] if model == "lines" else ["intercept"]
        found = fit("line", x, y, series=assay.preparation, share=share)
    else:
        x = np.array(assay.x)
        names = ["lower", "upper", "slope", *(["asymmetry"] if model == "logistic5" else [])]
        found = fit(model, x, y, series=assay.preparation, share=names)
    df = found.degrees_of_freedom
    return found.but(scale=df / (df - lost)) if df > lost else found


def work_out(assay: Assay, model: str, reference: str, error: str, level: float) -> None:
    """Leave potencies, analysis of variance and curves on the assay, or the reason why there are none."""
    assay.model = model
    x, y, names, blocks = assay.x, assay.y, assay.preparation, assay.blocks
    shown: SharedFit | None = None
    try:
        if assay.crossed:
            found, shown = _crossed(assay, model, reference, level)
        elif model == "lines":
            assay.analysis = analysis_of_variance(x, y, names, blocks=blocks)
            assay.error = error
            if error == "auto":
                assay.error = "pure" if assay.analysis.error.degrees_of_freedom >= FEW else "residual"
            found = parallel_lines(x, y, names, reference=reference, error=assay.error,  # type: ignore[arg-type]
                                   level=level, blocks=blocks)  # fmt: skip
        elif model == "slopes":
            assay.analysis = analysis_of_variance(x, y, names, kind="slopes", blocks=blocks)
            assay.error = "residual"
            found = slope_ratio(x, y, names, reference=reference, level=level, blocks=blocks)
        else:
            curves = parallel_curves(x, y, names, reference=reference, model=model, level=level, blocks=blocks)
            found, assay.error, shown = curves.potencies, "residual", curves.parallel
            assay.analysis = _of_curves(assay, curves.parallel, curves.separate)
        if not _responds(assay):
            assay.problem = SILENT
            return
        assay.potencies = {str(name): each for name, each in found.items()}
        shown = shown or together(assay, model)
        assay.fits = {str(name): each for name, each in shown.series.items()}
    except ValueError as problem:
        assay.problem = str(problem)


def _crossed(assay: Assay, model: str, reference: str, level: float) -> tuple[dict[Hashable, Potency], SharedFit]:
    """A cross-over, and its lines as they are drawn: animals and periods taken off."""
    if model != "lines":
        raise ValueError("A cross-over is analyzed by parallel lines on log dose; choose these as the model.")
    if len(assay.blocks) < 2:
        raise ValueError("A cross-over needs an animal for every reading, its name, and a period, its note, and there "
                         "are not two of each. Give the columns these roles in the intake.")  # fmt: skip
    crossed = cross_over(assay.x, assay.y, assay.preparation, *assay.blocks, reference=reference, level=level)
    assay.analysis, assay.error = crossed.analysis, "within"
    lines = fit("line", np.log(assay.x), crossed.adjusted, series=assay.preparation, share=["slope"])
    df = lines.degrees_of_freedom
    return crossed.potencies, lines.but(scale=df / (df - crossed.lost)) if df > crossed.lost else lines


def _responds(assay: Assay) -> bool:
    """Whether the response follows the dose: by the regression, against the error where there is one."""
    rows = {} if assay.analysis is None else {row.name: row for row in assay.analysis.sources}
    regression = rows.get("Regression")
    if regression is None or regression.sum_of_squares <= NOTHING * max(rows["Total"].sum_of_squares, 1e-300):
        return False
    if max(assay.y) - min(assay.y) <= NOTHING * max(map(abs, assay.y)):
        return False
    return regression.p_value is None or regression.p_value < SHOWN


def _of_curves(assay: Assay, parallel: SharedFit, separate: SharedFit) -> Analysis:
    models = ((parallel.sse, len(parallel.joint.slots)), (separate.sse, len(separate.joint.slots)))
    return of_curves(assay.x, assay.y, assay.preparation, models, blocks=assay.blocks)
