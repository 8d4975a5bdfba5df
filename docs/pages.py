"""Writes docs/models.md and docs/reference.md from the code itself: ./dosis python docs/pages.py"""

import inspect
from functools import cached_property
from pathlib import Path
from types import ModuleType

from dosis import core
from dosis.core import (
    SharedFit,
    anova,
    blanks,
    by_shape,
    columns,
    interpolation,
    kinetics,
    limits,
    normalize,
    outliers,
    potency,
    quantal,
    replicates,
    solutions,
    spectra,
    traces,
)

HEAD = """# Curve models

Made from the declarations in `src/dosis/core/models` by `docs/pages.py`; a test keeps it current. Derivatives are
taken from the equation itself, exactly. Parameters marked † are above zero by their meaning and are fitted, and their
intervals made, on the logarithmic scale. Models in dose take x = 0 as exact: the plateau, never a tiny number.
"""


def models_page() -> str:
    """The page of curve models."""
    parts = [HEAD]
    for shape, models in by_shape().items():
        parts.append(f"\n## {shape.capitalize()}\n")
        for model in models:
            parts.append(f"\n### {model.name} (`{model.id}`)\n\n    {model.equation}\n\n")
            parts.append("| parameter | meaning | unit |\n|---|---|---|\n")
            for p in model.parameters:
                parts.append(f"| {p.name}{' †' if p.positive else ''} | {p.meaning} | {p.unit or '1'} |\n")
            for d in model.derived:
                parts.append(f"| *{d.name}* = {d.expression} | {d.meaning} | {d.unit or '1'} |\n")
            if model.source:
                parts.append(f"\nSource: {model.source}.\n")
            if model.contains:
                parts.append(f"\nSpecial cases of it: {', '.join(f'`{id}`' for id in model.contains)}.\n")
    return "".join(parts)


REFERENCE = """# Every function of the core

Made from the docstrings in `src/dosis/core` by `docs/pages.py`; a test keeps it current. Shapes, units, definitions
and sources are those the code states beside the formula.
"""
FIELDS = (property, cached_property)
ROOMS: dict[str, tuple[ModuleType | type, ...]] = {
    "Results of a fit": (core.Fit, core.ParameterEstimate, SharedFit, core.BatchFit),
    "Relative potency": (potency,),
    "Quantal response": (quantal,),
    "Replicates, blanks, normalize, outliers": (replicates, blanks, normalize, outliers, anova),
    "Limits and ranges": (limits,),
    "Point to point and look-up tables": (interpolation,),
    "Derived columns": (columns,),
    "Standards and solutions": (solutions,),
    "Kinetics": (kinetics,),
    "Spectra": (spectra,),
    "Traces": (traces,),
}


def reference_page() -> str:
    """The page of functions."""
    parts = [REFERENCE, "\n## Fitting\n"]
    parts += [
        _entry(name, getattr(core, name)) for name in ("fit", "fit_many", "compare", "extra_sum_of_squares", "custom")
    ]
    for title, rooms in ROOMS.items():
        parts.append(f"\n## {title}\n")
        for room in rooms:
            if isinstance(room, type):
                parts.append(_entry(room.__name__, room))
                parts += [
                    _entry(f"{room.__name__}.{name}", member)
                    for name, member in vars(room).items()
                    if not name.startswith("_") and (inspect.isfunction(member) or isinstance(member, FIELDS))
                    and inspect.getdoc(member)
                ]  # fmt: skip
                continue
            prefix = room.__name__.rpartition(".")[2]
            parts += [
                _entry(f"{prefix}.{name}", member)
                for name, member in sorted(vars(room).items())
                if not name.startswith("_") and (inspect.isfunction(member) or inspect.isclass(member))
                and member.__module__.startswith(room.__name__) and inspect.getdoc(member)
            ]  # fmt: skip
    return "".join(parts)


def _entry(name: str, thing: object) -> str:
    shown = name
    if inspect.isfunction(thing):
        given = [each for each in inspect.signature(thing).parameters if each != "self"]
        shown = f"{name}({', '.join(given)})"
    return f"\n### `{shown}`\n\n```text\n{inspect.getdoc(thing) or ''}\n```\n"


if __name__ == "__main__":
    here = Path(__file__).parent
    (here / "models.md").write_text(models_page(), "utf-8")
    (here / "reference.md").write_text(reference_page(), "utf-8")
