"""Inference: what a fit lets us say, and how surely."""
