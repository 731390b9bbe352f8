"""Properties that must hold whatever is typed: mirrored legs, reciprocity, passivity, and a history that only grows."""

from uuid import UUID

import numpy as np
import pytest
from benchmarks.diagnosis.score import RUN, Way, world_of
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.told import AT_REST, CONDENSER, LO_Z, PULLED, amps, answer, volts
from tests.network_by_hand import dense_inverse

from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.infer.posterior import weigh
from zesty_copper.core.diagnosis.model.answer import Range
from zesty_copper.core.diagnosis.model.job import Job, Scope
from zesty_copper.core.diagnosis.plan.information import information_bits
from zesty_copper.core.diagnosis.plan.particles import Particles
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import state_of
from zesty_copper.core.network.solve import Solved
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Reading
from zesty_copper.store.records import Action, Entry, fold

POINTS = [point for point in CONDENSER.points() if point.endswith(("@whip", "@line_lug", "@contactor"))]
STATES = [(), AT_REST, PULLED]


SWITCHED = ready_made()["condenser_switch"]
EVEN = SWITCHED.model_copy(
    update={
        "parts": (
            SWITCHED.parts[0].model_copy(update={"lanes": ("L1", "L2")}),
            *(part for part in SWITCHED.parts[1:] if part.kind != "other_load"),
        )
    }
)
"""The same on both legs: a neutral beside one of them is not, nor what else the house draws, nor fuses of which one
blows first."""
ONE_SIDED = ("load_ground", "wrong_supply")
"""Told for one leg alone: a winding is grounded at its first terminal; of another supply's two legs one lags the other,
and swapped it would lead, which stray currents and the meter's own can tell."""


def mirrored(text: str) -> str:
    """The same place on the other leg."""
    return text.replace("L1", "L*").replace("L2", "L1").replace("L*", "L2").replace("L2-L1", "L1-L2")


def mirror(reading: Reading) -> Reading:
    """The same reading with the legs swapped."""
    place = reading.measurement.place
    assert isinstance(place, Between | Around)
    swapped = (
        Between(a=Point(mirrored(place.a)), b=Point(mirrored(place.b)))
        if isinstance(place, Between)
        else Around(leg=mirrored(place.leg), part=place.part)
    )
    return reading.model_copy(update={"measurement": reading.measurement.model_copy(update={"place": swapped})})


@st.composite
def readings(draw: st.DrawFn) -> list[Reading]:
    """Some readings, however odd."""
    found = []
    for i in range(draw(st.integers(1, 4))):
        a, b = draw(st.lists(st.sampled_from(POINTS), min_size=2, max_size=2, unique=True))
        value = draw(st.sampled_from([0.0, 0.3, 33.0, 101.7, 120.6, 222.6, 241.3]))
        found.append(volts(a, b, value, *draw(st.sampled_from(STATES)), name=f"r{i}"))
    return found


@settings(max_examples=25, deadline=None)
@given(readings())
def test_swapping_the_legs_swaps_the_suspects(told: list[Reading]) -> None:
    straight, swapped = (
        {
            s.key: s.probability
            for s in answer(*some, circuit=EVEN).suspects
            if not any(kind in s.key for kind in ONE_SIDED)
        }
        for some in (told, [*map(mirror, told)])
    )
    total, total_swapped = sum(straight.values()), sum(swapped.values())
    either = {frozenset(key.split("+")): probability for key, probability in swapped.items()}
    for key, probability in straight.items():
        # Of two faults either may be named first; the least of the pairs solved may be left out on one side.
        mate = either.get(frozenset(mirrored(key).split("+")), 0.0)
        assert mate / total_swapped == pytest.approx(probability / total, abs=2e-3), key


@settings(max_examples=25, deadline=None)
@given(readings())
def test_whatever_is_typed_the_answer_is_a_distribution_and_ranges_are_ranges(told: list[Reading]) -> None:
    diagnosis = answer(*told)
    assert sum(s.probability for s in diagnosis.suspects) == pytest.approx(1)
    assert 0 <= diagnosis.verdict.probability <= 1 + 1e-9
    ranges: list[Range] = [e.expected for s in diagnosis.suspects for e in s.evidence if e.expected]
    ranges += [
        r for p in (diagnosis.next_test.predictions if diagnosis.next_test else ()) for rs in p.ranges for r in rs
    ]
    assert all(0 <= r.low <= r.high for r in ranges)
    assert weigh(compile_circuit(CONDENSER), told).outlier.max() <= 1 + 1e-9


@pytest.mark.parametrize("key", ready_made())
def test_the_network_is_passive_and_reciprocal_but_for_what_turns(key: str) -> None:
    """Passivity: sources deliver what branches take, and only a turning motor gives back in part of its windings.

    Reciprocity: the inverse is symmetric, wherever no three-phase motor turns in it.
    """
    circuit = ready_made()[key]
    for state in (state_of(compile_circuit(circuit), opened) for opened in reachable_states(circuit)):
        for base in state.topologies:
            solved = base.solved
            netlist = solved.netlist
            n = len(netlist.nodes)
            inverse = dense_inverse(solved)
            scale = np.abs(inverse).max(axis=(1, 2), keepdims=True)
            turning = any(np.abs(ohm - other).max() > 1e-9 for ohm, other in coupled_both_ways(solved))
            skew = (np.abs(inverse - np.swapaxes(inverse, 1, 2)) / scale).max()
            assert turning or skew < 1e-8
            currents = base.driven[0][:, n:-1]
            delivered = (netlist.emf_volts.sum(axis=0) * np.conj(currents)).real.sum(axis=1)
            volts = impedance_times(solved, currents)
            taken = (volts * np.conj(currents)).real
            coupled = {b for pair in solved.coupled for b in pair[:2]}
            alone = [b for b in range(len(netlist.listed)) if b not in coupled]
            assert (taken[:, alone] >= -1e-9).all()
            assert (taken.sum(axis=1) >= -1e-9).all()
            np.testing.assert_allclose(delivered, taken.sum(axis=1), rtol=1e-3, atol=1e-5)


def coupled_both_ways(solved: Solved) -> list[tuple[np.ndarray, np.ndarray]]:
    """Each coupling, and the same the other way round."""
    ohms = {(b, other): ohm for b, other, ohm in solved.coupled}
    return [(ohm, ohms[other, b]) for (b, other), ohm in ohms.items()]


def impedance_times(solved: Solved, currents: np.ndarray) -> np.ndarray:
    """Voltage along every branch, what couples it included, (samples, branches) [V]."""
    volts = np.asarray(solved.impedance_ohm * currents)
    for b, other, ohm in solved.coupled:
        volts[:, b] += ohm * currents[:, other]
    return volts


def test_a_low_impedance_meter_never_shows_more_of_a_ghost() -> None:
    compiled = compile_circuit(CONDENSER)
    for part in ("whip", "contactor"):
        open_meter = predict(compiled, volts(f"L2@{part}", "G", 0, *PULLED).measurement)
        loading = predict(compiled, volts(f"L2@{part}", "G", 0, *PULLED, meter=LO_Z).measurement)
        assert (loading.value <= open_meter.value + 1e-6).all()


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(1.2, 6.0))
def test_more_noise_never_makes_surer_on_average(seed: int, times: float) -> None:
    """What a reading is expected to tell, and how sure one is after it, fall as the meter gets worse."""
    rng = np.random.default_rng(seed)
    count = int(rng.integers(4, 40))
    weight = rng.dirichlet(np.full(count, 0.6))
    label = rng.integers(0, 4, count)
    nothing = np.zeros((count, 0))
    whole = np.arange(count)
    particles = Particles(weight, whole, whole, whole, label, weight, weight, nothing, nothing[:, None])
    mean = rng.uniform(0, 250, (count, 1))
    deviation = rng.uniform(0.2, 8.0, (count, 1))
    told = information_bits(mean, deviation, particles)
    assert information_bits(mean, deviation * times, particles) <= told + 0.03
    # And by simulation: how probable the truth is held to be, averaged over what may be read.
    truth = rng.choice(count, 600, p=weight)
    held = []
    for sigma in (deviation[:, 0], deviation[:, 0] * times):
        read = mean[truth, 0] + sigma[truth] * rng.standard_normal(600)
        density = weight * np.exp(-0.5 * ((read[:, None] - mean[:, 0]) / sigma) ** 2) / sigma
        same = label[truth][:, None] == label
        held.append(float(np.mean((density * same).sum(axis=1) / density.sum(axis=1))))
    assert held[1] <= held[0] + 0.05


def test_the_ranges_a_card_promises_hold_for_the_true_suspect() -> None:
    """What the next test says the truth would show is what is then read, about nine times in ten."""
    held = []
    for case in (RUN * circuit + i for circuit in range(0, 32, 4) for i in range(5)):
        world = world_of(77, case, Way.BY_PRIOR)
        taken: list[Reading] = []
        for _ in range(4):
            job = Job(circuit=world.circuit, readings=tuple(taken), scope=Scope(panel_may_be_opened=True))
            test = diagnose(job).next_test
            if test is None:
                break
            told = next((p for p in test.predictions if world.fault.key in p.suspects), None)
            for i, measurement in enumerate(test.measurements):
                value = world.read(measurement)
                if told is not None:
                    slack = 0.25  # ranges are rounded to the meter's digit
                    held.append(any(r.low - slack <= value <= r.high + slack for r in told.ranges[i]))
                taken.append(Reading(id=f"{len(taken)}", measurement=measurement, value=value, unit=measurement.unit))
    assert len(held) > 40
    assert np.mean(held) > 0.8


@st.composite
def histories(draw: st.DrawFn) -> list[Entry]:
    """Entries as the store admits them: added once, then corrected or withdrawn."""
    entries: list[Entry] = []
    added: set[str] = set()
    for i in range(draw(st.integers(0, 12))):
        key = draw(st.sampled_from(["r0", "r1", "r2"]))
        actions = [Action.CORRECT, Action.WITHDRAW] if key in added else [Action.ADD]
        action = draw(st.sampled_from(actions))
        added.add(key)
        reading = amps("L1", "whip", float(i)).model_copy(update={"id": key})
        told = None if action is Action.WITHDRAW else reading
        entries.append(Entry(id=UUID(int=i), action=action, reading_id=key, reading=told))
    return entries


@given(histories())
def test_readings_stand_as_last_said_in_the_order_first_said(entries: list[Entry]) -> None:
    standing = fold(entries)
    first_said = list(dict.fromkeys(entry.reading_id for entry in entries))
    assert [r.id for r in standing] == [key for key in first_said if any(r.id == key for r in standing)]
    for key in first_said:
        last = [entry for entry in entries if entry.reading_id == key][-1]
        assert [r for r in standing if r.id == key] == ([last.reading] if last.reading else [])
    if entries:
        undone = Entry(id=UUID(int=99), action=Action.WITHDRAW, reading_id=entries[-1].reading_id)
        assert all(r.id != entries[-1].reading_id for r in fold([*entries, undone]))
