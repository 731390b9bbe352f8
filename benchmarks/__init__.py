"""Benchmarks: how good the diagnosis is, and how fast."""
