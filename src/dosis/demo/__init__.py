"""The demo world: Ternhaven Shellfish Lab, invented, generated with fixed seeds."""
