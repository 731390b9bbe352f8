"""Find the circuit by switching; try a change in the model before metal; read quickly before a call exists."""

import numpy as np
import pytest
from tests.core.told import CONDENSER

from zesty_copper.core.circuit.point import Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.errors import BadInput
from zesty_copper.core.tools.feeds import End, Feeds, SwitchOnSite, Toggle, Unit, answer_of
from zesty_copper.core.tools.quick_read import QuickRead, asked_of, meanings_of, quick_circuit, quick_job
from zesty_copper.core.tools.what_if import Jumper, Landed, Lifted, what_if

ALL_CLOSED: frozenset[str] = frozenset()


def site(breakers: int, units: int) -> Feeds:
    """A site with nothing known of it."""
    return Feeds.model_validate(
        {
            "switches": [{"id": f"b{i}", "kind": "breaker", "name": f"Breaker {i}"} for i in range(breakers)],
            "units": [{"id": f"u{i}", "name": f"Machine {i}"} for i in range(units)],
        }
    )


def switched(feeds: Feeds, switch: str, **results: str) -> Feeds:
    """Turn one switch off."""
    toggle = Toggle.model_validate({"id": str(len(feeds.toggles)), "switch": switch, "results": results})
    return feeds.model_copy(update={"toggles": (*feeds.toggles, toggle)})


@pytest.mark.parametrize("seed", range(6))
def test_following_the_asked_toggles_finds_what_feeds_what(seed: int) -> None:
    """Whatever the wiring, with fewer toggles than switching every breaker for every machine."""
    rng = np.random.default_rng(seed)
    feeds, truth = site(8, 3), {f"u{i}": f"b{rng.integers(8)}" for i in range(3)}
    asked = 0
    while (answer := answer_of(feeds)).next_switch is not None:
        asked += 1
        assert asked <= 16
        died = {unit: "died" if fed == answer.next_switch else "stayed" for unit, fed in truth.items()}
        feeds = switched(feeds, answer.next_switch, **died)
    assert {fed.unit: fed.switches for fed in answer.fed} == {unit: (switch,) for unit, switch in truth.items()}
    assert all(fed.found for fed in answer.fed)


def test_a_second_supply_is_warned_of() -> None:
    feeds = switched(switched(site(4, 1), "b1", u0="partly"), "b3", u0="partly")
    answer = answer_of(feeds)
    assert answer.fed[0].switches == ("b1", "b3")
    assert any("lock all of them" in words for words in answer.warnings)


def test_unlike_ends_prove_a_hidden_splice_and_labels_are_not_believed() -> None:
    labelled = SwitchOnSite.model_validate({"id": "b9", "kind": "breaker", "name": "Breaker 9", "label": "Machine 0"})
    feeds = site(2, 1)
    feeds = feeds.model_copy(update={"switches": (*feeds.switches, labelled)})
    assert answer_of(feeds).next_switch == "b9", "what the label claims is tried first"
    feeds = switched(switched(feeds, "b9", u0="stayed"), "b0", u0="died")
    feeds = feeds.model_copy(update={"ends": (End(unit="u0", at_source="aluminium", at_unit="copper"),)})
    warnings = " ".join(answer_of(feeds).warnings)
    assert "splice lies hidden" in warnings
    assert "does not feed Machine 0" in warnings


def test_a_map_that_speaks_of_nothing_listed_is_refused() -> None:
    with pytest.raises(ValueError, match="not listed"):
        switched(site(1, 1), "b7", u0="died")
    with pytest.raises(ValueError, match="share one id"):
        Feeds(units=(Unit(id="u", name="a"), Unit(id="u", name="b")))


def test_a_jumper_across_an_open_fuse_starts_the_load() -> None:
    told = what_if(CONDENSER, [Jumper(a=Point("L2@clip_line"), b=Point("L2@clip_load"))], ALL_CLOSED, "open:fuse:L2")
    assert "The compressor runs." in told.changes
    assert any("would start" in words for words in told.dangers)


def test_a_jumper_from_leg_to_leg_and_a_lead_on_the_wrong_leg_are_shorts() -> None:
    for move in (Jumper(a=Point("L1@whip"), b=Point("L2@whip")), Landed(part="whip", lane="L2", at=Point("L1@whip"))):
        told = what_if(CONDENSER, [move], ALL_CLOSED, None)
        assert any("a short, and it would trip" in words for words in told.dangers)


def test_a_lifted_lead_stops_the_load_and_a_swap_changes_nothing_on_one_phase() -> None:
    assert what_if(CONDENSER, [Lifted(part="whip", lane="L2")], ALL_CLOSED, None).changes[0] == "The compressor stops."
    swap = [Landed(part="whip", lane="L1", at=Point("L2@whip")), Landed(part="whip", lane="L2", at=Point("L1@whip"))]
    assert what_if(CONDENSER, swap, ALL_CLOSED, None).changes == ("Nothing changes.",)


def test_a_jumper_that_feeds_back_starts_something_else() -> None:
    packaged = ready_made()["packaged_208"]
    told = what_if(packaged, [Jumper(a=Point("R@transformer"), b=Point("Y@thermostat"))], frozenset({"call"}), None)
    assert "The contactor pulls in." in told.changes
    assert any("Fed back" in words for words in told.dangers)
    around = what_if(
        CONDENSER,
        [Jumper(a=Point("L1@line_lug"), b=Point("L1@load_lug"))],
        frozenset({"disconnect", "contactor"}),
        None,
    )
    assert any("live though it looks off" in words for words in around.dangers)


def test_moves_that_cannot_be_are_refused_with_a_sentence() -> None:
    for moves, field in (
        ([Jumper(a=Point("L1@whip"), b=Point("L1@whip"))], "moves.0.b"),
        ([Lifted(part="compressor", lane="L1")], "moves.0.part"),
        ([Landed(part="whip", lane="L1", at=Point("L1@roof"))], "moves.0.at"),
        ([Lifted(part="whip", lane="L1"), Lifted(part="whip", lane="L1")], "moves"),
    ):
        with pytest.raises(BadInput) as told:
            what_if(CONDENSER, moves, ALL_CLOSED, None)
        assert told.value.field == field


@pytest.mark.parametrize("system", sorted(supplies()))
def test_a_quick_read_of_healthy_numbers_says_that_the_supply_is_good_up_to_there(system: str) -> None:
    asked = asked_of(system)
    # What is 0 at rest is a little more under load: that is not the supply's to say.
    volts = {asked_volts.pair: asked_volts.healthy_volts for asked_volts in asked if asked_volts.healthy_volts}
    diagnosis = diagnose(quick_job(QuickRead(system=system, load_connected=True, volts=volts)))
    upstream = {p.id for p in quick_circuit(system).series if p.id != "contactor"}
    gone = sum(
        s.probability
        for s in diagnosis.suspects
        if s.kind in ("open", "supply_dead") and s.part in upstream and s.leg != "G"
    )
    assert gone < 0.05


def test_a_quick_read_names_the_look_alikes_and_refuses_other_pairs() -> None:
    quick_read = QuickRead(
        system="split_phase_120_240", load_connected=True, volts={"L1-L2": 0.4, "L1-G": 121, "L2-G": 121}
    )
    meanings = meanings_of(diagnose(quick_job(quick_read)))
    words = {f"{leg} is open or high resistance ahead of the unit" for leg in ("L1", "L2")}
    assert {meaning.words for meaning in meanings[:2]} == words
    assert any(meaning.words == "Both hots are on the same leg of the supply" for meaning in meanings)
    with pytest.raises(BadInput, match="has no pair"):
        quick_job(quick_read.model_copy(update={"volts": {"L1-L3": 200.0}}))
