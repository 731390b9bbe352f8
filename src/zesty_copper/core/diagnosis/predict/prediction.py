"""What one measurement would show in every network row."""

from dataclasses import dataclass

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
