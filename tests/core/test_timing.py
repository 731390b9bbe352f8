"""Contacts in time against event tables worked by hand."""

import pytest
from tests.core.sums import recomputed

from zesty_copper.core.circuit.editing import Add, Change, ChangeSwitch, edited
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.parts.delay import Delay
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.errors import BadInput
from zesty_copper.core.tools.timing.model import Timed, TimingAsked, TimingFinding
from zesty_copper.core.tools.timing.timed import timed

FURNACE = ready_made()["furnace_15kw"]
HEAT_AND_OFF = [{"at_s": 0, "open_switches": []}, {"at_s": 300, "open_switches": ["call"]}]


def run(circuit: Circuit, **more: object) -> Timed:
    """A call of five minutes."""
    return timed(circuit, TimingAsked.model_validate({"steps": HEAT_AND_OFF} | more))


def delayed(circuit: Circuit, **delays: tuple[tuple[float, float], tuple[float, float]]) -> Circuit:
    """The circuit with other delays on some switches."""
    for switch in circuit.switches:
        if switch.id in delays:
            on, off = ({"least_s": least, "most_s": most} for least, most in delays[switch.id])
            change = ChangeSwitch(switch=switch.model_copy(update={"closes_after": on, "opens_after": off}))
            circuit = edited(circuit, change)
    return circuit


def finding(told: Timed, words: str) -> TimingFinding:
    return next(one for one in told.findings if words in one.label)


def test_three_sequencers_step_on_and_off_as_their_table_says() -> None:
    """Call at 0, ended at 300 s; each contact at the middle of its range, and at both ends of it.

    Blower 0–1 on, 90–120 off; bank 1 10–30 on, 40–70 off; bank 2 30–60, 25–40; bank 3 60–110, 5–25 [s].
    """
    told = run(FURNACE)
    assert [(click.switch, click.pulls_in, click.at_s, click.soonest_s, click.latest_s) for click in told.clicks] == [
        ("blower", True, 0.5, 0, 1),
        ("bank_1", True, 20, 10, 30),
        ("bank_2", True, 45, 30, 60),
        ("bank_3", True, 85, 60, 110),
        ("bank_3", False, 315, 305, 325),
        ("bank_2", False, 332.5, 325, 340),
        ("bank_1", False, 355, 340, 370),
        ("blower", False, 405, 390, 420),
    ]
    assert not told.chatters


def test_each_moment_reads_what_then_runs() -> None:
    """On circuit 1: the blower's 2.4 A, then the first element's 20.8 A beside it, each by R = V/I at its own volts."""
    told = run(FURNACE, clamp="branch_1")
    heating = next(moment for moment in told.moments if moment.running == ("blower", "element_1"))
    assert (heating.from_s, heating.to_s) == (20, 45)
    between = sum(heating.volts.values())
    assert heating.amps["L1"] == pytest.approx(20.8 * between / 240 + 2.4, abs=0.6)
    assert [one.running for one in told.moments][-1] == ()
    assert told.moments[-1].amps["L1"] < 0.1
    assert [round(stage.amps, 0) for stage in told.stages] == [3, 20, -20, -3], "circuit 1 alone carries bank 1"


def test_banks_that_call_each_other_come_one_after_the_other() -> None:
    """Bank 2's heater on what bank 1's auxiliary contact lets through: 20 s, and then 20 s more."""
    furnace = ready_made()["electric_furnace"]
    chained = edited(furnace, Add(behind="thermostat", kind="relay", beside=True))
    relay = chained.part("relay").model_copy(update={"lanes": ("W",), "makes": ("W2",), "switch": "bank_1"})
    chained = edited(chained, Change(part=relay))
    second = chained.part("heater_2").model_copy(update={"lanes": ("W2", "C"), "after": "relay"})
    parts = tuple(second if part.id == "heater_2" else part for part in chained.parts)
    in_order = (*(p for p in parts if p.id != "heater_2"), second)
    chained = chained.model_copy(update={"parts": in_order})
    chained = delayed(chained, bank_1=((20, 20), (20, 20)), bank_2=((20, 20), (5, 5)), blower=((0, 0), (60, 60)))
    assert [(click.switch, click.pulls_in, click.at_s) for click in run(chained).clicks] == [
        ("blower", True, 0),
        ("bank_1", True, 20),
        ("bank_2", True, 40),
        ("bank_2", False, 305),
        ("bank_1", False, 320),
        ("blower", False, 360),
    ]


def test_a_call_that_ends_before_a_bank_comes_leaves_it_out() -> None:
    steps = [{"at_s": 0}, {"at_s": 50, "open_switches": ["call"]}, {"at_s": 55, "open_switches": []}]
    told = run(delayed(FURNACE, bank_3=((60, 60), (5, 5)), bank_2=((45, 45), (30, 30))), steps=steps, until_s=90)
    moved = [(click.switch, click.at_s) for click in told.clicks if click.switch in ("bank_2", "bank_3")]
    # Bank 2 was in at 45 s, and the call came back before its 30 s were over; bank 3's delay began anew at 55 s.
    assert moved == [("bank_2", 45)]


@pytest.mark.parametrize(
    ("off", "cfm", "status", "words"),
    [
        # Bank 1 is off at 340 to 370 s. A fan that stops at 305 to 310 s stops 48 s before.
        ((5, 10), 800, "not_met", "stops 48 s before the heat does"),
        # 5 kW at 400 cfm: 3412 × 5 ÷ (1.08 × 400) = 39.5 °F; 28 × ln(39.5 ÷ 20) = 19.1 s.
        ((90, 120), 400, "met", "by 20 s at least; 19 s are needed"),
        # 5 kW at 300 cfm: 52.7 °F; 28 × ln 2.63 = 27.1 s: 50 s as a rule, 20 at worst.
        ((90, 120), 300, "advice", "by 50 s as a rule, 20 s at worst; 27 s are needed"),
        ((60, 65), 300, "not_met", "27 s are needed"),
        ((90, 120), None, "cannot_tell", "give the blower’s cfm"),
        ((900, 900), 400, "met", "still runs at the end"),
    ],
)
def test_the_fan_has_to_outlast_the_heat(off: tuple[float, float], cfm: float | None, status: str, words: str) -> None:
    told = finding(run(delayed(FURNACE, blower=((0, 1), off)), cfm=cfm), "outlasts the heat")
    assert (told.status, words in told.words) == (status, True), told.words
    if told.worked is not None:
        recomputed(told.worked)


def test_stages_are_held_against_what_was_seen() -> None:
    """Clamped on the feeders of all three: amps noted by hand, bank 3 late by 40 s, and then never off."""
    one_circuit = delayed(ready_made()["electric_furnace"], bank_1=((20, 20), (50, 50)), bank_2=((40, 60), (20, 30)))
    seen = [(0, 0), (1, 2.4), (21, 23), (101, 43), (325, 23), (349, 2.4), (405, 0)]
    told = run(one_circuit, clamp="branch", seen=[{"at_s": at, "amps": amps} for at, amps in seen])
    assert [(stage.words, stage.seen_s, stage.status) for stage in told.stages] == [
        ("Blower relay in", 1, "met"),
        ("Sequencer 1 in", 21, "met"),
        ("Sequencer 2 in", 101, "advice"),
        ("Sequencer 2 out", 325, "met"),
        ("Sequencer 1 out", 349, "met"),
        ("Blower relay out", 405, "met"),
    ]
    noted = [*seen[:3], (200, 23)]
    short = run(one_circuit, clamp="branch", seen=[{"at_s": at, "amps": amps} for at, amps in noted])
    assert short.stages[2].status == "not_met", "the second bank never came"
    assert short.stages[3].status == "cannot_tell", "nobody noted what came after"


def test_a_jumper_that_feeds_back_is_told_in_time() -> None:
    """R on W: the call ends, and the banks stay in, fed by the jumper."""
    jumper = {"kind": "jumper", "a": "R@transformer", "b": "W@thermostat"}
    told = run(FURNACE, moves=[jumper])
    assert [one.status for one in told.findings if "after the call" in one.label] == ["not_met"] * 3
    assert "come back to the sequencer 1 heater" in finding(told, "Sequencer 1 after the call").words
    assert {"element_1", "element_2", "element_3"} <= set(told.moments[-1].running)
    assert not [one for one in run(FURNACE).findings if "after the call" in one.label]


def test_a_contact_that_starves_its_own_coil_chatters() -> None:
    """A relay whose normally closed contact feeds its own coil has no place to rest."""
    pump = ready_made()["heat_pump"]
    buzzing = edited(pump, Add(behind="thermostat", kind="relay"))
    relay = buzzing.part("relay").model_copy(update={"switch": "contactor", "normally_closed": True})
    buzzing = edited(buzzing, Change(part=relay))
    assert run(buzzing).chatters
    slow = delayed(buzzing, contactor=((10, 10), (10, 10)))
    assert [click.at_s for click in run(slow, until_s=45).clicks] == [10, 20, 30, 40]


def test_what_is_not_there_is_asked_for() -> None:
    with pytest.raises(BadInput, match="no switch “door”"):
        run(FURNACE, steps=[{"at_s": 0, "open_switches": ["door"]}])
    with pytest.raises(BadInput, match="element 1 blows nothing"):
        run(FURNACE, fan="element_1")
    with pytest.raises(BadInput, match="clamp does not fit"):
        run(FURNACE, clamp="breaker_1")
    with pytest.raises(ValueError, match="swap them"):
        Delay(least_s=5, most_s=1)
    with pytest.raises(ValueError, match="times in order"):
        run(FURNACE, seen=[{"at_s": 5, "amps": 1}, {"at_s": 1, "amps": 1}])
