"""Fitting: weights, solvers, and the one function that fits."""
