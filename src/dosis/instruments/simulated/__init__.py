"""Simulated instruments: a process of their own that speaks the protocol, for demos, teaching and tests."""
