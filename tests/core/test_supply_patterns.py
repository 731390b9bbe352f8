"""What the trade reads on every supply, load and control, and what it means.

Each row is told twice: a circuit with the fault, of the benchmark's own physics, must read as the trade knows it
(common practice, no source), and the engine must name the fault, or not, from those readings.
"""

from dataclasses import dataclass

import numpy as np
import pytest
from benchmarks.diagnosis.world import World
from tests.core.told import LO_Z, answer, chance

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.danger import StopKind
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.sequence import Turning
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import MeterMode


@dataclass
class Bench:
    """A circuit with a fault, and a meter."""

    circuit: Circuit
    world: World

    def volts(self, a: str, b: str, *open_switches: str, meter: MeterMode = MeterMode.HI_Z) -> Reading:
        """Read volts."""
        return self._read(
            Measurement(place=Between(a=Point(a), b=Point(b)), meter=meter, open_switches=frozenset(open_switches))
        )

    def amps(self, part: str, *lanes: str) -> Reading:
        """Read amps, all closed."""
        return self._read(Measurement(place=Around(leg=lanes[0], part=part, also=lanes[1:])))

    def turning(self, part: str) -> Reading:
        """Read the phase sequence, all closed."""
        return self._read(Measurement(place=Turning(part=part)))

    def _read(self, measurement: Measurement) -> Reading:
        value = self.world.read(measurement)
        return Reading(id=str(hash(measurement))[:40], measurement=measurement, value=value, unit=measurement.unit)

    def says(self, *readings: Reading) -> Diagnosis:
        """Diagnose."""
        return answer(*readings, circuit=self.circuit, panel=True)


def bench(circuit: str | Circuit, fault: str, seed: int = 4) -> Bench:
    """Put a fault into a circuit, or a ready-made one."""
    made = ready_made()[circuit] if isinstance(circuit, str) else circuit
    truth = next(one for one in faults_of(made) if one.key == fault)
    return Bench(made, World(made, truth, np.random.default_rng(seed)))


def with_floating_secondary(key: str) -> Circuit:
    """A ready-made circuit whose control transformer is not grounded."""
    circuit = ready_made()[key]
    plate = circuit.part("transformer").winding
    assert plate is not None
    loose = circuit.part("transformer").model_copy(
        update={"winding": plate.model_copy(update={"secondary_grounded": False})}
    )
    return circuit.model_copy(update={"parts": tuple(loose if p.id == loose.id else p for p in circuit.parts)})


def about(reading: Reading, value: float, share: float = 0.08) -> bool:
    """Whether it reads about so much; and within some volts near nothing."""
    return abs(reading.value - value) <= max(share * value, 5.0)


@pytest.mark.parametrize(
    ("key", "spot", "pairs", "to_ground"),
    [
        ("furnace_120", "tail", {"L1 N": 120}, {"L1": 120, "N": 0}),
        ("condenser_fused", "whip", {"L1 L2": 240}, {"L1": 120, "L2": 120}),
        ("packaged_208", "whip", {"L1 L2": 208}, {"L1": 120, "L2": 120}),
        ("rooftop_208", "whip", {"L1 L2": 208, "L2 L3": 208, "L3 L1": 208}, {"L1": 120, "L2": 120, "L3": 120}),
        ("condenser_high_leg", "whip", {"L1 L2": 240, "L2 L3": 240, "L3 L1": 240}, {"L1": 120, "L2": 208, "L3": 120}),
        ("heater_corner", "whip", {"L1 L2": 240, "L2 L3": 240, "L3 L1": 240}, {"L1": 240, "L2": 240, "L3": 0}),
        ("rooftop_480", "whip", {"L1 L2": 480, "L2 L3": 480, "L3 L1": 480}, {"L1": 277, "L2": 277, "L3": 277}),
        ("through_wall", "plug", {"L1 N": 277}, {"L1": 277, "N": 0}),
    ],
)
def test_a_healthy_supply_reads_as_its_system_says(
    key: str, spot: str, pairs: dict[str, float], to_ground: dict[str, float]
) -> None:
    healthy = bench(key, "nothing_wrong")
    between = [healthy.volts(*(f"{lane}@{spot}" for lane in pair.split())) for pair in pairs]
    ground = [healthy.volts(f"{lane}@{spot}", "G") for lane in to_ground]
    assert all(about(r, v) for r, v in zip(between, pairs.values(), strict=True)), [r.value for r in between]
    assert all(about(r, v) for r, v in zip(ground, to_ground.values(), strict=True)), [r.value for r in ground]
    diagnosis = healthy.says(*between, *ground)
    assert chance(diagnosis, "supply_low", "supply_dead", "same_leg", "primary_lost", "wrong_supply", "high_leg") < 0.03
    assert chance(diagnosis, "none_of_these") < 0.1


def test_an_ungrounded_delta_has_right_pairs_and_nothing_firm_to_ground() -> None:
    healthy = bench("condenser_ungrounded", "nothing_wrong")
    assert about(healthy.volts("L1@whip", "L2@whip"), 240)
    # Only capacitance holds it: the low-impedance meter pulls it down.
    assert healthy.volts("L1@whip", "G", meter=LO_Z).value < 0.5 * healthy.volts("L1@whip", "G").value
    # A first ground stops nothing and trips nothing: the other legs rise to line voltage.
    grounded = bench("condenser_ungrounded", "short:whip:L2-G")
    readings = [grounded.volts(f"{leg}@whip", "G") for leg in ("L1", "L2", "L3")]
    assert [about(r, v) for r, v in zip(readings, (240, 0, 240), strict=True)] == [True] * 3
    pieces = ("short:branch:L2-G", "short:whip:L2-G", "short:contactor:L2-G", "load_ground", "leak:")
    assert chance(grounded.says(*readings), *pieces) > 0.9


def test_line_to_neutral_unequal_and_adding_up_is_the_service_neutral() -> None:
    house = bench("heat_pump", "open:supply:N")
    readings = [
        house.volts("L1@supply", "N@supply"),
        house.volts("L2@supply", "N@supply"),
        house.volts("L1@whip", "L2@whip"),
    ]
    first, second, both = (r.value for r in readings)
    assert abs(first - second) > 30
    assert first + second == pytest.approx(both, rel=0.03)
    diagnosis = house.says(*readings)
    assert chance(diagnosis, "open:supply:N", "resistive:supply:N", "intermittent:supply:N") > 0.95
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.SERVICE_NEUTRAL


def test_an_open_pole_shows_087_of_line_voltage_on_a_static_load_and_little_while_a_motor_spins() -> None:
    static = bench("duct_heater", "open:contactor:L2")
    across = static.volts("L2@fuse", "L2@contactor")
    assert about(across, 0.87 * 480)
    again = static.amps("whip", "L2")
    assert again.value < 1
    assert static.says(across, again).suspects[0].key == "open:contactor:L2"
    assert chance(static.says(across, again), "open:contactor:L2", "intermittent:contactor:L2") > 0.8
    spinning = next(
        b for b in (bench("rooftop_480", "open:contactor:L2", seed) for seed in range(9)) if b.world.spins_on
    )
    assert spinning.volts("L2@block", "L2@contactor").value < 0.3 * 480


def test_a_lost_leg_is_the_one_common_to_the_low_pairs_and_its_amps_are_gone() -> None:
    unit = bench("rooftop_208", "open:blade:L3")
    pairs = [unit.volts(a, b) for a, b in (("L1@whip", "L2@whip"), ("L2@whip", "L3@whip"), ("L3@whip", "L1@whip"))]
    right, low, other = (r.value for r in pairs)
    assert right > 1.04 * max(low, other)
    amps = [unit.amps("whip", leg) for leg in ("L1", "L2", "L3")]
    assert amps[2].value < 1
    assert min(amps[0].value, amps[1].value) > 20
    diagnosis = unit.says(*pairs, *amps)
    assert sum(s.probability for s in diagnosis.suspects if s.leg == "L3") > 0.9


def test_87_87_and_0_is_a_phase_lost_on_the_primary() -> None:
    shop = bench("rooftop_208", "primary_lost:L1")
    readings = [
        shop.volts(a, b, "call") for a, b in (("L1@whip", "L2@whip"), ("L2@whip", "L3@whip"), ("L3@whip", "L1@whip"))
    ]
    assert [about(r, v) for r, v in zip(readings, (180, 0, 180), strict=True)] == [True] * 3
    diagnosis = shop.says(*readings)
    assert diagnosis.verdict.suspects[0] == "primary_lost:L1"
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.PHASE_LOST


@pytest.mark.parametrize("seed", [4, 11])
def test_a_lost_service_neutral_of_120_v_is_never_taken_for_a_poor_leg(seed: int) -> None:
    """The ground goes up with the neutral, so a poor leg reads alike; a dead stretch strays no more for it."""
    furnace = bench("furnace_120", "open:supply:N", seed)
    furnace.world.beside = {}
    at_rest = ("service", "call", "door")
    readings = [
        furnace.volts("L1@tail", "G"),
        furnace.volts("L1@branch", "N@branch"),
        furnace.volts("L1@branch", "G", *at_rest),
        furnace.volts("L1@service", "N@branch", *at_rest),
        furnace.volts("N@splice", "L1@service", *at_rest),
    ]
    assert about(readings[3], 0), "no ghost on a dead stretch"
    diagnosis = furnace.says(*readings)
    assert chance(diagnosis, "open:supply:N", "resistive:supply:N", "intermittent:supply:N") > 0.5
    assert diagnosis.verdict.part != "supply" or diagnosis.verdict.leg == "N"
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.SERVICE_NEUTRAL


def test_low_to_neutral_and_good_to_ground_is_an_open_neutral() -> None:
    cellar = bench("furnace_120", "open:splice:N")
    readings = [cellar.volts("L1@door", "N@tail"), cellar.volts("L1@door", "G"), cellar.volts("N@tail", "G")]
    assert readings[0].value < 20
    assert about(readings[1], 120)
    assert about(readings[2], 120, 0.12), "while a load is connected the dead end of the neutral is live"
    diagnosis = cellar.says(*readings)
    assert sum(s.probability for s in diagnosis.suspects if s.leg == "N") > 0.95


def test_line_voltage_on_a_control_terminal_stays_on_the_low_impedance_meter_only_if_it_has_crossed() -> None:
    floating = with_floating_secondary("packaged_208")
    crossed, clean = bench(floating, "crossed:transformer:L1-R"), bench(floating, "nothing_wrong")
    # An ungrounded secondary floats as high on the usual meter; only what is joined stays on the other.
    assert about(crossed.volts("R@transformer", "G", meter=LO_Z), 120)
    assert clean.volts("R@transformer", "G", meter=LO_Z).value < 30
    stays = crossed.says(crossed.volts("R@transformer", "G", meter=LO_Z), crossed.volts("R@transformer", "L1@whip"))
    assert chance(stays, "crossed:transformer:L1-", "crossed:thermostat:L1-", "crossed:low_pressure:L1-") > 0.95
    assert chance(clean.says(clean.volts("R@transformer", "G", meter=LO_Z)), "crossed:") < 0.05
    # With a grounded secondary a furnace's 15 A breaker opens; a larger one may let the transformer burn instead.
    small = next(f for f in faults_of(ready_made()["furnace_120"]) if f.key == "crossed:transformer:L1-R")
    assert small.tripped == "breaker"


def test_a_sagging_leg_starves_the_control_transformer_and_the_contactor_chatters() -> None:
    compiled = compile_circuit(ready_made()["packaged_208"])
    row = compiled.row[[fault.key for fault in compiled.faults].index("resistive:branch:L1")]
    chatters = state_of(compiled, frozenset()).chatters[row]
    assert chatters.any(), "in some samples it pulls in, sags, lets go, and pulls in again"
    assert not chatters.all()
    healthy = state_of(compiled, frozenset()).chatters[compiled.healthy]
    assert not healthy.any()


def test_what_chatters_is_read_in_or_out_and_both_are_believed() -> None:
    cellar = bench("furnace_120", "resistive:splice:N", seed=3)
    cellar.world.fault_share = 0.6
    asked = [("L1@door", "N@tail"), ("L1@door", "G"), ("N@tail", "G")] * 5
    readings = [cellar.volts(a, b).model_copy(update={"id": f"{i}"}) for i, (a, b) in enumerate(asked)]
    first = [reading.value for reading in readings[::3]]
    assert max(first) - min(first) > 20, "the relay pulls in, starves itself, and lets go"
    diagnosis = cellar.says(*readings)
    assert sum(s.probability for s in diagnosis.suspects if s.leg == "N") > 0.9
    assert chance(diagnosis, "none_of_these") < 0.01


def test_line_voltage_through_an_idle_contact_is_there_only_while_the_contactor_is_out() -> None:
    floating = with_floating_secondary("packaged_208")
    unit = bench(floating, "crossed:idle_contact:L1")
    idle = unit.volts("R@transformer", "G", "call", meter=LO_Z)
    called = unit.volts("R@transformer", "G", meter=LO_Z)
    assert about(idle, 120)
    assert called.value < 0.8 * idle.value, "what is left comes through the crankcase heater from the other leg"
    diagnosis = unit.says(idle, called)
    assert chance(diagnosis, "crossed:idle_contact:L1") > 0.9
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.LINE_ON_CONTROLS


def test_reversed_rotation_shows_on_the_sequence_meter_and_on_no_other() -> None:
    roof = bench("rooftop_208", "reversed:branch")
    legs = [roof.volts(f"{leg}@whip", "G") for leg in ("L1", "L2", "L3")]
    amps = [roof.amps("compressor", leg) for leg in ("L1", "L2", "L3")]
    assert all(about(reading, 120) for reading in legs)
    untold = roof.says(*legs, *amps)
    assert chance(untold, "reversed:") > 0.01, "volts and amps neither speak for it nor against it"
    turning = [roof.turning(part) for part in ("whip", "branch", "feeder")]
    assert [reading.value for reading in turning] == [-1, -1, 1]
    diagnosis = roof.says(*legs, *amps, *turning)
    assert chance(diagnosis, "reversed:branch") > 0.9
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.REVERSED
    lost = bench("rooftop_208", "open:breaker:L2")
    assert lost.turning("branch").value == 0, "on two legs nothing turns"


def test_a_lost_leg_drops_the_contactor_that_hangs_on_it() -> None:
    unit = bench("packaged_208", "open:blade:L1")
    assert unit.amps("whip", "L2").value < 0.5
    assert unit.volts("R@transformer", "C@transformer").value < 3
    assert unit.volts("L2@contactor", "G", meter=LO_Z).value < 2, "its poles are out"


def test_a_one_pole_contactor_leaves_a_leg_live() -> None:
    outdoor = bench("heat_pump", "nothing_wrong")
    assert about(outdoor.volts("L1@leads", "G", "call"), 120)
    # The other side of the windings hangs on them: live too, though nothing runs.
    assert about(outdoor.volts("L2@leads", "G", "call"), 120)
    assert outdoor.amps("leads", "L1").value > 5


def test_amps_far_under_plate_are_a_missing_stage_and_amps_that_stay_at_locked_rotor_are_a_stalled_motor() -> None:
    stage = bench("electric_furnace", "open:limit_2:L1")
    readings = [stage.volts("L1@unit_breaker", "L2@unit_breaker"), stage.amps("branch", "L1")]
    assert 20 < readings[1].value < 30
    diagnosis = stage.says(*readings, stage.volts("L1@sequencer_2", "L1@limit_2"))
    assert diagnosis.suspects[0].key == "open:limit_2:L1"
    assert sum(s.probability for s in diagnosis.suspects if s.place == "limit_2:L1") > 0.95
    stalled = bench("packaged_208", "stalled:compressor")
    amps = stalled.amps("whip", "L1")
    assert amps.value > 70
    diagnosis = stalled.says(amps, stalled.amps("compressor", "L2"), stalled.volts("L1@contactor", "L2@contactor"))
    assert chance(diagnosis, "stalled:compressor") > 0.9
    assert diagnosis.stop is not None
    assert diagnosis.stop.kind is StopKind.STALLED


def test_equipment_landed_on_another_system_and_a_high_leg_on_the_wrong_terminal() -> None:
    wrong = bench("condenser_switch", "wrong_supply")
    readings = [wrong.volts("L1@whip", "L2@whip"), wrong.volts("L1@whip", "G"), wrong.volts("L2@whip", "G")]
    assert [about(r, v) for r, v in zip(readings, (208, 120, 120), strict=True)] == [True] * 3
    assert chance(wrong.says(*readings), "wrong_supply") > 0.9
    swapped = bench("condenser_high_leg", "high_leg:L1")
    readings = [swapped.volts(f"{leg}@whip", "G") for leg in ("L1", "L2", "L3")]
    assert [about(r, v) for r, v in zip(readings, (208, 120, 120), strict=True)] == [True] * 3
    assert chance(swapped.says(*readings), "high_leg:L1") > 0.95


def test_a_wrong_tap_shows_on_the_secondary_and_nowhere_else() -> None:
    unit = bench("packaged_208", "wrong_tap:transformer")
    readings = [unit.volts("L1@whip", "L2@whip", "call"), unit.volts("R@transformer", "C@transformer", "call")]
    assert about(readings[0], 208)
    assert readings[1].value < 24.5
    # 24 V · 208/240 = 20.8 V at full load and up to 8 % more without; 22 V may still be a healthy secondary.
    diagnosis = unit.says(readings[0], readings[1].model_copy(update={"value": 21.7}))
    assert diagnosis.suspects[0].key == "wrong_tap:transformer"
    assert chance(diagnosis, "wrong_tap") > 0.3


def test_all_legs_sagging_alike_under_load_is_the_run_of_wire() -> None:
    unit = bench("rooftop_480", "undersized:branch")
    reading, loaded = unit.volts("L1@whip", "L2@whip", "call"), unit.volts("L1@whip", "L2@whip")
    along = [unit.volts(f"{leg}@breaker", f"{leg}@branch") for leg in ("L1", "L2", "L3")]
    assert reading.value - loaded.value > 3
    assert max(r.value for r in along) < 1.3 * min(r.value for r in along)
    assert chance(unit.says(reading, loaded, *along, unit.amps("compressor", "L1")), "undersized:branch") > 0.9


def test_what_touches_trips_the_nearest_device_and_says_when() -> None:
    said = {fault.key: fault for fault in faults_of(ready_made()["duct_heater"])}
    assert said["short:branch:L1-G"].tripped == "breaker"
    assert said["load_ground:elements"].tripped == "fuse"
    assert said["load_ground:elements"].words.endswith("blows the fuse at once")
    tripped = bench("condenser_switch", "short:whip:L1-G")
    readings = [tripped.volts("L1@whip", "L2@whip"), tripped.volts("L1@breaker", "L2@breaker")]
    diagnosis = tripped.says(*readings, *(tripped.volts(f"{leg}@panel_lug", f"{leg}@breaker") for leg in ("L1", "L2")))
    assert [r.value < 5 for r in readings] == [True, True]
    assert chance(diagnosis, "not_closed:breaker", "short:", "load_ground:") > 0.95, "the hand finds the breaker open"
    assert chance(diagnosis, "short:whip:L1-G") > 0.01, "what tripped it is told beside it"
    assert diagnosis.verdict.standing is not Standing.SURE, "no one of several pieces is told as found"


def test_several_conductors_in_the_jaws_show_their_phasor_sum() -> None:
    healthy, leaking = bench("heat_strip", "nothing_wrong"), bench("heat_strip", "leak:branch:L1-G")
    assert healthy.amps("whip", "L1").value > 15
    assert healthy.amps("branch", "L1", "L2").value < 0.5, "two conductors in the clamp of a good circuit read nothing"
    assert leaking.amps("branch", "L1", "L2").value == pytest.approx(120 / leaking.world.track_ohm, abs=0.5)


def test_a_second_supply_that_is_joined_keeps_the_box_live() -> None:
    box = bench("heat_pump", "bridged:indoor_supply", seed=12)
    live = box.volts("L1@whip", "G", "breaker", "disconnect", "call", meter=LO_Z)
    assert about(live, 120)
    assert box.says(live).suspects[0].kind is FaultKind.BRIDGED
