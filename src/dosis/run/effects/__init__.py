"""What questions about doses have in common: effect doses, their table and their verdict."""
