"""What keeps a hand or a verdict safe, each by a case that fails without it."""

from dataclasses import replace

import numpy as np
import pytest
from benchmarks.diagnosis.world import World

from zesty_copper.core.circuit.hands import FREE
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import dead_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.infer.posterior import weigh
from zesty_copper.core.diagnosis.infer.weighed import Weighed, weigh_job
from zesty_copper.core.diagnosis.model.answer import Standing, Stop
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan.effort import effort_minutes, efforts
from zesty_copper.core.diagnosis.plan.information import levelled
from zesty_copper.core.diagnosis.plan.particles import particles_of
from zesty_copper.core.diagnosis.plan.standing import first_standing
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.predict.nuisance import Dimension
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.diagnosis.safety.stops import permits
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.danger import Leaves, StopKind
from zesty_copper.core.faults.families.joints import least_ohm
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, Reading

from tests.core.told import CONDENSER, amps, answer, ohms, seen, spot, volts  # isort: skip


def row_of(compiled: CompiledCircuit, key: str) -> int:
    """Row of a fault."""
    return int(compiled.row[[fault.key for fault in compiled.faults].index(key)])


# --- what convicts --------------------------------------------------------------------------------------------------


def convinced(*, by_eye: bool = False, by_one: bool = False) -> tuple[Weighed, Job]:
    """Good numbers on the condenser, and a fuse made all but certain: by all of them, by eyes, or by one number."""
    readings = (*spot("whip", 238.0, 119.0, 119.0), amps("L1", "whip", 17.0), amps("L2", "whip", 17.0))
    job = Job(circuit=CONDENSER, readings=readings, scope=Scope(panel_may_be_opened=True))
    weighed = weigh_job(job)
    place = int(weighed.compiled.place[[fault.key for fault in weighed.compiled.faults].index("resistive:fuse:L1")])
    ratio = np.where(weighed.compiled.place == place, 12.0, 0.0)
    weight = weighed.posterior.weight * np.exp(ratio)[:, None]
    total = weight.sum() + weighed.posterior.unlisted
    log_without = weighed.posterior.log_without + ratio[:, None, None]
    if by_one:
        log_without[..., 3] = weighed.posterior.log_without[..., 3]
    posterior = replace(
        weighed.posterior, weight=weight / total, unlisted=weighed.posterior.unlisted / total, log_without=log_without
    )
    by_fault = posterior.weight.sum(axis=1)
    places = np.bincount(weighed.compiled.place, by_fault).astype(float)
    assert places[place] > 0.98
    seen_ratio = ratio if by_eye else 0 * ratio
    return replace(weighed, posterior=posterior, by_fault=by_fault, places=places, log_inspection_ratio=seen_ratio), job


def test_neither_a_look_nor_one_number_convicts_alone() -> None:
    assert first_standing(*convinced(), None) is Standing.SURE, "all of them together do"
    assert first_standing(*convinced(by_eye=True), None) is Standing.OPEN
    assert first_standing(*convinced(by_one=True), None) is Standing.OPEN


def test_without_a_reading_the_unknowns_are_as_the_others_leave_them() -> None:
    """One voltage is high: without it the supply is no longer thought high."""
    compiled = compile_circuit(CONDENSER)
    posterior = weigh(compiled, [volts("L1@whip", "L2@whip", 246.0)])
    fault, sample = np.flatnonzero(compiled.row == compiled.healthy)[:1], np.array([3])
    whole, rest = (one.unknowns_at(fault, sample)[0][0, Dimension.LEVEL] for one in (posterior, posterior.without(0)))
    assert whole > 0.5
    assert rest == pytest.approx(0)


def test_two_faults_at_once_are_found_where_no_single_one_explains() -> None:
    """Volts lost across two joints far apart, in a circuit that has both."""
    faults = {fault.key: fault for fault in faults_of(CONDENSER)}
    truth = ("resistive:fuse:L1", "resistive:load_lug:L2")
    world = World(CONDENSER, [faults[key] for key in truth], np.random.default_rng(3))
    world.fault_share = 0.2
    asked = [volts("L1@clip_line", "L1@fuse", 0), volts("L2@stab_out", "L2@load_lug", 0)]
    asked += [*spot("whip", 0, 0, 0), *spot("line_lug", 0, 0, 0), amps("L1", "whip", 0)]
    readings = [
        one.model_copy(update={"id": f"{i}", "value": world.read(one.measurement)}) for i, one in enumerate(asked)
    ]
    diagnosis = answer(*readings, panel=True)
    assert diagnosis.suspects[0].kind is FaultKind.TWO_AT_ONCE, diagnosis.verdict.words
    assert all(key in diagnosis.suspects[0].key for key in truth)


# --- dead means dead ------------------------------------------------------------------------------------------------


def test_dead_asks_for_an_open_pole_on_every_leg_by_a_hand() -> None:
    """A one-pole contactor, and a thermostat, leave a leg live behind them: neither is a lock-out."""
    circuit = ready_made()["heat_pump"]
    one_pole = circuit.part("contactor")
    load = circuit.part("compressor")
    assert circuit.lanes_of(one_pole) != circuit.lanes_of(circuit.feed(one_pole))
    assert one_pole.switch is not None
    assert not circuit.is_dead(load, frozenset({one_pole.switch}))
    called = {
        s.id for s in circuit.by_hand if all(p.entry.moved_by != "hand" for p in circuit.series if p.switch == s.id)
    }
    assert called
    assert not circuit.is_dead(load, frozenset(called))
    assert [circuit.is_dead(load, state) for state in dead_states(circuit)] == [True, False], "each supply its own"


def test_one_pole_of_a_hand_switch_is_no_lock_out() -> None:
    """A disconnect that opens one leg alone leaves the other live."""
    load = CONDENSER.loads[0]
    assert CONDENSER.is_dead(load, frozenset({"disconnect"}))
    assert not CONDENSER.is_dead(load, frozenset({"contactor"})), "a call may come back at any moment"
    parts = [
        part.model_copy(update={"lanes": ("L1",)}) if part.switch == "disconnect" else part for part in CONDENSER.parts
    ]
    lame = CONDENSER.model_copy(update={"parts": tuple(parts)})
    assert not lame.is_dead(lame.loads[0], frozenset({"disconnect"}))
    assert lame.is_dead(lame.loads[0], frozenset({"disconnect", "breaker"}))


def test_isolated_means_every_supply_opened() -> None:
    circuit = ready_made()["heat_pump"]
    stop = Stop(
        kind=StopKind.SECOND_SUPPLY,
        suspect=None,
        probability=None,
        title="",
        words="",
        clears="",
        leaves=Leaves.ISOLATED,
        readings=(),
    )
    place = Between(a=Point("L1@whip"), b=GROUND)
    measurement = Measurement(place=place, open_switches=frozenset({"breaker"}))
    both = Measurement(place=place, open_switches=frozenset({"breaker", "indoor_breaker"}))
    assert not permits(circuit, stop, measurement)
    assert permits(circuit, stop, both)


# --- what a test costs ----------------------------------------------------------------------------------------------


def test_locking_out_and_walking_have_their_price() -> None:
    opened = frozenset({"contactor", "disconnect"})
    locked, live = (
        ohms("L1@whip", "L2@whip", 0, *opened).measurement,
        volts("L1@whip", "L2@whip", 0, *opened).measurement,
    )
    first = effort_minutes(CONDENSER, Zone.UNIT, (opened, FREE), ["ohm"], live)
    again = effort_minutes(CONDENSER, Zone.UNIT, (opened, FREE), ["ohm"], locked)
    assert first == pytest.approx(again + efforts().lock)
    here, there = (effort_minutes(CONDENSER, zone, (opened, FREE), ["V"], live) for zone in (Zone.UNIT, Zone.PANEL))
    assert there == pytest.approx(here + efforts().reach[Zone.PANEL])


def test_what_floats_under_one_suspect_is_as_unsteady_under_all() -> None:
    compiled = compile_circuit(CONDENSER)
    particles = particles_of(compiled, weigh(compiled, []))
    wander = np.zeros((len(particles.weight), 2))
    wander[particles.weight.cumsum() < 0.3, 0] = 20.0
    found = levelled(wander, particles)
    assert found[:, 0].min() == pytest.approx(0.5), "half a volt is picked up anyway"
    assert not found[:, 1].any()


# --- what moves by itself -------------------------------------------------------------------------------------------


def test_a_motor_stands_where_a_joint_leaves_it_too_few_volts() -> None:
    compiled = compile_circuit(CONDENSER)
    does = predict(compiled, Measurement(place=Watching(part="compressor"))).value[
        row_of(compiled, "resistive:supply:L1")
    ]
    along = does[np.argsort(compiled.nuisance.fault_quantile)]
    assert along[0] == 1, "a little resistance it bears"
    assert 0.2 < (along == 2).mean() < 0.8, "more brings it to a stand, humming"


def test_a_coil_that_is_in_holds_on_to_less_than_it_needs_to_pull_in() -> None:
    compiled = compile_circuit(ready_made()["packaged_208"])
    chatters = state_of(compiled, frozenset()).chatters[row_of(compiled, "resistive:branch:L1")]
    assert 0.1 < chatters.mean() < 0.4
    heater = compile_circuit(ready_made()["duct_heater"])
    assert not state_of(heater, frozenset()).chatters.any(), "its heat pulls the volts down, and the contactor stays in"


def test_a_welded_contact_stays_in_whoever_drops_the_call() -> None:
    compiled = compile_circuit(CONDENSER)
    behind = predict(compiled, volts("L1@contactor", "L2@contactor", 0, "contactor").measurement).value
    assert behind[row_of(compiled, "welded:contactor")].min() > 200
    assert behind[compiled.healthy].max() < 30


def test_the_least_of_a_poor_joint_is_what_brings_a_call() -> None:
    """A milliohm loses nothing a coil's half amp would miss; behind a big load a twentieth of an ohm does."""
    circuit = ready_made()["heat_pump"]
    control = next(part for part in circuit.series if circuit.root(part).winding is not None)
    assert least_ohm(circuit, control) >= 1.0
    fan = next(load for load in circuit.loads if load.load is not None and load.load.rated_amps < 3)
    assert least_ohm(circuit, fan) > 0.1


def test_some_breaks_leak_and_some_are_clean() -> None:
    """Ohms across a blown fuse: beyond the meter where the gap is clean, thousands where it is charred."""
    compiled = compile_circuit(CONDENSER)
    across = ohms("L1@clip_line", "L1@fuse", 0, "contactor", "disconnect").measurement
    shown = predict(compiled, across).value[row_of(compiled, "open:fuse:L1")]
    assert (shown == shown.max()).mean() == pytest.approx(0.5, abs=0.2)
    assert np.exp(shown.min()) < 1e6


# --- guards ---------------------------------------------------------------------------------------------------------


def slips(*readings: Reading, panel: bool = True) -> set[str]:
    """The slips that are warned of."""
    return {guard.slip.value for guard in answer(*readings, panel=panel).guards}


def test_guards_warn_of_what_a_number_may_not_be_taken_for() -> None:
    ghost = [
        volts("L1@whip", "G", 61.0, "contactor", "disconnect"),
        volts("L2@whip", "G", 58.0, "contactor", "disconnect"),
    ]
    assert "ghost" in slips(*ghost)
    idle = volts("L1@clip_line", "L1@fuse", 0.0, "contactor")
    assert "no_current" in slips(*spot("line_lug", 240.0, 120.0, 120.0, "contactor"), idle)
    alike = [volts("L1@whip", "G", 121.0), volts("L2@whip", "G", 121.0), volts("L1@whip", "L2@whip", 0.4)]
    assert "load_connected" in slips(*alike)
    jaws = Reading(id="both", measurement=Measurement(place=Around(leg="L1", part="whip")), value=0.2, unit="A")
    assert "two_in_jaws" in slips(*spot("whip", 240.0, 120.0, 120.0), amps("L1", CONDENSER.loads[0].id, 16.0), jaws)


def test_told_signs_and_numbers_are_kept_apart() -> None:
    """A hum that is told never adds to a leg's loss as a number would."""
    diagnosis = answer(*spot("whip", 240.0, 120.0, 120.0), looks=[seen("hums")])
    assert diagnosis.stop is None
