"""Routes: one file for each resource."""
