"""Methods: what a run was worked by, kept under a name and applied to new readings."""
