"""Dosis: from instrument readings to answers a lab can stand behind."""

__version__ = "0.1.0"
