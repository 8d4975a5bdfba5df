"""Reports of runs and studies: what was asked, found and done, on pages that can be signed."""
