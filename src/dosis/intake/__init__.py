"""Intake: pasted text or a file's bytes in; readings, a first layout and what was understood out."""
