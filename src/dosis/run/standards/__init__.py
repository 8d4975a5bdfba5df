"""What questions answered by a standard curve have in common: concentration and additions."""
