"""Fast fitting of sigmoids between two free plateaus: the plateaus eliminated, Newton on the rest, many at once."""

from dosis.core.fitting.sigmoids.model import (
    Profiles,
    Sigmoids,
    fit_sigmoids,
    midpoint_profiles,
    sigmoid_values,
    undetermined,
)

__all__ = ["Profiles", "Sigmoids", "fit_sigmoids", "midpoint_profiles", "sigmoid_values", "undetermined"]
