"""What a mistyped number may have been meant to be."""

from itertools import pairwise

__all__ = ["ANY_NUMBER_SHARE", "digits_slipped"]

ANY_NUMBER_SHARE = 0.4
"""Share of mistyped numbers that tell nothing of what was read: another line of the notebook, another place."""
DECIMAL_SHARE = 0.3
SWAP_SHARE = 0.3
"""Shares of a slipped decimal and of two neighbouring digits swapped; common practice, no source."""


def digits_slipped(value: float, digit: float) -> list[tuple[float, float]]:
    """Numbers that a slip of the fingers may have turned into this one, and the density that each lends to it.

    Parameters
    ----------
    digit
        The meter's last digit: it shows nothing less.

    Returns
    -------
    list of (number, weight)
        The weight is the share of the slip times by how much it stretches the scale: the density of the typed number
        is the weight times the density of what was meant.

    Examples
    --------
    >>> digits_slipped(24.1, 0.1)
    [(241.0, 1.5), (2.41, 0.015), (42.1, 0.15), (21.4, 0.15)]
    """
    slipped = [(value * 10, DECIMAL_SHARE / 2 * 10), (round(value / 10, 3), DECIMAL_SHARE / 2 / 10)]
    digits = f"{value:.1f}" if value != int(value) else f"{value:.0f}"
    places = [i for i, each_digit in enumerate(digits) if each_digit != "."]
    swapped = []
    for i, j in pairwise(places):
        if digits[i] != digits[j]:
            as_meant = list(digits)
            as_meant[i], as_meant[j] = digits[j], digits[i]
            swapped.append(float("".join(as_meant)))
    return slipped + [(number, SWAP_SHARE / len(swapped)) for number in swapped if number >= digit]
