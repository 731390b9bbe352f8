"""Zesty Copper: finds line-voltage supply faults from what the meter shows."""

from zesty_copper.compiled_code import keep_compiled_code

keep_compiled_code()
