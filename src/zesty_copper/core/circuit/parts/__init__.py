"""Kinds of part, and what is known of one part alone."""
