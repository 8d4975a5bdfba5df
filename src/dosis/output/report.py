"""Answers and verdict as plain text, for a terminal."""

from dosis.run.outcome.outcome import Outcome


def answers_text(outcome: Outcome) -> str:
    """A table of the answers in aligned columns, the curve, and the verdict as the last lines."""
    rows = _effect_rows(outcome) if outcome.effects else _answer_rows(outcome)
    last = len(rows[0]) - 1
    widths = [max(len(row[i]) for row in rows) for i in range(last + 1)]
    lines = [
        "  ".join(
            cell.ljust(w) if i in (0, last) else cell.rjust(w)
            for i, (cell, w) in enumerate(zip(row, widths, strict=True))
        )
        for row in rows
    ]
    verdict = outcome.verdict
    curve = outcome.curve.with_numbers or outcome.curve.problem
    said = verdict.headline + " " + "".join(part.text for part in verdict.detail).strip()
    table = [line.rstrip() for line in lines] if outcome.answers else []
    compared = [each.text.replace("**", "") for each in outcome.comparisons]
    return "\n".join([*table, "", *compared, f"Curve    {curve}", f"Verdict  {said.strip()}"]).lstrip("\n") + "\n"


def _effect_rows(outcome: Outcome) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [("Series", "", f"Dose {outcome.level_unit}".strip(), "95 % interval", "")]
    for effect in outcome.effects:
        for dose in effect.doses:
            bounds = dose.relative
            interval = f"{bounds.shown_lower} to {bounds.shown_upper}" if bounds.shown_lower else ""
            remarks = ", ".join(remark.short for remark in effect.remarks)
            rows.append((effect.name, f"{effect.symbol}{dose.percent:g}", bounds.shown, interval, remarks))
    return rows


def _answer_rows(outcome: Outcome) -> list[tuple[str, ...]]:
    unit = outcome.level_unit
    heading = (
        "Name",
        "n",
        "Signal",
        "CV %",
        f"In reading {unit}".strip(),
        "95 % interval",
        "Dilution",
        "In sample",
        "",
    )
    rows: list[tuple[str, ...]] = [heading]
    for a in outcome.answers:
        bounds = a.in_reading
        interval = f"{bounds.shown_lower} to {bounds.shown_upper}" if bounds.shown_lower else ""
        n = str(a.n) if a.n == a.n_all else f"{a.n} of {a.n_all}"
        remarks = ", ".join(remark.short for remark in a.remarks)
        rows.append((a.name, n, a.shown_signal, a.shown_cv, bounds.shown, interval, a.shown_dilution,
                     a.in_sample.shown, remarks))  # fmt: skip
    return rows
