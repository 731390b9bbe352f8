"""What can be observed of a circuit: a file for each kind, and what was measured, where and in which state."""
