"""Fast fitting of sigmoids between two free plateaus: the plateaus eliminated, Newton on the rest, many at once."""

from dosis.core.fitting.sigmoids.model import Sigmoids, fit_sigmoids, sigmoid_values

__all__ = ["Sigmoids", "fit_sigmoids", "sigmoid_values"]
