"""Conductors that are open, that connect poorly, or that do so now and then."""

from collections.abc import Iterator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.danger import Danger, Leaves, StopKind
from zesty_copper.core.faults.edits import Edits, FaultChange
from zesty_copper.core.faults.family import FaultFamily, not_mine, repair_dead
from zesty_copper.core.faults.fault import Fault, FaultEntry
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.priors import priors
from zesty_copper.core.network.netlist import ELECTRODE, ELECTRODE_OHM
from zesty_copper.core.words import say

__all__ = ["RESISTANCE_RANGE_OHM", "JointFaults", "least_ohm"]

RESISTANCE_RANGE_OHM = (0.05, 10e3)
"""A poor joint's resistance, log-uniform [ohm]."""
CONTROL_LEAST_OHM = 1.0
"""The least in control wiring: the half amp of a coil loses nothing worth a call in less [ohm]."""
LEAST_SHARE = 0.004
"""The least anywhere, as a share of what the loads behind it amount to: a volt of 240. Less brings no call."""
ELECTRODE_RANGE_OHM = (5.0, 100.0)
"""From the panel's ground through earth to the transformer, log-uniform [ohm]: rods and pipes in wet soil to one rod in
dry; around the 25 Ω that NEC 250.53 asks of one rod (from memory)."""
LOST_FROM = 0.5
"""Quantile of a poor joint's resistance from which a three-phase motor behind it counts as on a lost leg."""
_WAYS = (FaultKind.OPEN, FaultKind.RESISTIVE, FaultKind.INTERMITTENT)


class JointFaults(FaultFamily):
    """Conductors that are open, that connect poorly, or that do so now and then."""

    kinds = frozenset(_WAYS)

    def weighed(self, circuit: Circuit) -> Iterator[FaultEntry]:
        """Each conductor of each part in series, in each way in which it fails."""
        table = priors()
        for part in circuit.series:
            if part.entry.role is PartRole.TRANSFORMER:
                continue
            sayings = (part.entry.say_open, part.entry.say_resistive, part.entry.say_intermittent)
            for lane in circuit.lanes_of(part):
                if lane == GROUND and part.entry.role is PartRole.SOURCE:
                    continue  # the bond is the panel's own
                share = part.entry.weight * table.conductor.get(lane, 1.0)
                if lane == GROUND:
                    # Nothing flows in it, so volts and amps tell it only when it is gone.
                    words = sayings[0].format(name=part.name, lane="the ground")
                    yield FaultEntry(FaultKind.OPEN, part.id, lane, share, words)
                    continue
                for kind, chance, saying in zip(_WAYS, _ways_of(part), sayings, strict=True):
                    words = saying.format(name=part.name, lane=lane)
                    yield FaultEntry(kind, part.id, lane, share * chance, words)

    def change(self, edits: Edits, fault: Fault) -> FaultChange:
        """A gap or a resistance in the conductor; the intermittent one is open when bad and has no row of its own."""
        circuit, leg = edits.netlist.circuit, fault.leg or ""
        part = fault.part_in(circuit)
        change = FaultChange(edits, single_phasing=self.single_phased(circuit, fault))
        match fault.kind:
            case FaultKind.OPEN if _is_service_neutral(circuit, fault):
                change.insert(part.id, leg, *edits.clean_gap(part.id, leg))
                # What flows then goes through earth, and by how much is what varies.
                earth = edits.within(ELECTRODE_RANGE_OHM).astype(complex)
                change.insert(part.id, ELECTRODE, earth - complex(ELECTRODE_OHM), earth)
            case FaultKind.OPEN:
                change.insert(part.id, leg, *edits.gap(part.id, leg))
            case FaultKind.RESISTIVE:
                ohm = edits.within((least_ohm(circuit, part), RESISTANCE_RANGE_OHM[1])).astype(complex)
                change.insert(part.id, leg, ohm, ohm)
                # A poor joint of little resistance leaves a motor running nearly as it should.
                change.lost_from = LOST_FROM
            case _:
                raise not_mine(fault)
        return change

    def advice(self, circuit: Circuit, fault: Fault) -> str:
        """Stop for a service neutral; else repair it locked out."""
        if _is_service_neutral(circuit, fault):
            return say("faults.stop_failing_service_neutral")
        return repair_dead(circuit, fault, fault.part_in(circuit) if fault.kind is FaultKind.OPEN else None)

    def danger(self, circuit: Circuit, fault: Fault) -> Danger | None:
        """A failing service neutral, and a leg without which a three-phase motor burns."""
        is_poor = fault.kind in (FaultKind.RESISTIVE, FaultKind.INTERMITTENT)
        is_ahead = fault.part == circuit.series[0].id and fault.leg in circuit.legs
        if is_poor and is_ahead and circuit.supply.unseen_phasors:
            # A poor leg ahead of the panel is not told from its poor neutral: the other leg is not in this circuit.
            return Danger(StopKind.LEG_OR_NEUTRAL, Leaves.DEAD, say("safety.leg_or_neutral_look_alike"))
        if not _is_service_neutral(circuit, fault) and not self.single_phased(circuit, fault):
            return None
        if fault.leg == NEUTRAL:
            return Danger(StopKind.SERVICE_NEUTRAL, Leaves.DEAD, say("safety.failing_service_neutral_burns"))
        if is_poor:
            # A poor joint shows only while current flows: a motor stands the seconds that a reading takes.
            return Danger(StopKind.LOST_LEG, Leaves.BRIEF, say("safety.three_phase_motor_weak"))
        return Danger(StopKind.LOST_LEG, Leaves.IDLE, say("safety.three_phase_motor_lost"))

    def single_phased(self, circuit: Circuit, fault: Fault) -> frozenset[str]:
        """Motors fed through the conductor."""
        if fault.leg == GROUND or fault.part is None:
            return frozenset()
        part = circuit.part(fault.part)
        motors = circuit.three_phase_motors
        return frozenset(m.id for m in motors if part in circuit.path(m) and fault.leg in circuit.lanes_of(m))


def least_ohm(circuit: Circuit, part: Part) -> float:
    """Return the least resistance of a poor joint in a part that brings a call [ohm]."""
    control = CONTROL_LEAST_OHM if circuit.root(part).entry.role is PartRole.TRANSFORMER else 0.0
    amps = circuit.carried_amps(part)
    share = LEAST_SHARE * circuit.root_volts(part) / amps if amps else 0.0
    return max(RESISTANCE_RANGE_OHM[0], control, share)


def _is_service_neutral(circuit: Circuit, fault: Fault) -> bool:
    return fault.leg == NEUTRAL and fault.part_in(circuit).entry.role is PartRole.SOURCE


def _ways_of(part: Part) -> tuple[float, float, float]:
    try:
        return priors().way[part.entry.way]
    except KeyError:
        raise BadInput(say("faults.parts_kind_fail_way", kind=part.kind, way=part.entry.way), "circuit.parts") from None
