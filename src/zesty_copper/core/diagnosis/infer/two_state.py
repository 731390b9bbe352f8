"""Two-state mixture: what comes and goes is bad or good at each reading, what chatters is in or out."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

__all__ = ["BAD_SHARE", "DECIDED_NATS", "chatter_log_weight", "flicker_log_weight"]

BAD_SHARE = 0.7
"""How often a contact that comes and goes is found bad: more often than not, or nobody would have called."""
BAD_SHARES = (0.5, 0.7, 0.9)
"""How often it may be, each as likely: no one contact is like another."""
PERSISTS = 0.6
"""How much of its state a contact keeps from one reading to the next, beyond how often it is so; common practice, no
source: they stay good or bad for a while."""
DECIDED_NATS = 12.0
"""Lead from which a reading by itself says which of two it was."""


@njit(cache=True, nogil=True, error_model="numpy")
def flicker_log_weight(ahead: NDArray[np.float64]) -> float:
    """Logarithm of how often a contact goes through the readings as it was read [nat].

    It was bad or good at each; the likelier state counts whole, the other as far as the reading leaves it open. From
    one reading to the next it mostly stays as it was: the forward recursion of a two-state hidden Markov chain
    (Rabiner, Proc. IEEE 77 (1989) 257-286), averaged over how often it is bad.

    Parameters
    ----------
    ahead
        (readings,): by how much “good” is the likelier, in nats.
    """
    total = 0.0
    for often in BAD_SHARES:
        bad, good, log_way = often, 1 - often, 0.0
        for i in range(len(ahead)):
            if i > 0:
                bad, good = PERSISTS * bad + (1 - PERSISTS) * often, PERSISTS * good + (1 - PERSISTS) * (1 - often)
            other = np.exp(-abs(ahead[i]))
            if ahead[i] > 0:
                bad *= other
            else:
                good *= other
            scale = bad + good
            bad, good, log_way = bad / scale, good / scale, log_way + np.log(scale)
        total += np.exp(log_way) / len(BAD_SHARES)
    return float(np.log(total))


@njit(cache=True, nogil=True, error_model="numpy")
def chatter_log_weight(ahead: NDArray[np.float64]) -> float:
    """Logarithm of how often what chatters is caught as it was read: in or out at each reading by itself [nat].

    Parameters
    ----------
    ahead
        (readings,): by how much the position moved on to is the likelier, in nats.
    """
    total = 0.0
    for i in range(len(ahead)):
        total += np.log(0.5 + 0.5 * np.exp(-abs(ahead[i])))
    return total
