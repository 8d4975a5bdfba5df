"""Who people are and what they may do, as rules alone: no database, no web."""
