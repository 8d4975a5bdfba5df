"""Writes docs/models.md from the declarations of the curve models: ./dosis python docs/models.py"""

from pathlib import Path

from dosis.core import by_shape

HEAD = """# Curve models

Made from the declarations in `src/dosis/core/models` by `docs/models.py`; a test keeps it current. Derivatives are
taken from the equation itself, exactly. Parameters marked † are above zero by their meaning and are fitted, and their
intervals made, on the logarithmic scale. Models in dose take x = 0 as exact: the plateau, never a tiny number.
"""


def page() -> str:
    """The whole page."""
    parts = [HEAD]
    for shape, models in by_shape().items():
        parts.append(f"\n## {shape.capitalize()}\n")
        for model in models:
            parts.append(f"\n### {model.name} (`{model.id}`)\n\n    {model.equation}\n\n")
            parts.append("| parameter | meaning | unit |\n|---|---|---|\n")
            for p in model.parameters:
                parts.append(f"| {p.name}{' †' if p.positive else ''} | {p.meaning} | {p.unit or '1'} |\n")
            if model.source:
                parts.append(f"\nSource: {model.source}.\n")
            if model.contains:
                parts.append(f"\nSpecial cases of it: {', '.join(f'`{id}`' for id in model.contains)}.\n")
    return "".join(parts)


if __name__ == "__main__":
    (Path(__file__).parent / "models.md").write_text(page(), "utf-8")
