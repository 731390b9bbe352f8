"""A file for each kind of observation."""
