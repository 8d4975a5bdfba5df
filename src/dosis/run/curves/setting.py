"""How a dose–response curve is fitted: the setting of all series, or of one that is an exception."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS, Model
from dosis.core.numbers import LARGEST
from dosis.core.rounding import given
from dosis.run.record import Record

Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]
RISES = 0.05  # p of a trend upward
LEAST = 3  # doses through which a curve is drawn at all


class CurveSetting(Record):
    """Model, weights, robust fitting, and parameters held at a value in the unit of the fitted responses."""

    model: Annotated[str, Field(max_length=60)] = "logistic4"
    weights: Literal["none", "1/y", "1/y^2", "1/yhat^2"] = "none"
    robust: Literal["off", "huber", "bisquare"] = "off"
    fixed: dict[str, Number] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _known(self) -> "CurveSetting":
        if self.model not in MODELS:
            raise ValueError(f"There is no curve model “{self.model}”.")
        self.has(self.fixed)
        return self

    def has(self, names: dict[str, Number] | tuple[str, ...]) -> None:
        """Raises ValueError for a parameter that the model does not have."""
        if unknown := sorted(set(names) - set(self.declared.names)):
            raise ValueError(f"{self.declared.name} has no parameter “{unknown[0]}”.")

    @property
    def declared(self) -> Model:
        """The model itself."""
        return MODELS[self.model]

    @property
    def plain(self) -> bool:
        """Whether it is least squares with equal weights and every parameter free."""
        return self.weights == "none" and self.robust == "off" and not self.fixed

    @property
    def in_words(self) -> str:
        """The setting in words."""
        return setting_words(self.declared, self.weights, self.robust, self.fixed)

    def fitted(self, x: list[float], y: list[float], *, means: bool) -> tuple[Fit | None, str]:
        """The curve through these readings, or why there is none."""
        doses, need = len(set(x)), len(self.declared.parameters) - len(self.fixed)
        if doses < max(LEAST, need):
            have = f"{doses} dose{'s' if doses != 1 else ''} with a usable reading"
            return None, f"{have}; {self.declared.name.lower()} needs {max(LEAST, need)}."
        try:
            found = fit(
                self.declared, x, y, weights=self.weights, robust=None if self.robust == "off" else self.robust,
                fixed=self.fixed or None, means=means,
            )  # fmt: skip
        except ValueError as error:
            return None, str(error)
        if self.declared.kinked and _rises(x, y):
            return None, f"{self.declared.name} falls with the dose, and these responses rise; choose another curve."
        return found, ""


def _rises(x: list[float], y: list[float]) -> bool:
    """Whether the responses rise along the order of the doses by more than they scatter, at 5 %."""
    rank = np.unique(x, return_inverse=True)[1].astype(float)
    line = fit("line", rank, y)
    slope = line.parameters["slope"]
    return slope.estimate > 0 and (slope.p_value is None or slope.p_value < RISES)


def setting_words(model: Model, weights: str, robust: str, fixed: dict[str, Number]) -> str:
    """Model, weights, robust fitting and held parameters in words."""
    weighted = "" if weights in ("auto", "none") else f", weights {shown_weights(weights)}"
    down = "" if robust == "off" else f", robust ({robust})"
    name = model.name if model.id in MODELS else f"{model.name} {model.equation}"
    return f"{name}{weighted}{down}" + "".join(f", {name} held at {given(value)}" for name, value in fixed.items())


def shown_weights(rule: str) -> str:
    """A rule of weights as it is written: "1/ŷ²" of "1/yhat^2"."""
    return rule.replace("yhat", "ŷ").replace("^2", "²")
