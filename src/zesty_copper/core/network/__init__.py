"""Phasor nodal analysis of a circuit, low-rank edits of it, and the meter that reads it."""
