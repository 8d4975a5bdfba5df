"""The situations in which intervals are tried, by question."""
