"""The quick-entry line: what it prints it reads, and nonsense gets one clear sentence."""

import tomllib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.told import CONDENSER

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.reachable import reachable_states
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look, SignOf, check_look, places_for, signs
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.sequence import Turning
from zesty_copper.core.observations.kinds.tester import Near
from zesty_copper.core.observations.kinds.warmth import Warmth
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, Reading, check_reading
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.tools.quick_entry import completions, line_of, lines_meant, read_line


def _shown(most: float) -> st.SearchStrategy[float]:
    """A number that a meter could show."""
    return st.floats(0, most).map(lambda value: round(value, 3))


@st.composite
def anything_said(draw: st.DrawFn, keys: tuple[str, ...] = tuple(ready_made())) -> tuple[str, Reading | Look]:
    """Any of these circuits, and any reading or look that it allows."""
    key = draw(st.sampled_from(sorted(keys)))
    circuit = ready_made()[key]
    if draw(st.integers(0, 3)) == 0:
        return key, draw(looks(circuit))
    part = draw(st.sampled_from(circuit.series))
    lane = draw(st.sampled_from(circuit.lanes_of(part)))
    points = [*circuit.points()]
    place = draw(
        st.one_of(
            st.builds(Between, a=st.sampled_from(points), b=st.sampled_from(points)),
            st.just(Between(a=circuit.upstream_point(part, lane) or GROUND, b=Point(f"{lane}@{part.id}"))),
            st.just(Around(leg=lane, part=part.id)),
            st.just(Around(leg=circuit.lanes_of(part)[0], part=part.id, also=circuit.lanes_of(part)[1:3])),
            st.just(Turning(part=part.id)),
            st.just(Near(point=Point(f"{lane}@{part.id}"))),
            st.builds(Watching, part=st.sampled_from([one.id for one in circuit.watched])),
            st.just(Warmth(part=part.id, leg=lane)),
        )
    )
    meter = draw(st.sampled_from(MeterMode)) if isinstance(place, Between) else MeterMode.HI_Z
    state = draw(st.sampled_from(reachable_states(circuit)))
    held = frozenset(switch.id for switch in circuit.held[: draw(st.integers(0, 2))])
    hands = Hands(
        pushed_in=held if draw(st.booleans()) else frozenset(),
        lifted=frozenset({Point(f"{lane}@{part.id}")} if draw(st.booleans()) else set()),
        removed=frozenset({draw(st.sampled_from(circuit.loads)).id} if draw(st.booleans()) else set()),
    )
    measurement = Measurement(place=place, meter=meter, open_switches=state, hands=hands)
    steps = {"seq": st.sampled_from([-1.0, 0.0, 1.0]), "beep": st.sampled_from([0.0, 1.0])}
    steps |= {"run": st.sampled_from([0.0, 1.0, 2.0]), "degF": _shown(499), "ohm": _shown(4e7)}
    value = draw(steps.get(measurement.unit, _shown(999)))
    return key, Reading(id="one", measurement=measurement, value=value, unit=measurement.unit)


@st.composite
def looks(draw: st.DrawFn, circuit: Circuit) -> Look:
    """Any look that a circuit allows."""
    name = draw(st.sampled_from(sorted(signs())))
    seen = draw(st.booleans())
    if signs()[name].of is SignOf.CALL:
        return Look(id="one", sign=name, seen=seen)
    where = places_for(circuit, signs()[name])
    if not where or (not seen and draw(st.booleans())):
        return Look(id="one", sign=name, zone=draw(st.sampled_from(Zone)), seen=False)
    part = draw(st.sampled_from(where))
    leg = draw(st.sampled_from([None, *circuit.lanes_of(part)]))
    return Look(id="one", sign=name, part=part.id, leg=leg, seen=seen)


@settings(max_examples=400, deadline=None)
@given(anything_said())
def test_what_it_prints_it_reads(told: tuple[str, Reading | Look]) -> None:
    circuit, said = ready_made()[told[0]], told[1]
    try:
        if isinstance(said, Look):
            check_look(circuit, said)
        else:
            check_reading(circuit, said)
    except BadInput:
        return  # the circuit does not allow it
    line = line_of(circuit, said)
    assert read_line(circuit, line, "one") == said, line
    assert read_line(circuit, f"  {line.lower()} ", "one") == said, line


@settings(max_examples=200, deadline=None)
@given(
    st.text(max_size=60)
    | st.lists(st.sampled_from(["whip", "L1-L2", "L1", "243", "off:x", "sees", "@", "ohm", "-3V"])).map(" ".join)
)
def test_nonsense_is_one_sentence(text: str) -> None:
    try:
        said = read_line(CONDENSER, text, "one")
    except BadInput as error:
        refused = error.message
        sentences = refused.endswith((".", "?")) and "\n" not in refused
    else:
        sentences = True
        assert read_line(CONDENSER, line_of(CONDENSER, said), "one") == said
    assert sentences


def test_it_reads_what_is_said_on_the_phone() -> None:
    """45 of 50 at least; what it does not read it refuses, and never reads as something else."""
    told = tomllib.loads((Path(__file__).parent / "phrasings.toml").read_text("utf-8"))["said"]
    missed = []
    for one in told:
        circuit = ready_made()[one["circuit"]]
        try:
            line = line_of(circuit, read_line(circuit, one["words"], "one"))
        except BadInput as error:
            missed.append(f"{one['words']}: {error.message}")
        else:
            assert line == one["line"], one["words"]
    assert len(told) == 50
    assert len(missed) <= 5, missed


@pytest.mark.parametrize(
    ("number", "why"), [("-5", "minus"), ("1e5", "exponent"), ("24O", "letter O"), ("1,000", "thousands")]
)
def test_a_number_that_could_be_meant_otherwise_is_asked_about(number: str, why: str) -> None:
    for line in (f"whip L1-L2 {number}", f"L1 to ground at the whip {number} V"):
        with pytest.raises(BadInput, match=why):
            read_line(CONDENSER, line, "one")


@pytest.mark.parametrize(
    ("line", "unit", "value"),
    [
        ("whip L1-L2 243,1", "V", 243.1),
        ("whip l1 18.2a", "A", 18.2),
        ("fuse L1 across 4.7k off:contactor,disconnect", "ohm", 4700.0),
        ("whip L1-G OL off:disconnect", "ohm", 40e6),
        ("compressor hums", "run", 2.0),
        ("whip L1-L2 9.1 loz", "V", 9.1),
    ],
)
def test_lines_as_people_type_them(line: str, unit: str, value: float) -> None:
    said = read_line(CONDENSER, line, "one")
    assert isinstance(said, Reading)
    assert (said.unit, said.value) == (unit, value)


@pytest.mark.parametrize(
    ("typed", "offered"),
    [("cl", "clip_line"), ("whip L1", "L1-L2"), ("whip L1 ", "across"), ("call sees tri", "trips_at_once"),
     ("whip L1-L2 243 o", "off:contactor")],
)  # fmt: skip
def test_the_word_being_typed_is_completed(typed: str, offered: str) -> None:
    assert offered in completions(CONDENSER, typed)


def line_read(circuit: str, words: str) -> str:
    """What a line is read as; what it asks in its place."""
    try:
        return line_of(ready_made()[circuit], read_line(ready_made()[circuit], words, "one"))
    except BadInput as error:
        return error.message


@pytest.mark.parametrize(
    ("circuit", "words", "line"),
    [
        # Two conductors, a load or a coil after "across" mean between.
        ("condenser_fused", "240 across L1 and L2 at the contactor", "whip L1-L2 240.0V"),
        ("rooftop_208", "24 volts across the contactor coil", "Y@safety C@transformer 24.0V"),
        ("electric_furnace", "120 across the blower", "L1@blower_relay L2@unit_breaker 120.0V"),
        ("condenser_fused", "across fuse L2 118 V", "fuse L2 across 118.0V"),
        # The marks of the two sides of a contactor.
        ("condenser_fused", "L1 to T1 0.3 V", "contactor L1 across 0.3V"),
        ("condenser_fused", "L1 to T2 241", "L1@whip L2@contactor 241.0V"),
        # Amps belong to what carries just them.
        ("electric_furnace", "21 amps L1 sequencer 1", "element_1 L1 21.0A"),
        ("furnace_15kw", "20 amps L1 fuse 2", "branch_2 L1 20.0A"),
        ("condenser_fused", "18 A on L1 at the contactor", "whip L1 18.0A"),
    ],
)
def test_each_word_that_was_said_is_read_as_it_is_meant(circuit: str, words: str, line: str) -> None:
    assert line_read(circuit, words) == line


@pytest.mark.parametrize(
    ("circuit", "words", "asks", "choice"),
    [
        ("condenser_fused", "240 L1 to L2 load side", "Which one: breaker, load side, fuse", "contactor L1-L2 240.0V"),
        ("condenser_fused", "18 amps across L1", "Amps are read around one conductor", None),
        ("condenser_fused", "1 2 1", "Say the number in one, as 121", None),
        ("condenser_fused", "whip L1-G 1 2 1", "more than one number here", None),
        ("condenser_fused", "line lug L1-L2 241 pulled", "What is “pulled”", "line_lug L1-L2 241.0V off:disconnect"),
        ("condenser_fused", "disconect L1-L2 240", "Did you mean disconnect?", "branch L1-L2 240.0V"),
        ("condenser_fused", "fuse 2 L1 to ground 120", "Between which two: L2, L1, G?", None),
        ("condenser_fused", "unit breaker L1 to ground 120", "There is no place “unit breaker”", None),
        ("condenser_fused", "12 volts L1 to ground at whip 120", "more than one number here: what is “120”", None),
        ("condenser_fused", "both legs 120 to ground at the whip", "“both” is no part or word", None),
        ("rooftop_208", "leg to leg at the whip 208", "Which two legs: L1, L2, L3?", None),
        ("electric_furnace", "21 amps L1 unit breaker", "", "branch L1 21.0A"),
    ],
)
def test_what_can_be_meant_in_two_ways_is_asked_and_the_choices_are_offered(
    circuit: str, words: str, asks: str, choice: str | None
) -> None:
    on = ready_made()[circuit]
    if not asks:
        assert line_read(circuit, words) == choice
        return
    with pytest.raises(BadInput) as refused:
        read_line(on, words, "one")
    assert asks in refused.value.message
    offered = lines_meant(on, words, refused.value)
    assert (choice in offered) if choice else (offered == ())
    for line in offered:
        assert line_of(on, read_line(on, line, "one")) == line


SAID = tomllib.loads((Path(__file__).parent / "phrasings.toml").read_text("utf-8"))["said"]
ODD = ("pulled", "both", "not", "then", "maybe", "second", "unplugged", "roof", "118", "twice", "L3x", "lifted")


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(SAID), st.sampled_from(ODD), st.integers(0, 12))
def test_a_word_that_was_said_is_never_dropped(one: dict[str, str], odd: str, at: int) -> None:
    """A word more, anywhere in the line, either changes what is read, or is asked about."""
    words = one["words"].split()
    more = " ".join([*words[:at], odd, *words[at:]])
    assert line_read(one["circuit"], more) != one["line"], more


@pytest.mark.parametrize("line", ["fuse L1-L2 +35F", "fuse L1+L2 +35F"])
def test_degrees_are_read_at_one_conductor_and_never_taken_for_volts(line: str) -> None:
    with pytest.raises(BadInput):
        read_line(ready_made()["condenser_fused"], line, "one")
