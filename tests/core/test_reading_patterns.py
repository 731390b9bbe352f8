"""What a reading means depends on the switches: each pattern the trade knows, and the test that parts its look-alikes.

The patterns are common practice (no source); the numbers are such as a meter shows on the circuit used.
"""

import pytest
from tests.core.told import (
    AT_REST,
    CONDENSER,
    LO_Z,
    PULLED,
    amps,
    answer,
    chance,
    led_to_the_end,
    seen,
    spot,
    top,
    volts,
)

from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.diagnosis.model.answer import Standing
from zesty_copper.core.faults.catalogue import faults_of
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look

WAYS = ("open", "resistive", "intermittent")
DEAD = [*spot("whip", 0.0, 0.0, 0.0), *spot("line_lug", 0.0, 0.0, 0.0)]
UPSTREAM_L2 = [  # of the disconnect's line lug, that lug's own joint included
    f"{way}:{part}:L2" for part in ("supply", "panel_lug", "breaker", "branch", "line_lug") for way in WAYS
]


def test_right_under_load_clears_everything_upstream_but_right_at_rest_proves_little() -> None:
    loaded = answer(*spot("whip", 241.8, 121.0, 120.8), amps("L1", "whip", 18.1))
    rested = answer(*spot("whip", 243.0, 121.6, 121.4, *AT_REST))
    poor_upstream = [
        f"resistive:{p}:{leg}" for p in ("fuse", "clip_line", "clip_load", "line_lug") for leg in ("L1", "L2")
    ]
    assert chance(loaded, *poor_upstream) < 0.4 * chance(rested, *poor_upstream)
    assert chance(loaded, "open:fuse") < 1e-3
    assert top(loaded).kind is FaultKind.NOTHING_WRONG
    assert not rested.next_test or not rested.next_test.measurements[0].open_switches, "the next look is under load"


def test_a_leg_floating_on_stray_capacitance_is_open_towards_the_source() -> None:
    ghost = [*spot("line_lug", 88.0, 121.0, 33.0, *PULLED)]
    diagnosis = answer(*ghost)
    assert chance(diagnosis, *UPSTREAM_L2) > 0.9
    collapsed = answer(*ghost, volts("L2@line_lug", "G", 0.2, *PULLED, meter=LO_Z))
    assert chance(collapsed, *UPSTREAM_L2) > 0.95
    assert collapsed.verdict.standing is Standing.INSEPARABLE  # what is left lies behind the panel's cover
    assert collapsed.verdict.advice.startswith("Hand over to an electrician")


def test_a_leg_that_keeps_its_own_phase_adds_up_instead() -> None:
    """Leg to leg near the sum: the leg hangs on its own supply through a resistance, not on its neighbour."""
    diagnosis = answer(*spot("line_lug", 161.0, 120.5, 40.5, *PULLED))
    assert chance(diagnosis, *UPSTREAM_L2) > 0.9
    assert chance(diagnosis, "same_leg") < 1e-3


def test_two_faults_look_the_same_while_anything_joins_the_legs() -> None:
    fed_back = spot("whip", 0.4, 121.3, 121.0)
    diagnosis = answer(*fed_back, panel=True)
    assert chance(diagnosis, "same_leg") > 0.01
    assert chance(diagnosis, "open:") > 0.5
    assert diagnosis.verdict.standing is Standing.OPEN
    # With everything downstream off, a floating leg falls and a leg on the wrong side stays.
    readings = [*fed_back, *spot("line_lug", 0.1, 121.0, 120.9, *PULLED)]
    stays = answer(*readings, volts("L1@line_lug", "L2@line_lug", 0.2, *PULLED, name="again"), panel=True)
    assert top(stays).kind is FaultKind.SAME_LEG
    assert stays.verdict.standing is Standing.SURE
    falls = answer(*fed_back, *spot("line_lug", 90.0, 121.0, 31.0, *PULLED), panel=True)
    assert chance(falls, *UPSTREAM_L2) > 0.95


@pytest.mark.parametrize("truth", ["same_leg", "open:branch:L2", "open:fuse:L1"])
def test_the_chosen_tests_part_those_look_alikes(truth: str) -> None:
    diagnosis, readings = led_to_the_end(truth, "whip")
    assert diagnosis.verdict.standing is Standing.SURE
    assert truth in diagnosis.verdict.suspects
    assert len(readings) <= 12


def test_legs_that_add_up_are_the_service_neutral_and_no_broken_ground() -> None:
    """33 + 208 = 241 V: what strays is the point that ground hangs on."""
    diagnosis = answer(*spot("whip", 241.0, 33.0, 208.0))
    assert chance(diagnosis, "open:supply:N", "resistive:supply:N", "intermittent:supply:N") > 0.9
    assert chance(diagnosis, "open:branch:G", "open:whip:G") < 0.05
    assert diagnosis.stop is not None


def test_nothing_anywhere_is_dead_or_the_meter_is() -> None:
    diagnosis = answer(*spot("whip", 0.0, 0.0, 0.0))
    assert chance(diagnosis, "not_closed:breaker", "short:", "not_closed:stab_in", "supply_dead", "load_ground") > 0.95
    upstream = answer(*DEAD)
    assert upstream.next_test is not None
    assert upstream.next_test.words == ("Look at the handle: the breaker",), "before any electrician is called"
    handed = answer(*DEAD, looks=[Look(id="handle", sign="off", zone=Zone.PANEL, seen=False)])
    assert chance(handed, "supply_dead") > 0.8
    assert handed.verdict.advice.startswith("Prove the meter on a known live source.")
    off = answer(*DEAD, looks=[seen("off", "breaker")])
    assert chance(off, "not_closed:breaker", "short:", "load_ground:") > 0.98
    further = answer(*spot("whip", 0.0, 0.0, 0.0), *spot("line_lug", 241.0, 120.4, 120.6))
    assert top(further).key == "not_closed:stab_in"


def test_ground_readings_that_fit_no_listed_fault_are_not_forced_onto_one() -> None:
    diagnosis = answer(*spot("whip", 241.0, 190.0, 190.0))
    assert diagnosis.verdict.standing is Standing.UNEXPLAINED
    assert top(diagnosis).kind is FaultKind.NONE_OF_THESE


@pytest.mark.parametrize(
    ("across", "kind"), [(239.5, "open"), (18.4, "resistive")], ids=["all of it: open", "a part of it: poor"]
)
def test_volts_across_a_closed_device_name_it(across: float, kind: str) -> None:
    diagnosis = answer(volts("L2@fuse", "L2@clip_load", across))
    assert top(diagnosis).key == f"{kind}:clip_load:L2"
    left = 0.2 if kind == "open" else 241.0 - across
    readings = [volts("L2@fuse", "L2@clip_load", across), volts("L1@whip", "L2@whip", left)]
    confirmed = answer(*readings)
    assert top(confirmed).key == f"{kind}:clip_load:L2"
    assert confirmed.verdict.standing is Standing.OPEN, "no part is condemned on one number"
    again = answer(*readings, volts("L2@fuse", "L2@clip_load", across, name="again"))
    assert again.verdict.standing is Standing.SURE


def test_no_volts_across_it_with_current_flowing_clears_it() -> None:
    diagnosis = answer(amps("L2", "whip", 18.3), volts("L2@fuse", "L2@clip_load", 0.0))
    assert chance(diagnosis, "open:clip_load:L2") < 1e-4


def test_no_volts_across_it_without_a_current_path_says_nothing() -> None:
    before = answer()
    after = answer(volts("L2@load_lug", "L2@whip", 0.0, *PULLED))
    assert chance(after, "resistive:whip:L2") == pytest.approx(chance(before, "resistive:whip:L2"), rel=0.15)
    # Not exactly nothing: across a gap that floats on both sides a neighbor's ghost might have shown.
    assert 0.5 < chance(after, "open:whip:L2") / chance(before, "open:whip:L2") < 1.15


def test_fine_at_rest_and_sagging_under_load_is_a_poor_joint_on_the_low_leg() -> None:
    sag = answer(
        volts("L1@whip", "L2@whip", 243.1, *AT_REST),
        *spot("whip", 222.6, 121.0, 101.7),
    )
    assert chance(sag, "resistive:") > 0.95
    assert sum(s.probability for s in sag.suspects if s.kind is FaultKind.RESISTIVE and s.leg == "L2") > 0.95
    diagnosis, _ = led_to_the_end("resistive:clip_load:L2", seed=11)
    assert "resistive:clip_load:L2" in diagnosis.verdict.suspects


def test_low_at_rest_and_under_load_alike_is_the_supply() -> None:
    diagnosis = answer(*spot("whip", 198.0, 99.2, 98.8, *AT_REST), *spot("whip", 196.5, 98.3, 98.2))
    assert top(diagnosis).kind is FaultKind.SUPPLY_LOW
    assert top(diagnosis).probability > 0.9


def test_right_volts_in_the_right_state_and_no_amps_is_the_load() -> None:
    again = volts("L1@contactor", "L2@contactor", 240.2, name="again")
    diagnosis = answer(*spot("contactor", 241.0, 120.6, 120.4), again, amps("L1", "whip", 0.1), amps("L2", "whip", 0.2))
    assert top(diagnosis).kind is FaultKind.LOAD_OPEN
    assert diagnosis.verdict.standing is Standing.SURE


def test_volts_up_to_the_contactor_and_none_behind_it() -> None:
    diagnosis = answer(*spot("whip", 242.0, 121.0, 121.0), *spot("contactor", 0.0, 0.0, 0.0))
    assert top(diagnosis).key == "not_closed:contactor"


def test_a_cure_by_re_closing_is_a_contact_that_comes_and_goes() -> None:
    dead = volts("L2@stab_in", "L2@line_lug", 240.2, name="before")
    cured = volts("L2@stab_in", "L2@line_lug", 0.1, name="after re-closing")
    diagnosis = answer(dead, cured, amps("L2", "whip", 18.0))
    assert top(diagnosis).key == "intermittent:stab_in:L2"
    assert any({"before", "after re-closing"} == set(c.readings) for c in diagnosis.contradictions)


def test_a_stray_decimal_is_named_and_never_averaged_into_confidence() -> None:
    honest = [*spot("whip", 241.5, 120.9, 120.7), *spot("contactor", 241.0, 120.6, 120.5), amps("L1", "whip", 18.2)]
    slipped = volts("L1@line_lug", "L2@line_lug", 24.2)
    diagnosis = answer(*honest, slipped)
    assert [c.readings for c in diagnosis.contradictions] == [(slipped.id,)]
    assert "Was 242 V meant?" in diagnosis.contradictions[0].words
    assert top(diagnosis).key == top(answer(*honest)).key
    assert top(diagnosis).probability <= top(answer(*honest)).probability + 0.02


def test_with_no_reading_there_are_priors_and_a_first_test() -> None:
    diagnosis = answer()
    assert sum(s.probability for s in diagnosis.suspects) == pytest.approx(1)
    assert diagnosis.verdict.standing is Standing.OPEN
    assert diagnosis.next_test is not None
    priors = {fault.key: fault.prior for fault in faults_of(CONDENSER)}
    assert {s.key: s.probability for s in diagnosis.suspects} == pytest.approx(priors)
