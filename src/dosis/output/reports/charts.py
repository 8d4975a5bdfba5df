"""A control chart as it is printed: center, limits, one mark a run, and the rules that are broken named beside it."""

from xml.sax.saxutils import escape

from dosis.core.rounding import significant
from dosis.run.trends import Trend

WIDTH, HEIGHT = 640.0, 220.0
LEFT, RIGHT, TOP, BOTTOM = 56.0, 560.0, 14.0, 190.0
MOST_NUMBERED = 30
INK, GRAPHITE, MALACHITE, IODINE, CINNABAR = "#20242c", "#626775", "#17724f", "#945005", "#b0301c"


def chart(trend: Trend) -> str:
    """The chart as SVG, to stand in a page."""
    held, values = trend.held, [point.value for point in trend.points]
    ends = [] if held is None else [held.center - 3.3 * held.sd, held.center + 3.3 * held.sd]
    low, high = min(*values, *ends, values[0]), max(*values, *ends, values[0])
    room = 0.05 * ((high - low) or abs(high) or 1.0)

    def y(value: float) -> float:
        return BOTTOM - (value - low + room) / (high - low + 2 * room) * (BOTTOM - TOP)

    def x(i: int) -> float:
        return LEFT + (i + 0.5) / len(values) * (RIGHT - LEFT)

    parts = [f'<path d="M{LEFT} {TOP}V{BOTTOM}H{RIGHT}" fill="none" stroke="{INK}"/>']
    if held is not None and held.sd > 0:
        for sds, color in ((3, CINNABAR), (2, IODINE), (0, MALACHITE), (-2, IODINE), (-3, CINNABAR)):
            at = y(held.center + sds * held.sd)
            dash = "" if sds == 0 else ' stroke-dasharray="4 3"'
            name = "center" if sds == 0 else f"{'+' if sds > 0 else '−'}{abs(sds)} SD"
            shown = significant(held.center + sds * held.sd, 4)
            parts.append(f'<path d="M{LEFT} {at:.1f}H{RIGHT}" stroke="{color}"{dash}/>')
            parts.append(_text(RIGHT + 5, at + 3.5, f"{name} {shown}", color))
    for value in (min(values), max(values)):
        parts.append(_text(LEFT - 6, y(value) + 3.5, significant(value, 4), GRAPHITE, "end"))
    line = "".join(f"{'M' if i == 0 else 'L'}{x(i):.1f} {y(value):.1f}" for i, value in enumerate(values))
    parts.append(f'<path d="{line}" fill="none" stroke="{GRAPHITE}"/>')
    every = -(-len(values) // MOST_NUMBERED)
    for i, point in enumerate(trend.points):
        fill = IODINE if point.broken else "#fff"
        stroke = IODINE if point.broken else INK
        mark = f"M{x(i):.1f} {y(point.value) - 4:.1f}l4 4l-4 4l-4 -4z"
        parts.append(f'<path d="{mark}" fill="{fill}" stroke="{stroke}"/>')
        if i % every == 0:
            parts.append(_text(x(i), BOTTOM + 14, str(i + 1), GRAPHITE, "middle"))
    said = f"{trend.title} over {len(values)} runs"
    return (
        f'<svg viewBox="0 0 {WIDTH:g} {HEIGHT:g}" width="100%" role="img" aria-label="{escape(said)}"'
        f' xmlns="http://www.w3.org/2000/svg">{"".join(parts)}</svg>'
    )


def _text(x: float, y: float, text: str, color: str, anchor: str = "start") -> str:
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" fill="{color}" text-anchor="{anchor}" font-size="10"'
        f' font-family="Liberation Sans, Arial, sans-serif">{escape(text)}</text>'
    )
