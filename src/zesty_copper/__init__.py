"""Zesty Copper: finds line-voltage supply faults from what the meter shows."""
