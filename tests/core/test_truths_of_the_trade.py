"""Calls that nobody here made up: readings worked by hand, and what must come of them (common practice, no source)."""

import pytest
from tests.core.told import LO_Z, PULLED, amps, answer, chance, ohms, spot, volts

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.faults.danger import StopKind
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import Tool

PUMP, ROOFTOP, PACKAGED = (ready_made()[key] for key in ("heat_pump", "rooftop_208", "packaged_208"))


def on_leg(found: Diagnosis, leg: str) -> float:
    """Sum of what accuses one leg."""
    return sum(s.probability for s in found.suspects if s.leg == leg)


def watched(part: str, value: float) -> Reading:
    """Say what a load or a contactor is seen to do."""
    return Reading(id=f"watch {part}", measurement=Measurement(place=Watching(part=part)), value=value, unit="run")


@pytest.mark.parametrize(("first", "second"), [(34.0, 12.0), (6.0, 41.0), (52.0, 48.0), (0.4, 0.2)])
def test_a_dead_run_beside_live_wires_is_dead_once_loz_has_spoken(first: float, second: float) -> None:
    """Volts on 10 MΩ that differ by conductor and fall away on 3 kΩ come from a neighbour, whatever they are."""
    ghosts = [volts("L1@line_lug", "G", first, *PULLED), volts("L2@line_lug", "G", second, *PULLED)]
    loaded = [
        volts("L1@line_lug", "G", 0.1, *PULLED, meter=LO_Z),
        volts("L2@line_lug", "G", 0.2, *PULLED, meter=LO_Z),
    ]
    diagnosis = answer(*ghosts, *loaded)
    assert chance(diagnosis, "not_closed:breaker", "supply_dead", "short:", "load_ground:") > 0.9
    assert chance(diagnosis, "none_of_these") < 0.05
    assert chance(diagnosis, "open:supply:N", "resistive:supply:N") < 0.01


@pytest.mark.parametrize("secondary", [22.4, 25.5, 28.6])
def test_a_24_volt_side_of_22_to_29_volts_is_healthy_and_a_coil_that_holds_at_it_too(secondary: float) -> None:
    diagnosis = answer(
        volts("L1@whip", "L2@whip", 211.0),
        volts("R@transformer", "C@transformer", secondary),
        watched("contactor", 1.0),
        watched("compressor", 1.0),
        circuit=PACKAGED,
        tools=frozenset({Tool.EYES, Tool.LOZ}),
    )
    control = [s for s in diagnosis.suspects if s.part in ("transformer", "coil", "thermostat", "low_pressure")]
    nothing = chance(diagnosis, "nothing_wrong")
    assert all(s.probability < 2 * nothing for s in control), [(s.key, s.probability) for s in control[:3]]
    assert diagnosis.stop is None


@pytest.mark.parametrize("site", ["Y@thermostat", "Y@high_pressure", "R@transformer"])
def test_line_voltage_is_found_on_any_control_conductor_behind_an_open_thermostat_too(site: str) -> None:
    """118 V to ground in LoZ, the thermostat not calling; 24 V side floating."""
    lane, _, part = site.partition("@")
    diagnosis = answer(
        volts(site, "G", 118.5, "call", meter=LO_Z),
        volts(site, "G", 119.0, "call", meter=LO_Z, name="again"),
        circuit=PUMP,
    )
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.LINE_ON_CONTROLS
    crossed = [s for s in diagnosis.suspects if s.key.startswith("crossed:")]
    assert sum(s.probability for s in crossed) > 0.9
    here = sum(s.probability for s in crossed if (s.leg or "").endswith(f"-{lane}"))
    assert here > 0.4, f"what has crossed onto {lane} at the {part} is among the leading"


LOST = {
    # √3 of the others' running amps, the motor makes most of the lost leg's voltage itself.
    "turning": ([(1, 2, 207.0), (2, 3, 184.0), (3, 1, 181.0)], (33.0, 33.5, 0.1)),
    # Standing, its star point lies midway between the two legs, and so does the lost terminal: 104 V to either.
    "standing": ([(1, 2, 204.0), (2, 3, 103.0), (3, 1, 101.0)], (118.0, 119.0, 0.0)),
    # Off on its own protector: nothing ties the leg, and LoZ holds it at ground: the phase voltage.
    "off": ([(1, 2, 209.0), (2, 3, 120.0), (3, 1, 121.0)], (0.5, 0.5, 0.0)),
}


@pytest.mark.parametrize("way", LOST)
def test_a_lost_leg_is_convicted_however_the_motor_takes_it(way: str) -> None:
    pairs, currents = LOST[way]
    meter = {"meter": LO_Z} if way == "off" else {}
    between = [volts(f"L{a}@whip", f"L{b}@whip", value, **meter) for a, b, value in pairs]
    found = answer(*between, circuit=ROOFTOP)
    assert found.stop is not None, "the pairs alone stop the motor"
    clamped = [amps(f"L{i}", "whip", value) for i, value in enumerate(currents, 1)]
    diagnosis = answer(*between, *clamped, circuit=ROOFTOP)
    assert diagnosis.stop is not None
    assert on_leg(diagnosis, "L3") > 0.9, [(s.key, round(s.probability, 3)) for s in diagnosis.suspects[:5]]


def test_a_few_volts_may_be_left_between_a_collapsed_pair() -> None:
    """A phase lost on the primary: 181, 12 and 176 V, called or not."""
    pairs = [(1, 2, 181.0), (2, 3, 12.0), (3, 1, 176.0)]
    diagnosis = answer(*(volts(f"L{a}@whip", f"L{b}@whip", value, "call") for a, b, value in pairs), circuit=ROOFTOP)
    assert chance(diagnosis, "primary_lost:L1") > 0.6
    assert diagnosis.suspects[0].key == "primary_lost:L1"
    assert diagnosis.stop is not None


def test_a_single_phase_motor_on_too_few_volts_stands_and_the_joint_is_blamed_not_the_motor() -> None:
    """A joint of 2.42 Ω on L2 ahead of a motor that stands: 230 V, 93 A locked, hence 2.47 Ω at 60°, 1.23 + j2.14.

    |2.42 + 1.23 + j2.14| = 4.23 Ω: 57 A at −30.4° of 241 V, and 141 V left. On the joint 138 V at that angle, so L2 has
    −120.5 + 138∠−30.4° = −1.5 − j69.8: 70 V to ground.
    """
    diagnosis = answer(
        *spot("whip", 141.0, 120.9, 70.0),
        watched("compressor", 2.0),
        amps("L1", "whip", 57.0),
        tools=frozenset({Tool.EYES, Tool.LOZ}),
    )
    assert on_leg(diagnosis, "L2") > 0.9
    assert chance(diagnosis, "stalled") < 0.05


def test_both_fuses_blown_are_two_faults_or_a_fuse_and_the_short_that_blew_the_other() -> None:
    """120 V ahead of either fuse and nothing behind, OL across both out of the box: no one fault does that."""
    out = ("breaker", "contactor", "disconnect")
    diagnosis = answer(
        *spot("clip_line", 241.0, 120.5, 120.4),
        *(volts(f"{leg}@fuse", "G", 0.2, meter=LO_Z) for leg in ("L1", "L2")),
        volts("L1@fuse", "L2@fuse", 0.1, meter=LO_Z),
        *(ohms(f"{leg}@clip_line", f"{leg}@fuse", OHM_LIMIT, *out) for leg in ("L1", "L2")),
        tools=frozenset({Tool.LOZ, Tool.OHMS}),
    )
    leading = diagnosis.suspects[:5]
    assert all("+" in suspect.key and "open:fuse:" in suspect.key for suspect in leading)
    assert diagnosis.verdict.standing is Standing.OPEN
    assert diagnosis.next_test is not None
    assert {m.unit for m in diagnosis.next_test.measurements} == {"ohm"}, (
        "the short is looked for dead, before a new fuse"
    )
