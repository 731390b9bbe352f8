"""Each limit that stops the work, from just below and from just above, worked by hand beside it."""

from collections.abc import Sequence

import numpy as np
import pytest
from tests.core.told import LO_Z, amps, volts

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.answer import Stop
from zesty_copper.core.diagnosis.safety.stops import confirming, stop_for
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.danger import Leaves, StopKind
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.measurement import Reading

HEAT_PUMP, ROOFTOP, FURNACE = (ready_made()[key] for key in ("heat_pump", "rooftop_208", "furnace_120"))
LEGS = ("L1", "L2", "L3")


def by_readings(circuit: Circuit, *readings: Reading) -> StopKind | None:
    """What the readings stop by themselves, whatever is likely."""
    faults = faults_of(circuit)
    stop = stop_for(circuit, faults, np.zeros(len(faults)), readings)
    return stop.kind if stop else None


def metal(shown: float) -> list[Reading]:
    return [volts("G@whip", "G@supply", shown, meter=LO_Z)]


def control(shown: float) -> list[Reading]:
    return [volts("R@transformer", "G", shown, meter=LO_Z)]


def lone(shown: float) -> list[Reading]:
    return [volts("L1@tail", "N@tail", shown)]


def both_legs(part: str, high: float, low: float) -> list[Reading]:
    other = "N@supply" if part == "supply" else "G"
    return [volts(f"L1@{part}", other, high), volts(f"L2@{part}", other, low)]


def pairs(first: float, second: float, third: float) -> list[Reading]:
    legs = (("L1", "L2"), ("L2", "L3"), ("L3", "L1"))
    return [volts(f"{a}@whip", f"{b}@whip", value) for (a, b), value in zip(legs, (first, second, third), strict=True)]


def clamped(*shown: float) -> list[Reading]:
    return [amps(leg, "whip", value) for leg, value in zip(LEGS, shown, strict=False)]


PLATE = min(m.load.rated_amps for m in ROOFTOP.three_phase_motors if m.load)
"""The smallest three-phase motor behind the whip [A]."""
CARRIED = ROOFTOP.carried_amps(ROOFTOP.part("whip"))

NEUTRAL = StopKind.SERVICE_NEUTRAL
EDGES = [
    # Metal that hands touch: 30 V, outdoors.
    ("metal", HEAT_PUMP, metal(29.9), metal(30.1), StopKind.LIVE_METAL),
    # A 24 V secondary to ground: 1.6 × 24 = 38.4 V.
    ("control", HEAT_PUMP, control(38.3), control(38.5), StopKind.LINE_ON_CONTROLS),
    # A lone 120 V leg: 1.07 × 120 = 128.4 V.
    ("lone leg", FURNACE, lone(128.3), lone(128.5), NEUTRAL),
    # At the service: 6 % of 240 is 14.4 V apart (127.15 - 112.85 = 14.3; 127.25 - 112.75 = 14.5).
    ("apart", HEAT_PUMP, both_legs("supply", 127.15, 112.85), both_legs("supply", 127.25, 112.75), NEUTRAL),
    # At the unit one leg must be lifted besides: 1.07 × 120 = 128.4 V.
    ("lifted", HEAT_PUMP, both_legs("whip", 128.3, 111.7), both_legs("whip", 128.5, 111.5), NEUTRAL),
    # They add up to 240 V within 8 %: 259.2 V at most, 220.8 V at least.
    ("sum, high", HEAT_PUMP, both_legs("supply", 150, 109.3), both_legs("supply", 150, 109.1), NEUTRAL),
    ("sum, low", HEAT_PUMP, both_legs("supply", 150, 70.7), both_legs("supply", 150, 70.9), NEUTRAL),
    # 208, 208 and 192.8 V: a mean of 202.9, and the low one 5 % below it.
    ("pairs", ROOFTOP, pairs(208, 208, 192.9), pairs(208, 208, 192.7), StopKind.LOST_LEG),
    # Fed at all: the best pair has half of 208 V.
    ("fed", ROOFTOP, pairs(103.9, 90, 60), pairs(104.1, 90, 60), StopKind.LOST_LEG),
    # A tenth of its mate's 20 A.
    ("no amps", ROOFTOP, clamped(2.01, 20, 20.1), clamped(1.99, 20, 20.1), StopKind.LOST_LEG),
    # The mates carry a quarter of the smallest motor's plate.
    ("amps", ROOFTOP, clamped(0, 0.249 * PLATE, PLATE), clamped(0, 0.251 * PLATE, PLATE), StopKind.LOST_LEG),
    # One leg 1.6 times all plates behind it, another less than 0.8 of that one.
    ("far over", ROOFTOP, clamped(CARRIED, CARRIED, 1.59 * CARRIED), clamped(CARRIED, CARRIED, 1.61 * CARRIED),
     StopKind.LOST_LEG),
    ("far apart", ROOFTOP, clamped(1.61 * CARRIED, 2 * CARRIED, 1.7 * CARRIED),
     clamped(1.59 * CARRIED, 2 * CARRIED, 1.7 * CARRIED), StopKind.LOST_LEG),
]  # fmt: skip


@pytest.mark.parametrize(("circuit", "below", "above", "kind"), [edge[1:] for edge in EDGES], ids=[e[0] for e in EDGES])
def test_readings_stop_above_their_edge_and_not_below(
    circuit: Circuit, below: list[Reading], above: list[Reading], kind: StopKind
) -> None:
    assert by_readings(circuit, *below) is None
    assert by_readings(circuit, *above) is kind


@pytest.mark.parametrize(
    ("shown", "is_asked"),
    # A fifth of 120 V, nine tenths of it, and 1.07 times.
    [(23.9, False), (24.1, True), (107.9, True), (108.1, False), (128.3, False), (128.5, True)],
)
def test_a_leg_that_strays_is_compared_with_its_mate(shown: float, is_asked: bool) -> None:
    assert bool(confirming(HEAT_PUMP, [volts("L1@whip", "G", shown)], loz=True)) is is_asked


@pytest.mark.parametrize(("secondary", "kind"), [(59.9, StopKind.LINE_ON_CONTROLS), (60.1, None)])
def test_a_secondary_of_sixty_volts_is_no_control_wiring(secondary: float, kind: StopKind | None) -> None:
    parts = [
        part.model_copy(update={"winding": part.winding.model_copy(update={"secondary_volts": secondary})})
        if part.winding is not None
        else part
        for part in HEAT_PUMP.parts
    ]
    circuit = HEAT_PUMP.model_copy(update={"parts": tuple(parts)})
    assert by_readings(circuit, *control(1.7 * secondary)) is kind


# --- what the suspects stop -----------------------------------------------------------------------------------------

HARMLESS = [volts("L1@whip", "L2@whip", 220.0), volts("L1@whip", "L2@whip", 221.0, name="again")]


def shared(circuit: Circuit, readings: list[Reading], **chances: float) -> Stop | None:
    """What is stopped where suspects have these chances, and the rest is spread over what harms nobody."""
    faults = faults_of(circuit)
    by_fault = np.zeros(len(faults))
    harmless = [f for f, fault in enumerate(faults) if not stops_alone(circuit, fault)]
    by_fault[harmless] = (1 - sum(chances.values())) / len(harmless)
    for key, chance in chances.items():
        by_fault[[fault.key for fault in faults].index(key)] = chance
    return stop_for(circuit, faults, by_fault, readings)


def stops_alone(circuit: Circuit, fault: Fault) -> bool:
    return stop_for(circuit, [fault], np.ones(1), HARMLESS) is not None


def test_suspects_warn_from_six_in_ten_and_act_from_nine() -> None:
    crossed = next(fault.key for fault in faults_of(HEAT_PUMP) if fault.kind is FaultKind.CROSSED)

    def at(chance: float) -> Leaves | None:
        stop = shared(HEAT_PUMP, HARMLESS, **{crossed: chance})
        return stop.leaves if stop else None

    assert at(0.599) is None
    assert at(0.601) is Leaves.BRIEF, "warned of, and one more reading is taken"
    assert at(0.899) is Leaves.BRIEF
    assert at(0.901) is Leaves.DEAD


def test_a_service_neutral_that_leads_is_named_from_four_in_ten() -> None:
    readings = [volts("L1@whip", "G", 120.0), volts("L2@whip", "G", 120.0)]
    for chance, stops in ((0.399, False), (0.401, True)):
        assert (shared(HEAT_PUMP, readings, **{"open:supply:N": chance}) is not None) is stops


def test_what_was_likely_before_anything_was_read_stops_nothing() -> None:
    """Half of all that may fail is dangerous there: four times the odds is four in five, not six in ten."""
    faults = faults_of(ROOFTOP)
    at = next(f for f, fault in enumerate(faults) if fault.key == "reversed:branch")
    even = [fault.model_copy(update={"prior": 0.5 if f == at else 1e-9}) for f, fault in enumerate(faults)]
    for chance, stops in ((0.7995, False), (0.8005, True)):
        by_fault = np.zeros(len(faults))
        by_fault[at] = chance
        assert (stop_for(ROOFTOP, even, by_fault, HARMLESS) is not None) is stops


def test_what_still_may_be_read_goes_by_the_danger() -> None:
    """A second supply wants every supply opened, whatever its chance; line voltage on controls wants it dead."""

    def leaves(circuit: Circuit, kind: str, readings: Sequence[Reading] = HARMLESS) -> Leaves:
        fault = next(one for one in faults_of(circuit) if one.key.startswith(kind))
        stop = stop_for(circuit, [fault], np.ones(1), readings)
        assert stop is not None
        return stop.leaves

    assert leaves(HEAT_PUMP, "bridged:") is Leaves.ISOLATED
    assert leaves(HEAT_PUMP, "crossed:") is Leaves.DEAD
    assert leaves(HEAT_PUMP, "open:supply:N") is Leaves.DEAD
    assert leaves(ROOFTOP, "primary_lost:") is Leaves.IDLE
    assert leaves(ROOFTOP, "reversed:") is Leaves.IDLE
    assert leaves(ROOFTOP, "stalled:") is Leaves.BRIEF
    assert leaves(ROOFTOP, "resistive:breaker:L2") is Leaves.BRIEF
    assert leaves(ROOFTOP, "open:breaker:L2") is Leaves.IDLE
    assert leaves(ROOFTOP, "load_open:compressor:") is Leaves.IDLE
    # A poor leg ahead of the panel is not told from the neutral, where the other leg is not in this circuit.
    assert leaves(FURNACE, "resistive:supply:L1", [volts("L1@breaker", "G", 119.0)]) is Leaves.DEAD
