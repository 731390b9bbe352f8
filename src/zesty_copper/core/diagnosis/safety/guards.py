"""Readings that may not be what they seem though nobody mistyped them, and how to check each.

A slip is named where it would turn a reading that the rest speaks against into one that fits, or where a reading as
such tells less than it seems to.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.parts.catalogue import FailureMode, ShuntModel
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.diagnosis.infer.posterior import Posterior
from zesty_copper.core.diagnosis.model.answer import Guard, Slip
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.network.machines import held_amps
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.tester import Near
from zesty_copper.core.observations.kinds.volts import Volts
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.observations.words import asked_words, state_words, value_words
from zesty_copper.core.words import say

__all__ = ["guards_on", "guards_on_starts"]

CLAMP_ALONE = say("safety.separate_wires_clamp_one")
DOUBTED = 0.3
"""Probability of being wrong from which a reading is looked into."""
FITS = 3.0
"""Deviations within which another way of having read it fits."""
SAME_LEG_SHARE = 0.05
"""Leg to leg below this share of nominal, with both legs good to ground, two faults look the same."""
DRIFT_DEVIATIONS = 3.0
GHOST_SHARE = 0.15
"""Share of a reading by which it may hang on stray coupling before it counts as a ghost."""
CANCELLED_SHARE = 0.1
"""Share of what loads should draw below which two conductors are taken to be in the jaws."""
CLOSES, CLOSES_AMPS = 1.05, 0.3
"""By how much amps of three leads may miss a triangle: three readings of a clamp, and its last digits [A]."""
START_MOST = 1.5
"""Multiple of the held rotor's amps up to which a start may peak: the first half wave is offset; common practice, no
source."""


def guards_on(compiled: CompiledCircuit, posterior: Posterior, readings: Sequence[Reading]) -> tuple[Guard, ...]:
    """Return the slips that a technician should rule out, reading by reading."""
    listed_share = max(1 - posterior.unlisted, 1e-12)
    guards: list[Guard] = []
    for i, reading in enumerate(readings):
        if posterior.outlier[i] / listed_share > DOUBTED:
            guards += _doubted(compiled, posterior, i, reading)
        else:
            guards += _as_such(compiled, posterior, readings, i)
    return (*guards, *_triangles(compiled.circuit, readings))


def _triangles(circuit: Circuit, readings: Sequence[Reading]) -> Iterator[Guard]:
    """Three leads of a compressor: common carries the phasor sum of run and start, so none is more than the others."""
    clamped: dict[tuple[str, object], dict[str, Reading]] = {}
    for reading in readings:
        place = reading.measurement.place
        if not isinstance(place, Around) or place.also:
            continue
        if circuit.part(place.part).entry.model is ShuntModel.SPLIT_PHASE:
            clamped.setdefault((place.part, reading.measurement.state), {})[place.leg] = reading
    for (part, _), leads in clamped.items():
        if len(leads) < 3:
            continue
        *short, longest = sorted(leads.values(), key=lambda lead: lead.value)
        together = sum(each_reading.value for each_reading in short)
        if longest.value > CLOSES * together + CLOSES_AMPS:
            words = say(
                "safety.one_lead_more_than",
                value=value_words(longest.value, "A"),
                name=circuit.part(part).name,
                value_2=value_words(round(together, 1), "A"),
            )
            check = say("safety.two_conductors_were_jaws")
            yield Guard(reading=longest.id, slip=Slip.NO_TRIANGLE, words=words, check=check)


def _guard(compiled: CompiledCircuit, reading: Reading, slip: Slip, words: str, check: str) -> Guard:
    reading_words = f"{value_words(reading.value, reading.unit)}, {asked_words(compiled.circuit, reading.measurement)}"
    return Guard(reading=reading.id, slip=slip, words=f"{reading_words}: {words}", check=check)


def _doubted(compiled: CompiledCircuit, posterior: Posterior, i: int, reading: Reading) -> Iterator[Guard]:
    """Say which slips would make a doubted reading fit, the plainest first."""
    circuit, measurement = compiled.circuit, reading.measurement
    expected = _likeliest(posterior, i)
    if (exact := _slipped_decimal(reading, expected)) is not None:
        words = say("safety.slipped_decimal_would_fit", value=value_words(exact, reading.unit))
        yield _guard(compiled, reading, Slip.DECIMAL, words, say("safety.check_decimal_point_meters"))
        return
    for state in reachable_states(circuit):
        if state == measurement.open_switches or not measurement.observation.is_linear:
            continue
        if not _possible(circuit, measurement, state):
            continue
        in_state = measurement.model_copy(update={"open_switches": state})
        if _would_fit(compiled, posterior, reading, in_state):
            ended = state > measurement.open_switches and _only_calls(circuit, state - measurement.open_switches)
            slip = Slip.CALL_ENDED if ended else Slip.OTHER_STATE
            words = (
                say("safety.call_may_have_ended")
                if ended
                else say("safety.other_state_fits", state=state_words(circuit, in_state))
            )
            yield _guard(
                compiled,
                reading,
                slip,
                words,
                say("safety.look_where_switches_stand"),
            )
            return
    if isinstance(measurement.place, Around):
        for jaw in _others_in_jaws(circuit, measurement.place):
            place = measurement.place.model_copy(update={"also": jaw})
            if _would_fit(compiled, posterior, reading, measurement.model_copy(update={"place": place})):
                words = say("safety.fits_more_than_one")
                yield _guard(compiled, reading, Slip.TWO_IN_JAWS, words, CLAMP_ALONE)
                return
    if reading.is_volts and reading.value < 0.5 * expected:
        words = say("safety.about_would_fit_paint", value=value_words(round(expected), "V"))
        yield _guard(compiled, reading, Slip.POOR_CONTACT, words, say("safety.scratch_bare_metal_move"))


def _as_such(compiled: CompiledCircuit, posterior: Posterior, readings: Sequence[Reading], i: int) -> Iterator[Guard]:
    """Say what a reading that fits should still not be taken for."""
    reading, circuit = readings[i], compiled.circuit
    place, measurement = reading.measurement.place, reading.measurement
    if isinstance(place, Near) and reading.value == 0:
        words = say("safety.silence_never_says_dead")
        yield _guard(compiled, reading, Slip.SILENT_TESTER, words, say("safety.prove_dead_proved_meter"))
    if isinstance(place, Around) and _cancels(circuit, readings, reading):
        words = say("safety.same_conductor_carried_amps")
        yield _guard(compiled, reading, Slip.TWO_IN_JAWS, words, CLAMP_ALONE)
    if not isinstance(place, Between) or not reading.is_volts:
        return
    ghost = _ghost_volts(compiled, posterior, reading)
    if measurement.meter is MeterMode.HI_Z and reading.value > 2 and ghost > GHOST_SHARE * reading.value:
        words = say("safety.may_ghost_floating_conductor")
        yield _guard(compiled, reading, Slip.GHOST, words, say("safety.read_again_loz_load"))
    if _nothing_across(compiled, posterior, reading):
        words = say("safety.nothing_flows_through_state")
        yield _guard(compiled, reading, Slip.NO_CURRENT, words, say("safety.read_unit_calling_drawing"))
    if _both_good(circuit, readings, reading) and not measurement.open_switches:
        words = say("safety.one_open_leg_fed")
        check = say("safety.open_everything_downstream_read")
        yield _guard(compiled, reading, Slip.LOAD_CONNECTED, words, check)
    for earlier in readings[:i]:
        if _drifts(circuit, earlier, reading):
            words = say("safety.differs_from_no_more", value=value_words(earlier.value, "V"))
            check = say("safety.do_not_subtract_two")
            yield _guard(compiled, reading, Slip.DRIFT, words, check)
            return


def _slipped_decimal(reading: Reading, expected: float) -> float | None:
    """Return the number that was meant where a slip of the decimal, or two digits swapped, makes this one of it."""
    numbers = (number for number, _ in reading.measurement.observation.slips(reading.value))
    return next((n for n in numbers if abs(n - expected) < max(0.05 * expected, 1.0)), None)


def _possible(circuit: Circuit, measurement: Measurement, state: frozenset[str]) -> bool:
    place = measurement.place
    points = [p for p in (place.a, place.b) if p != GROUND] if isinstance(place, Between) else []
    return not any(circuit.on_removed_carrier(circuit.split_point(p)[1], state) for p in points)


def _only_calls(circuit: Circuit, switches: frozenset[str]) -> bool:
    moved = [part for part in circuit.series if part.switch in switches]
    return all(part.entry.moved_by == "call" for part in moved)


def _others_in_jaws(circuit: Circuit, place: Around) -> Iterator[tuple[str, ...]]:
    lanes = [lane for lane in circuit.lanes_of(circuit.part(place.part)) if lane not in (GROUND, *place.lanes)]
    for lane in lanes:
        yield (*place.also, lane)
    if len(lanes) > 1:
        yield (*place.also, *lanes)


def _likeliest(posterior: Posterior, i: int) -> float:
    """What a reading should have been under what is likeliest now, on its scale."""
    at = np.unravel_index(posterior.weight.argmax(), posterior.weight.shape)
    return float(posterior.expected[at][i])


def _would_fit(compiled: CompiledCircuit, posterior: Posterior, reading: Reading, measurement: Measurement) -> bool:
    """Whether the number is what another measurement would have shown under what is likeliest now."""
    fault, sample = np.unravel_index(posterior.weight.argmax(), posterior.weight.shape)
    prediction = predict(compiled, measurement)
    row = compiled.row[fault]
    if prediction.wander[row, sample] > GHOST_SHARE * reading.on_scale:
        return False  # a ghost fits anything
    shift, _ = posterior.unknowns_at(np.array([fault]), np.array([sample]))
    value = prediction.value[row, sample] + prediction.slope[row, sample] @ shift[0]
    variance = reading.measurement.observation.noise_variance(np.array(value), prediction.wander[row, sample])
    return bool(abs(reading.on_scale - value) < FITS * float(variance) ** 0.5 + 0.01 * abs(value))


def _ghost_volts(compiled: CompiledCircuit, posterior: Posterior, reading: Reading) -> float:
    """By how much a reading hangs on stray coupling under what is likeliest now [V]."""
    fault, sample = np.unravel_index(posterior.weight.argmax(), posterior.weight.shape)
    return float(predict(compiled, reading.measurement).wander[compiled.row[fault], sample])


def _cancels(circuit: Circuit, readings: Sequence[Reading], reading: Reading) -> bool:
    """Whether a conductor reads next to nothing though elsewhere it carried what loads behind it draw, in one state.

    What counts is what these loads should draw: a small fan's amps are its own, and an element that draws nothing takes
    its amps out of the wire ahead too.
    """
    place = reading.measurement.place
    if not isinstance(place, Around) or place.also or reading.measurement.hands.take_apart:
        return False
    part = circuit.part(place.part)
    due = _plates(circuit, part, place.leg)
    if due < 1.0 or reading.value > CANCELLED_SHARE * due:
        return False
    for other_reading in readings:
        other_place = other_reading.measurement.place
        same_state = other_reading.measurement.state == reading.measurement.state
        if not isinstance(other_place, Around) or other_place.leg != place.leg or other_place.also or not same_state:
            continue
        elsewhere = circuit.part(other_place.part)
        if part in circuit.path(elsewhere):
            if other_reading.value > 1.0:
                return True
        elif elsewhere in circuit.path(part):
            beside = _plates(circuit, elsewhere, place.leg) - due
            if other_reading.value > 1.1 * beside + 0.5 * due:
                return True
    return False


def _plates(circuit: Circuit, part: Part, leg: str) -> float:
    """What the loads on a leg behind a part draw by their plates, or the load itself [A]."""
    behind = [load for load in circuit.loads if part in circuit.path(load) and leg in circuit.lanes_of(load)]
    return sum(load.load.rated_amps for load in behind if load.load is not None)


def guards_on_starts(circuit: Circuit, starts: Sequence[Reading]) -> Iterator[Guard]:
    """Say of amps at a start whether they are such as a start draws: it never says that a motor stands."""
    for reading in starts:
        place = reading.measurement.place
        assert isinstance(place, Around)  # nothing else is read at a start
        part = circuit.part(place.part)
        motors = [load for load in circuit.loads if part in circuit.path(load) and load.load is not None]
        due = sum(held_amps(load.load) for load in motors if load.load and FailureMode.STALL in load.entry.may)
        reading_words = f"{value_words(reading.value, reading.unit)}, {asked_words(circuit, reading.measurement)}"
        if not due:
            continue
        if reading.value <= START_MOST * due:
            words = say("safety.about_are_usual_so", due=due)
            check = say("safety.see_falls_within_second")
        else:
            words = say("safety.more_than_held_rotor", due=due)
            check = say("safety.look_short_seized_motor")
        yield Guard(reading=reading.id, slip=Slip.START, words=f"{reading_words}: {words}", check=check)


def _nothing_across(compiled: CompiledCircuit, posterior: Posterior, reading: Reading) -> bool:
    """Whether a reading across one part is near nothing and no current flows there under what is likeliest now."""
    place, circuit = reading.measurement.place, compiled.circuit
    if not isinstance(place, Between) or GROUND in (place.a, place.b) or reading.value > 1:
        return False
    ends = sorted((circuit.split_point(p) for p in (place.a, place.b)), key=lambda one: circuit.series.index(one[1]))
    (lane, _), (other_lane, part) = ends
    if lane != other_lane or circuit.upstream_point(part, lane) not in (place.a, place.b):
        return False
    fault, sample = np.unravel_index(posterior.weight.argmax(), posterior.weight.shape)
    wires = [p for p in (*circuit.path(part), *circuit.loads) if p.entry.clampable and lane in circuit.lanes_of(p)]
    wire = next((p for p in reversed(wires) if p in circuit.path(part) or part in circuit.path(p)), None)
    if wire is None:
        return False
    around = reading.measurement.model_copy(update={"place": Around(leg=lane, part=wire.id)})
    return bool(predict(compiled, around).value[compiled.row[fault], sample] < 0.2)


def _both_good(circuit: Circuit, readings: Sequence[Reading], reading: Reading) -> bool:
    """Whether leg to leg reads next to nothing and both legs were read good to ground at one place and state."""
    place = reading.measurement.place
    if not isinstance(place, Between) or GROUND in (place.a, place.b):
        return False
    (lane_a, part_a), (lane_b, part_b) = circuit.split_point(place.a), circuit.split_point(place.b)
    if part_a != part_b or NEUTRAL in (lane_a, lane_b) or reading.value > SAME_LEG_SHARE * circuit.highest_volts:
        return False
    both_legs = {frozenset({place.a, GROUND}), frozenset({place.b, GROUND})}
    good = {
        frozenset({each_reading.measurement.place.a, each_reading.measurement.place.b})
        for each_reading in readings
        if isinstance(each_reading.measurement.place, Between)
        and each_reading.measurement.state == reading.measurement.state
        and each_reading.is_volts
        and each_reading.value > 0.4 * circuit.highest_volts
    }
    return both_legs <= good


def _drifts(circuit: Circuit, earlier: Reading, later: Reading) -> bool:
    """Whether two readings on one leg at two places differ by something that drift explains too."""
    if not earlier.is_volts or earlier.measurement.state != later.measurement.state:
        return False
    a, b = earlier.measurement.place, later.measurement.place
    if not isinstance(a, Between) or not isinstance(b, Between) or a == b:
        return False
    if _lanes(a) != _lanes(b) or len(_lanes(a)) < 2 or min(earlier.value, later.value) < 0.3 * circuit.highest_volts:
        return False
    apart = abs(earlier.value - later.value)
    return 0.3 < apart <= DRIFT_DEVIATIONS * Volts.drift * later.value


def _lanes(place: Between) -> frozenset[str]:
    return frozenset(point.lane for point in (place.a, place.b))
