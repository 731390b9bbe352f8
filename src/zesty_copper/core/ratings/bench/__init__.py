"""Calculators: one form and one answer each."""
