"""How far three legs lie apart, and how far they may."""

from collections.abc import Sequence

__all__ = ["MOST_AMPS_PERCENT", "MOST_VOLTS_PERCENT", "unbalance_percent"]

MOST_VOLTS_PERCENT, MOST_AMPS_PERCENT = 2.0, 10.0
"""Makers' common limits of legs under load; common practice, no source (NEMA MG 1 derates motors from 1 % of volts)."""


def unbalance_percent(values: Sequence[float]) -> float:
    """Return the largest distance from the mean, over the mean [%] (NEMA MG 1 14.36); 0 where the mean is not above 0.

    >>> round(unbalance_percent([206.0, 210.0, 202.0]), 2)
    1.94
    """
    mean = sum(values) / len(values)
    return 100 * max(abs(value - mean) for value in values) / mean if mean > 0 else 0.0
