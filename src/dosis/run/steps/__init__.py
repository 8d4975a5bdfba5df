"""The steps of the working: one file for each kind, with its choices and what it does."""
