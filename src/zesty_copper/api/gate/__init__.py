"""Who gets in, with what, for how long, and how much at a time."""
