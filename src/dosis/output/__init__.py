"""Output: answers as tables that other programs read."""
