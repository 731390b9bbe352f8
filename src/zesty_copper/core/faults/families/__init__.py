"""A file for each family of faults: what can be wrong, what it changes, what to do about it, how dangerous it is."""
