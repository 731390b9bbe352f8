"""What a panel's map says: which legs each breaker is on, what is wrong with that, and which pole to move where."""

from collections.abc import Iterator, Sequence
from enum import StrEnum
from itertools import combinations, pairwise

from pydantic import Field

from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.tools.feeds import Fed, Feeds, SwitchKind, SwitchOnSite
from zesty_copper.core.tools.panel import Panel, halves_of, space_of
from zesty_copper.core.words import say

__all__ = ["BreakerInPanel", "PanelAnswer", "SpaceShown", "panels_of"]

SAME_LEG_SHARE = 0.1
"""Share of the supply's volts up to which two spaces read as one leg; common practice, no source."""
DIFFERENT_SHARE = 0.4
"""... and from which they read as two."""


class PolesStanding(StrEnum):
    """How a breaker's poles lie."""

    RIGHT = "right"
    WRONG = "wrong"
    LOOK = "look"


class BreakerInPanel(Frozen):
    """One breaker as it sits in its panel."""

    switch: str = Field(description="id of the switch")
    poles: tuple[str, ...]
    legs: tuple[str, ...] = Field(description="of each pole")
    standing: PolesStanding
    words: str
    move: str = Field(default="", description="which pole to move where; empty where none has to")
    feeds: str = Field(description="what is known to hang on it, or what its label claims")
    is_found: bool = Field(description="that was found by switching, not read off a label")


class SpaceShown(Frozen):
    """One space of the panel."""

    space: int
    row: int
    side: int
    leg: str
    switches: tuple[str, ...] = Field(description="ids of the breakers in it, the upper half first")


class PanelAnswer(Frozen):
    """A panel as it is drawn and labelled."""

    panel: str = Field(description="id")
    spaces: tuple[SpaceShown, ...]
    breakers: tuple[BreakerInPanel, ...]
    warnings: tuple[str, ...]


def panels_of(feeds: Feeds, fed: Sequence[Fed]) -> tuple[PanelAnswer, ...]:
    """Lay out and judge every panel of a site.

    Parameters
    ----------
    fed
        What was found to feed what (`answer_of`).
    """
    return tuple(_panel(feeds, fed, panel) for panel in feeds.panels)


def _panel(feeds: Feeds, fed: Sequence[Fed], panel: Panel) -> PanelAnswer:
    switches = [
        switch
        for switch in feeds.switches
        if switch.kind is SwitchKind.BREAKER and switch.panel == panel.id and switch.poles
    ]
    return PanelAnswer(
        panel=panel.id,
        spaces=tuple(_space(panel, space, switches) for space in range(1, panel.spaces + 1)),
        breakers=tuple(_breaker(feeds, fed, panel, each_switch, switches) for each_switch in switches),
        warnings=tuple(_warnings(panel, switches)),
    )


def _space(panel: Panel, space: int, switches: Sequence[SwitchOnSite]) -> SpaceShown:
    row, side = panel.place(space)
    inside = sorted(
        (pole, each_switch.id) for each_switch in switches for pole in each_switch.poles if space_of(pole) == space
    )
    return SpaceShown(
        space=space,
        row=row,
        side=side,
        leg=panel.leg(str(space)),
        switches=tuple(dict.fromkeys(switch for _, switch in inside)),
    )


def _breaker(
    feeds: Feeds, fed: Sequence[Fed], panel: Panel, switch: SwitchOnSite, switches: Sequence[SwitchOnSite]
) -> BreakerInPanel:
    legs = tuple(panel.leg(pole) for pole in switch.poles)
    standing, words, move = _judged(panel, switch, legs, switches)
    names = {unit.id: unit.name for unit in feeds.units}
    unit_names = [names[unit_fed.unit] for unit_fed in fed if unit_fed.found and switch.id in unit_fed.switches]
    return BreakerInPanel(
        switch=switch.id,
        poles=switch.poles,
        legs=legs,
        standing=standing,
        words=words,
        move=move,
        feeds=", ".join(unit_names) or switch.label,
        is_found=bool(unit_names),
    )


def _judged(
    panel: Panel, switch: SwitchOnSite, legs: tuple[str, ...], switches: Sequence[SwitchOnSite]
) -> tuple[PolesStanding, str, str]:
    """How a breaker's poles lie, in words, and what to move."""
    supply = supplies()[panel.system]
    if len(set(legs)) < len(legs):
        leg = next(leg for leg in legs if legs.count(leg) > 1)
        words = say("tools.poles_on_one_leg", count=_count(legs.count(leg)), leg=leg)
        return PolesStanding.WRONG, words, _move(panel, switch, switches)
    if len(legs) == 1:
        high = supply.high_leg == legs[0]
        return (
            (
                PolesStanding.WRONG,
                say("tools.one_pole_on_high_leg", leg=legs[0]),
                _away_from(panel, legs[0], switch, switches),
            )
            if high
            else (PolesStanding.RIGHT, say("tools.one_pole_on", leg=legs[0]), "")
        )
    if not _side_by_side(panel, switch.poles):
        return PolesStanding.LOOK, say("tools.poles_apart", legs=" and ".join(legs)), _move(panel, switch, switches)
    volts = abs(supply.phasors[legs[0]] - supply.phasors[legs[1]])
    return PolesStanding.RIGHT, say("tools.spans_legs", legs=", ".join(legs), volts=volts), ""


def _count(number: int) -> str:
    return {2: "Both poles", 3: "All three poles"}[number]


def _side_by_side(panel: Panel, poles: Sequence[str]) -> bool:
    """Whether poles lie on one side in rows that follow each other, so that one handle moves them."""
    places = sorted(panel.place(space_of(pole)) for pole in poles)
    return len({side for _, side in places}) == 1 and all(lower[0] - upper[0] == 1 for upper, lower in pairwise(places))


def _free(panel: Panel, switches: Sequence[SwitchOnSite], besides: SwitchOnSite) -> dict[int, frozenset[str]]:
    """Halves that are free in each space, once a breaker is out."""
    free = dict.fromkeys(range(1, panel.spaces + 1), frozenset("AB"))
    for switch in switches:
        for pole in switch.poles if switch.id != besides.id else ():
            free[space_of(pole)] -= halves_of(pole)
    return free


def _move(panel: Panel, switch: SwitchOnSite, switches: Sequence[SwitchOnSite]) -> str:
    """Say which pole to move where, so that the poles lie side by side on different legs."""
    free = {space for space, halves in _free(panel, switches, switch).items() if halves == frozenset("AB")}
    runs = [run for space in sorted(free) if (run := _run(panel, space, len(switch.poles))) and set(run) <= free]
    staying = [space_of(pole) for pole in switch.poles]
    best = min(runs, key=lambda run: (-len(set(run) & set(staying)), abs(run[0] - staying[0])), default=None)
    if best is None:
        # A breaker of one pole may make room.
        return say("tools.no_room_for_poles", count=len(switch.poles))
    target = " and ".join(f"{space} ({panel.leg(str(space))})" for space in best)
    return say("tools.move_poles", name=switch.name, target=target)


def _run(panel: Panel, space: int, count: int) -> tuple[int, ...]:
    """Spaces one below the other from one on; none where the panel ends."""
    row, side = panel.place(space)
    run = [panel.space_at(row + i, side) for i in range(count)]
    return tuple(number for number in run if number is not None) if None not in run else ()


def _away_from(panel: Panel, leg: str, switch: SwitchOnSite, switches: Sequence[SwitchOnSite]) -> str:
    free = [
        space for space, halves in _free(panel, switches, switch).items() if halves and panel.leg(str(space)) != leg
    ]
    if not free:
        return say("tools.no_room_off_high_leg", leg=leg)
    return say("tools.move_poles", name=switch.name, target=f"{free[0]} ({panel.leg(str(free[0]))})")


def _warnings(panel: Panel, switches: Sequence[SwitchOnSite]) -> Iterator[str]:
    used_spaces = [
        (space_of(pole), half, switch)
        for switch in switches
        for pole in switch.poles
        for half in sorted(halves_of(pole))
    ]
    pairs_named: set[tuple[str, str]] = set()
    for (space, half, breaker), (other_space, other_half, other_breaker) in combinations(used_spaces, 2):
        if (space, half) == (other_space, other_half) and (breaker.id, other_breaker.id) not in pairs_named:
            pairs_named.add((breaker.id, other_breaker.id))
            yield (
                say("tools.pole_named_twice", name=breaker.name, space=space)
                if breaker.id == other_breaker.id
                else say("tools.space_taken_twice", space=space, name=breaker.name, name_2=other_breaker.name)
            )
    supply = supplies()[panel.system]
    for pair in panel.read:
        a, b = panel.leg(pair.a), panel.leg(pair.b)
        expected = abs(supply.phasors[a] - supply.phasors[b])
        if expected == 0 and pair.volts >= DIFFERENT_SHARE * supply.line_volts:
            yield say("tools.read_as_two_legs", a=pair.a, b=pair.b, volts=pair.volts, leg=a)
        elif expected > 0 and pair.volts <= SAME_LEG_SHARE * supply.line_volts:
            yield say("tools.read_as_one_leg", a=pair.a, b=pair.b, volts=pair.volts, leg=a, leg_2=b)
