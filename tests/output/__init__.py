"""Tests of what leaves a run."""
