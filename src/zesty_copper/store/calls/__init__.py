"""Calls: what is said in them, filed with them, and found in them again."""
