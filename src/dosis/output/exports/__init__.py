"""The files a run can leave as, one here for each, and the list of them."""
