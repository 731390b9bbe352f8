"""Faults as edits of the network: impedances in series, and what each leg's source does."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.faults.catalogue import Fault, FaultKind
from zesty_copper.core.network.netlist import Netlist
from zesty_copper.core.network.solve import OPEN_LEAK_OHM, open_impedance

__all__ = ["LOW_RANGE", "RESISTANCE_RANGE_OHM", "FaultEdits", "fault_edits"]

RESISTANCE_RANGE_OHM = (0.05, 10e3)
"""A poor joint's resistance, log-uniform [ohm]."""
LEAK_RANGE_OHM = (10e3, 10e6)
"""Leakage of a dirty or charred gap, log-uniform [ohm]."""
CLEAN_SHARE = 0.5
"""Share of opens that do not leak; common practice, no source."""
LOW_RANGE = (0.5, 0.92)
"""Level of a supply that is low, of nominal: below the utilisation range of ANSI C84.1 (from memory)."""


@dataclass(frozen=True, eq=False)
class FaultEdits:
    """The edits of all faults for all samples.

    Attributes
    ----------
    branches
        (faults, 1): the branch a fault inserts impedance into; any branch where it inserts none.
    extra_ohm
        (faults, samples, 1): the impedance inserted [ohm]; zero where there is none.
    slope_ohm
        (faults, samples, 1): its derivative by the logarithm of the fault's own resistance [ohm].
    sources
        (faults, samples, legs): factor on each leg's source.
    """

    branches: NDArray[np.int64]
    extra_ohm: NDArray[np.complex128]
    slope_ohm: NDArray[np.complex128]
    sources: NDArray[np.complex128]


def fault_edits(netlist: Netlist, faults: Sequence[Fault], quantile: NDArray[np.float64]) -> FaultEdits:
    """Turn faults into edits.

    Parameters
    ----------
    faults
        Those with a network of their own: not `none_of_these`, nor the intermittent, which are open when bad.
        `not_closed` edits nothing: it is another state of the switches.
    quantile
        (samples,): where in its spread each sample's fault lies, in (0, 1).
    """
    shape = (len(faults), len(quantile))
    branches = np.zeros((len(faults), 1), dtype=np.int64)
    extra = np.zeros((*shape, 1), dtype=complex)
    slope = np.zeros((*shape, 1), dtype=complex)
    legs = netlist.circuit.system.leg_volts
    sources = np.ones((*shape, len(legs)), dtype=complex)
    low, high = RESISTANCE_RANGE_OHM
    resistance = low * (high / low) ** quantile
    leaky = quantile >= CLEAN_SHARE
    low, high = LEAK_RANGE_OHM
    leak = np.where(leaky, high * (low / high) ** ((quantile - CLEAN_SHARE) / (1 - CLEAN_SHARE)), OPEN_LEAK_OHM)
    for f, fault in enumerate(faults):
        kind = fault.kind
        if kind in (FaultKind.OPEN, FaultKind.LOAD_OPEN):
            branch = netlist.branches[fault.part or "", fault.leg or ""]
            branches[f] = branch
            gap = open_impedance(netlist, branch, leak)
            extra[f, :, 0] = gap
            slope[f, :, 0] = np.where(leaky, gap**2 / leak, 0)
        elif kind is FaultKind.RESISTIVE:
            branches[f] = netlist.branches[fault.part or "", fault.leg or ""]
            extra[f, :, 0] = slope[f, :, 0] = resistance
        elif kind is FaultKind.SAME_LEG:
            sources[f, :, 1] = legs[0] / legs[1]
        elif kind is FaultKind.SUPPLY_DEAD:
            sources[f] = 0
        elif kind is FaultKind.SUPPLY_LOW:
            sources[f] = (LOW_RANGE[0] + (LOW_RANGE[1] - LOW_RANGE[0]) * quantile)[:, None]
    return FaultEdits(branches, extra, slope, sources)
