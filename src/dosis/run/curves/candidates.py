"""Curves compared side by side: how each fits, and which describes what was read best."""

from dosis.core.inference.result import Fit
from dosis.core.rounding import fixed, p_value, significant
from dosis.run.curves.words import shown_r_squared
from dosis.run.outcome.drawn import Candidate

Missed = tuple[float | None, int, int]  # by how much standards are missed, how many can be read, of how many


def candidate(id: str, result: Fit, *, chosen: bool, missed: Missed = (None, 0, 0)) -> Candidate:
    """How one curve fits, in numbers and as shown."""
    p = result.lack_of_fit.p_value
    off, read, of = missed
    some = "" if read == of else f" ({read} of {of})"
    return Candidate(
        model=id, name=result.model.name, chosen=chosen,
        rmse=result.rmse, r_squared=result.r_squared, aicc=result.aicc, lack_of_fit_p=p, missed=off,
        shown_rmse="—" if result.rmse is None else significant(result.rmse, 3),
        shown_r_squared="—" if result.r_squared is None else shown_r_squared(result.r_squared),
        shown_aicc="—" if result.aicc is None else fixed(result.aicc, 1),
        shown_lack_of_fit="—" if p is None else p_value(p),
        shown_missed="—" if off is None else f"± {significant(100 * off, 2)} %{some}",
        about_zero=not result.model.intercept,
    )  # fmt: skip


def compared(candidates: tuple[Candidate, ...], what: str, better: float) -> str:
    """Which of the curves describes the standards or points best, and why, in a sentence.

    better : by how much AICc must fall for one to be called better.
    """
    judged = sorted((c.aicc, c.name, c) for c in candidates if c.aicc is not None)
    chosen = next((c for c in candidates if c.chosen), None)
    if len(judged) < 2 or chosen is None or chosen.aicc is None:
        return ""
    best, second = judged[0][2], judged[1][2]
    back = "" if best.missed is None else f" and gives the standards back to {best.shown_missed}"
    if best is chosen:
        close = (second.aicc or 0.0) - chosen.aicc < better
        near = "; the difference is too small to decide" if close else ""
        return (
            f"{best.name} has the lowest AICc, {best.shown_aicc} (next {second.name}, {second.shown_aicc}){near}{back}."
        )
    if chosen.aicc - (best.aicc or 0.0) < better:
        return (
            f"{chosen.name} is as good as any: {best.name} has an AICc of {best.shown_aicc} against "
            f"{chosen.shown_aicc}, which is too little to decide."
        )
    return f"{best.name} describes these {what} better: AICc {best.shown_aicc} against {chosen.shown_aicc}{back}."
