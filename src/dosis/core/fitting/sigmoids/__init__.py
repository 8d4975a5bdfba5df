"""Fast fitting of sigmoids between two free plateaus, thousands at once: the plateaus eliminated, Newton on the rest."""

from dosis.core.fitting.sigmoids.model import Sigmoids, fit_sigmoids, sigmoid_values

__all__ = ["Sigmoids", "fit_sigmoids", "sigmoid_values"]
