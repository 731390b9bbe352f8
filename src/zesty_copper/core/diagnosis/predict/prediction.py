"""What one measurement would show in every network row."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

__all__ = ["Prediction"]


@dataclass(frozen=True, eq=False)
class Prediction:
    """The reading of one measurement in every network row.

    Attributes
    ----------
    value
        (rows, samples): what the meter would show on the scale of its unit.
    slope
        (rows, samples, dimensions): its change with one standard deviation of each Gaussian unknown [V or A].
    wander
        (rows, samples): standard deviation of what of it hangs on stray coupling, or lies near nothing [V or A].
    chatters
        (rows, samples): where a coil never rests, so that `moved_on` is as likely to be read.
    moved_on
        The same in the position to which what chatters moves on; none where nothing chatters.
    """

    value: NDArray[np.float64]
    slope: NDArray[np.float64]
    wander: NDArray[np.float64]
    chatters: NDArray[np.bool_]
    moved_on: "Prediction | None" = None

    @cached_property
    def active(self) -> NDArray[np.bool_]:
        """The unknowns that move it at all, (dimensions,)."""
        return np.asarray(self.slope.any(axis=(0, 1)))

    @property
    def nbytes(self) -> int:
        """What the arrays hold [byte]."""
        own_bytes = self.value.nbytes + self.slope.nbytes + self.wander.nbytes
        return own_bytes + (self.moved_on.nbytes if self.moved_on else 0)
