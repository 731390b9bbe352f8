"""Every fault a circuit can have, and the family that each kind belongs to."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.faults.danger import Danger
from zesty_copper.core.faults.edits import Edits
from zesty_copper.core.faults.families.crossed import CrossedFaults
from zesty_copper.core.faults.families.joints import JointFaults
from zesty_copper.core.faults.families.loads import LoadFaults
from zesty_copper.core.faults.families.no_fault import NoFaults
from zesty_copper.core.faults.families.rotation import RotationFaults
from zesty_copper.core.faults.families.supply import SupplyFaults
from zesty_copper.core.faults.families.switches import SwitchFaults
from zesty_copper.core.faults.families.wires import WireFaults
from zesty_copper.core.faults.family import FaultFamily
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.faults.trips import SHORT_TYPICAL_OHM, TRIP_STEPS, trips_by_sample, trips_of
from zesty_copper.core.network.netlist import Netlist
from zesty_copper.core.words import say

__all__ = ["advice_on", "danger_of", "faults_of", "rows_of", "single_phases"]

FAMILIES: tuple[FaultFamily, ...] = (
    JointFaults(),
    LoadFaults(),
    WireFaults(),
    CrossedFaults(),
    SwitchFaults(),
    RotationFaults(),
    SupplyFaults(),
    NoFaults(),
)
_FAMILY_OF = {kind: family for family in FAMILIES for kind in family.kinds}
if set(_FAMILY_OF) != set(FaultKind) or len(_FAMILY_OF) != sum(len(family.kinds) for family in FAMILIES):
    raise RuntimeError("a kind of fault without a family, or with two: see FAMILIES")


@lru_cache(maxsize=64)
def faults_of(circuit: Circuit) -> tuple[Fault, ...]:
    """Every fault of a circuit; the priors sum to one, and `none_of_these` comes last.

    Raises
    ------
    BadInput
        If a part's entry names a way of failing that `priors.toml` lacks.
    """
    certain = [entry for family in FAMILIES for entry in family.certain(circuit)]
    weighed = [entry for family in FAMILIES for entry in family.weighed(circuit)]
    unlisted = priors().whole["none_of_these"]
    left_over = 1 - unlisted - sum(entry.prior for entry in certain)
    total = sum(entry.prior for entry in weighed)
    entries = certain + [entry._replace(prior=left_over * entry.prior / total) for entry in weighed]
    entries.append(FaultEntry(FaultKind.NONE_OF_THESE, None, None, unlisted, say("faults.none_these_something_not")))
    scale = sum(entry.prior for entry in entries)
    return tuple(
        _with_trip(circuit, Fault(kind=kind, part=part, leg=leg, prior=prior / scale, words=words))
        for kind, part, leg, prior, words in entries
    )


def rows_of(
    netlist: Netlist,
    faults: Sequence[Fault],
    quantile: NDArray[np.float64],
    coupling: NDArray[np.float64],
    bonded: NDArray[np.bool_],
) -> Edits:
    """Turn faults into rows: a network for each.

    Parameters
    ----------
    faults
        Those with a network of their own: not `none_of_these`, nor the intermittent, which are open when bad.
    quantile
        (samples,): where in its spread each sample's fault lies, in (0, 1).
    coupling
        (samples,): factor on the capacitance of a gap.
    bonded
        (samples,): whether a control secondary of which that is not known is grounded.
    """
    edits = Edits(netlist, quantile, coupling, bonded)
    for fault in faults:
        edits.rows.append(_FAMILY_OF[fault.kind].change(edits, fault).row())
    edits.branch(netlist.circuit.series[0].id, netlist.circuit.legs[0])  # there is always a direction
    return edits


def advice_on(circuit: Circuit, fault: Fault) -> str:
    """Say what to do about a fault."""
    return _FAMILY_OF[fault.kind].advice(circuit, fault)


def danger_of(circuit: Circuit, fault: Fault) -> Danger | None:
    """Whether going on hurts people or burns equipment, were it this fault, and how."""
    return _FAMILY_OF[fault.kind].danger(circuit, fault)


def single_phases(circuit: Circuit, fault: Fault) -> bool:
    """Whether a fault of one conductor leaves a three-phase motor on a lost or poor leg, or may do so again."""
    return bool(_FAMILY_OF[fault.kind].single_phased(circuit, fault))


def _with_trip(circuit: Circuit, fault: Fault) -> Fault:
    """Say what a fault trips, and when."""
    ends = _FAMILY_OF[fault.kind].touching(circuit, fault)
    if ends is None:
        return fault
    trips = trips_of(circuit, *ends, SHORT_TYPICAL_OHM)
    if not trips:
        return fault.model_copy(update={"words": say("faults.and_nothing_trips", words=fault.words)})
    first = trips[0]
    opened = circuit.part(first.part)
    words = f"{fault.words}: {'blows' if opened.entry.blows else 'trips'} the {opened.name} {first.when}"
    middles = (np.arange(TRIP_STEPS) + 0.5) / TRIP_STEPS
    by_step = trips_by_sample(circuit, ends, middles, np.ones(TRIP_STEPS, dtype=np.bool_))
    parts = dict.fromkeys([first.part, *(trip.part for step_trips in by_step for trip in step_trips)])
    share = {
        part_id: sum(any(t.part == part_id for t in step_trips) for step_trips in by_step) / TRIP_STEPS
        for part_id in parts
    }
    return fault.model_copy(update={"words": words, "opens": tuple(share.items())})
