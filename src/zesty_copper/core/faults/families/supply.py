"""A supply that is dead, low, another than the drawing says, or lacks a phase."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.faults.danger import Danger, Leaves, StopKind
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily, not_mine
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.words import say

__all__ = ["SupplyFaults"]

LOW_RANGE = (0.7, 0.92)
"""Level of a supply that is low, of nominal: below the utilisation range of ANSI C84.1 (from memory). What is lower
still has lost a leg, a phase or its neutral."""
PRIMARY_LEAN = 0.1
"""By how much the two windings left in series share their volts unequally, one standard deviation; common practice, no
source: the pair that should read nothing keeps up to some 30 V."""


class SupplyFaults(FaultFamily):
    """A supply that is dead, low, another than the drawing says, or lacks a phase."""

    kinds = frozenset(
        {
            FaultKind.SUPPLY_DEAD,
            FaultKind.SUPPLY_LOW,
            FaultKind.SAME_LEG,
            FaultKind.PRIMARY_LOST,
            FaultKind.WRONG_SUPPLY,
            FaultKind.HIGH_LEG,
        }
    )

    def certain(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """What each supply can be by its system."""
        whole = priors().whole
        sources = [part for part in circuit.series if part.entry.role is PartRole.SOURCE]
        for source in sources:
            supply = circuit.supply_of(source)
            # The first source is meant where none is named.
            part, of = (None, "The supply") if source is sources[0] else (source.id, f"The {source.name}")
            legs = [leg for leg in supply.legs if leg in circuit.lanes_of(source)]
            # Of a single leg, dead and lost are one place: no hand finds them apart.
            at, only = (source.id, legs[0]) if len(legs) == 1 else (part, None)
            words = say("faults.dead_ahead_panel", of=of)
            yield FaultEntry(FaultKind.SUPPLY_DEAD, at, only, whole["supply_dead"], words)
            words = say("faults.supply_is_low", of=of)
            yield FaultEntry(FaultKind.SUPPLY_LOW, part, None, whole["supply_low"], words)
            if len(legs) == 2:
                words = say("faults.both_hots_are_same")
                yield FaultEntry(FaultKind.SAME_LEG, part, None, whole["same_leg"], words)
            if supply.primary_delta:
                for leg in legs:
                    words = say("faults.phase_lost_primary_transformer", leg=leg)
                    yield FaultEntry(FaultKind.PRIMARY_LOST, part, leg, whole["primary_lost"] / len(legs), words)
            if supply.other is not None:
                label = supplies()[supply.other].label
                words = say("faults.supply_is_another", of=of, label=label, label_2=supply.label)
                yield FaultEntry(FaultKind.WRONG_SUPPLY, part, None, whole["wrong_supply"], words)
            if supply.high_leg is not None:
                for leg in legs:
                    if leg != supply.high_leg:
                        words = say("faults.high_leg_instead", leg=leg, high_leg=supply.high_leg)
                        yield FaultEntry(FaultKind.HIGH_LEG, part, leg, whole["high_leg"] / (len(legs) - 1), words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """Other volts at the sources."""
        circuit = edits.netlist.circuit
        source = fault.part_in(circuit)
        factors = _factors(circuit, fault, edits.quantile)
        starved = [m.id for m in circuit.three_phase_motors if circuit.root(m) == source]
        return FaultChange(
            edits,
            drive=edits.drive({(source.id, leg): factor for leg, factor in factors.items()}),
            single_phasing=frozenset(starved if fault.kind is FaultKind.PRIMARY_LOST else ()),
        )

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Call whoever the supply belongs to; a lost phase stops every motor."""
        if fault.kind is FaultKind.SUPPLY_DEAD:
            return say("faults.prove_meter_known_live")
        if fault.kind is FaultKind.PRIMARY_LOST:
            return say("faults.stop_every_three_phase")
        return say("faults.lies_ahead_branch_leave")

    def danger(self, circuit: Circuit, fault: Fault) -> Danger | None:
        """Motors burn on a lost phase."""
        if fault.kind is not FaultKind.PRIMARY_LOST:
            return None
        return Danger(StopKind.PHASE_LOST, Leaves.IDLE, self.advice(circuit, fault))


def _factors(
    circuit: Circuit, fault: Fault, quantile: NDArray[np.float64]
) -> dict[str, complex | NDArray[np.complex128]]:
    """Return the factor on each leg of a supply, unseen ones too."""
    supply = circuit.supply_of(fault.part_in(circuit))
    own_volts = supply.phasors
    match fault.kind:
        case FaultKind.SUPPLY_DEAD:
            return dict.fromkeys((*own_volts, *supply.unseen), 0j)
        case FaultKind.SUPPLY_LOW:
            level = (LOW_RANGE[0] + (LOW_RANGE[1] - LOW_RANGE[0]) * quantile).astype(complex)
            return dict.fromkeys((*own_volts, *supply.unseen), level)
        case FaultKind.SAME_LEG:
            first, second = own_volts
            return {second: own_volts[first] / own_volts[second]}
        case FaultKind.PRIMARY_LOST:
            # A delta primary that lost one phase: two of its windings in series across the one pair that is left.
            # They share it as their loads have it, so a few volts may be left between them.
            lean = (PRIMARY_LEAN * ndtri(quantile)).astype(complex)
            halves = {
                leg: -own_volts[fault.leg or ""] / 2 / volts for leg, volts in own_volts.items() if leg != fault.leg
            }
            return {leg: half * (1 + sign * lean) for (leg, half), sign in zip(halves.items(), (1, -1), strict=True)}
        case FaultKind.WRONG_SUPPLY:
            other_volts = supplies()[supply.other or ""].phasors
            return {leg: other_volts[leg] / volts for leg, volts in own_volts.items() if leg in other_volts}
        case FaultKind.HIGH_LEG:
            high, leg = supply.high_leg or "", fault.leg or ""
            return {high: own_volts[leg] / own_volts[high], leg: own_volts[high] / own_volts[leg]}
        case _:
            raise not_mine(fault)
