"""A panel's legs by its rows, worked by hand, and what follows for each breaker."""

import pytest
from pydantic import ValidationError

from zesty_copper.core.tools.feeds import Feeds, answer_of
from zesty_copper.core.tools.panel import Panel
from zesty_copper.core.tools.panel_map import BreakerInPanel, PanelAnswer, panels_of


def panel_of(*breakers: tuple[str, tuple[str, ...]], **more: object) -> PanelAnswer:
    """A site with one panel and these breakers: a name, and its poles."""
    told = {"id": "main", "name": "Main panel", "system": "split_phase_120_240", "spaces": 12} | more
    switches = [
        {"id": f"b{i}", "kind": "breaker", "name": name, "label": "Dryer", "panel": "main", "poles": poles}
        for i, (name, poles) in enumerate(breakers)
    ]
    feeds = Feeds.model_validate({"panels": [told], "switches": switches})
    (answer,) = panels_of(feeds, answer_of(feeds).fed)
    return answer


def breaker(*poles: str, **more: object) -> BreakerInPanel:
    """One breaker alone in a panel."""
    return panel_of(("Breaker", poles), **more).breakers[0]


# Rows from the top: spaces 1 and 2, 3 and 4, …; legs L1, L2, L1, … or L1, L2, L3, L1, …
LEGS = [
    ("split_phase_120_240", {}, "1 2 3 4 5 11 12", "L1 L1 L2 L2 L1 L2 L2"),
    ("split_phase_120_240", {"first_leg": "L2"}, "1 2 3 4", "L2 L2 L1 L1"),
    # Counted down one side: 1 to 6 on the left, 7 to 12 on the right; 7 lies beside 1.
    ("split_phase_120_240", {"down_one_side": True}, "1 2 6 7 8 12", "L1 L2 L2 L1 L2 L2"),
    ("wye_208_120", {}, "1 2 3 5 7 8 10", "L1 L1 L2 L3 L1 L1 L2"),
    ("two_wire_120", {}, "1 3 6", "L1 L1 L1"),
]  # fmt: skip


@pytest.mark.parametrize(("system", "more", "spaces", "legs"), LEGS)
def test_each_space_is_on_its_rows_leg(system: str, more: dict[str, object], spaces: str, legs: str) -> None:
    panel = Panel.model_validate({"id": "main", "name": "Main", "system": system, "spaces": 12} | more)
    assert " ".join(panel.leg(space) for space in spaces.split()) == legs


@pytest.mark.parametrize(
    ("poles", "more", "standing", "words"),
    [
        (("2", "4"), {}, "right", "Spans L1, L2: 240 V between them."),
        # The two halves of a tandem lie in one space, on one leg.
        (("6A", "6B"), {}, "wrong", "Both poles are on L1"),
        # Across the panel: one row, one leg.
        (("7", "8"), {}, "wrong", "Both poles are on L2"),
        (("2", "6"), {}, "wrong", "Both poles are on L1"),
        (("2", "8"), {}, "look", "not one below the other"),
        # The inner halves of two tandems one below the other span both legs.
        (("2B", "4A"), {}, "right", "Spans L1, L2"),
        (("2", "4"), {"system": "wye_208_120"}, "right", "208 V"),
        (("1", "3", "5"), {"system": "wye_208_120"}, "right", "Spans L1, L2, L3"),
        (("1", "3", "7"), {"system": "wye_208_120"}, "wrong", "Both poles are on L1"),
        (("3",), {"system": "delta_240_high_leg"}, "wrong", "high leg"),
        (("1",), {"system": "delta_240_high_leg"}, "right", "One pole, on L1."),
        (("1", "5"), {"system": "delta_240_high_leg"}, "look", "not one below the other"),
        (("3", "5"), {"system": "wye_480_277"}, "right", "480 V"),
    ],
)  # fmt: skip
def test_a_breaker_is_judged_by_the_legs_of_its_poles(
    poles: tuple[str, ...], more: dict[str, object], standing: str, words: str
) -> None:
    found = breaker(*poles, **more)
    assert (found.standing, words in found.words) == (standing, True), found.words


def test_it_says_which_pole_moves_where_and_when_there_is_no_room() -> None:
    """A range on both halves of space 6: 8 below it is free, and so are 9 and 11, which lie further off."""
    others = [("Lights", ("1",)), ("Lights", ("2",)), ("Lights", ("3",)), ("Lights", ("4",)), ("Lights", ("5",))]
    answer = panel_of(("Heat", ("6A", "6B")), *others)
    heat = answer.breakers[0]
    assert heat.move.startswith("Move Heat to 6 (L1) and 8 (L2).")
    assert "licensed" in heat.move
    assert (heat.feeds, heat.is_found) == ("Dryer", False), "what a label claims is not what was found"
    full = panel_of(("Heat", ("6A", "6B")), *others, *((f"x{i}", (str(i),)) for i in range(7, 13)))
    assert "has to make room" in full.breakers[0].move
    off = breaker("3", system="delta_240_high_leg")
    assert off.move.startswith("Move Breaker to 1 (L1).")


def test_what_cannot_be_is_said() -> None:
    twice = panel_of(("A", ("2", "4")), ("B", ("4",)), ("C", ("5B",)), ("D", ("5A",)))
    assert twice.warnings == ("Space 4 is taken by A and by B: look again which space each sits in.",)
    read = [{"a": "1", "b": "3", "volts": 0.4}, {"a": "1", "b": "2", "volts": 241}, {"a": "1", "b": "5", "volts": 0}]
    warnings = panel_of(read=read).warnings
    assert len(warnings) == 2
    assert "so they are on one leg" in warnings[0]
    assert "so they are on two legs" in warnings[1]
    with pytest.raises(ValidationError, match="has 12 spaces"):
        panel_of(("A", ("13",)))
    with pytest.raises(ValidationError, match="no L3"):
        panel_of(first_leg="L3")


def test_what_was_found_by_switching_stands_on_the_label() -> None:
    feeds = Feeds.model_validate(
        {
            "panels": [{"id": "p", "name": "Main", "system": "split_phase_120_240", "spaces": 4}],
            "switches": [
                {"id": "a", "kind": "breaker", "name": "2/4", "label": "Dryer", "panel": "p", "poles": ["2", "4"]},
                {"id": "b", "kind": "breaker", "name": "1/3", "label": "A/C", "panel": "p", "poles": ["1", "3"]},
            ],
            "units": [{"id": "u", "name": "Heat pump"}],
            "toggles": [
                {"id": "1", "switch": "a", "results": {"u": "died"}},
                {"id": "2", "switch": "b", "results": {"u": "stayed"}},
            ],
        }
    )
    (answer,) = panels_of(feeds, answer_of(feeds).fed)
    assert [(one.feeds, one.is_found) for one in answer.breakers] == [("Heat pump", True), ("A/C", False)]
