"""One position of every switch, solved: its sources, what in it varies, and which motors stand."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.network.elements import GROUPS, LOADS, Elements, elements_of
from zesty_copper.core.network.solve import Solved

__all__ = ["Topology"]


@dataclass(frozen=True, eq=False)
class Topology:
    """A solved network with all that its sources may do.

    Attributes
    ----------
    drives
        (drives, samples, sources): factors on the sources.
    standing
        (samples,) for each motor that does not turn, in some sample or in all.
    """

    solved: Solved
    drives: NDArray[np.complex128]
    standing: Mapping[str, NDArray[np.bool_]] = field(default_factory=dict)

    @property
    def nbytes(self) -> int:
        """What the arrays hold, those found later among them [byte]."""
        return self.solved.factors.nbytes + self.solved.impedance_ohm.nbytes + self.driven.nbytes

    @cached_property
    def elements(self) -> Elements:
        """Everything that varies."""
        return elements_of(self.solved.netlist, self.solved.open_switches)

    @cached_property
    def few_elements(self) -> Elements:
        """The elements that move a reading most."""
        return self.elements.few()

    @cached_property
    def driven(self) -> NDArray[np.complex128]:
        """Unknowns for each drive, nothing edited, (drives, samples, unknowns + 1) [V or A]."""
        by_sample = np.moveaxis(self.drives, 1, 0) @ np.swapaxes(self.solved.unknowns, 0, 1)
        return np.ascontiguousarray(np.swapaxes(by_sample, 0, 1))

    @cached_property
    def factors(self) -> NDArray[np.float64]:
        """Each group's factor, (samples, groups + 1): that of the gaps is the last."""
        named = {**dict.fromkeys(LOADS, "load"), "turns": "idle"}
        conditions = self.solved.conditions
        by_group = [getattr(conditions, named.get(name, name)) for name in GROUPS]
        return np.stack([*by_group, 1 / conditions.between], axis=1)
