"""The science of Dosis as a library: ``from dosis.core import fit``. No interface, no files, no database."""

from dosis.core import (
    anova,
    blanks,
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
from dosis.core.fitting.batch import BatchFit, fit_many
from dosis.core.fitting.compare import Comparison, compare, extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.parameters import ParameterEstimate
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS, Model, by_shape, choices, custom, model
from dosis.core.numbers import Meaning, TypedNumber, parse_number

__all__ = [
    "MODELS",
    "BatchFit",
    "Comparison",
    "Fit",
    "Flag",
    "Meaning",
    "Model",
    "ParameterEstimate",
    "ReadBack",
    "SharedFit",
    "TypedNumber",
    "anova",
    "blanks",
    "by_shape",
    "choices",
    "columns",
    "compare",
    "custom",
    "extra_sum_of_squares",
    "fit",
    "fit_many",
    "interpolation",
    "kinetics",
    "limits",
    "model",
    "normalize",
    "outliers",
    "parse_number",
    "potency",
    "quantal",
    "replicates",
    "solutions",
    "spectra",
    "traces",
]
