"""Find the circuit: switch one thing, note what dies, and keep the map.

Labels are not trusted: each is one hint among others. For every piece of equipment and every kind of switch the
hypotheses are: one of that kind feeds it, two do (a second supply), none does. They are weighed by what every toggle
killed and left alive (Bayes' rule on a small finite set); the next toggle is the one expected to tell most.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations
from typing import Self

from pydantic import Field, model_validator

from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.tools.panel import Panel, Pole, space_of
from zesty_copper.core.words import say

__all__ = ["End", "Fed", "Feeds", "FeedsAnswer", "SwitchKind", "SwitchOnSite", "Toggle", "Unit", "answer_of"]

TWO_SHARE = 0.08
"""Chance that two switches of a kind feed one piece of equipment; common practice, no source."""
NONE_SHARE = 0.05
"""Chance that none of those listed does: a switch that is not listed yet."""
LABEL_FACTOR = 4.0
"""By how much a label that names a piece of equipment makes it likelier; common practice, no source."""
SEEN_RIGHT = 0.96
"""How often what dies, or stays, is noted right; common practice, no source."""
FOUND = 0.9
"""Probability from which the map names a switch."""
SUSPECTED = 0.25
"""Probability of two feeds from which a second supply is warned of."""


class SwitchKind(StrEnum):
    """Kinds of switch; one of each belongs to a piece of equipment."""

    BREAKER = "breaker"
    DISCONNECT = "disconnect"
    THERMOSTAT = "thermostat"


class Result(StrEnum):
    """What became of a piece of equipment that ran, or was live, before."""

    DIED = "died"
    PARTLY = "partly"
    STAYED = "stayed"


class SwitchOnSite(Frozen):
    """A breaker, disconnect or thermostat, and what its label claims."""

    id: Identifier
    kind: SwitchKind
    name: str = Field(min_length=1, max_length=60)
    label: str = Field(default="", max_length=60, description="what is written beside it")
    amps: float | None = Field(default=None, ge=0.1, le=6000, description="rating on its handle")
    panel: Identifier | None = Field(default=None, description="the panel that a breaker sits in")
    poles: tuple[Pole, ...] = Field(default=(), max_length=3, description="spaces of its poles, from the top")


class Unit(Frozen):
    """A piece of equipment, or a box that can be tested for life."""

    id: Identifier
    name: str = Field(min_length=1, max_length=60)


class Toggle(Frozen):
    """One switch turned off, and what became of what was alive before."""

    id: str = Field(min_length=1, max_length=64)
    switch: Identifier
    results: dict[Identifier, Result] = Field(min_length=1)


class End(Frozen):
    """What a conductor looks like at the source and at the unit."""

    unit: Identifier
    at_source: str = Field(min_length=1, max_length=60, description="metal and color, as copper black")
    at_unit: str = Field(min_length=1, max_length=60)


class Feeds(Frozen):
    """What is known of a site: switches, equipment, toggles in order, and the ends of conductors."""

    switches: tuple[SwitchOnSite, ...] = Field(default=(), max_length=100)
    units: tuple[Unit, ...] = Field(default=(), max_length=20)
    toggles: tuple[Toggle, ...] = Field(default=(), max_length=200)
    ends: tuple[End, ...] = Field(default=(), max_length=40)
    panels: tuple[Panel, ...] = Field(default=(), max_length=12)

    @model_validator(mode="after")
    def _check(self) -> Self:
        switches, units = {switch.id for switch in self.switches}, {each_unit.id for each_unit in self.units}
        if len(switches) < len(self.switches) or len(units) < len(self.units):
            raise ValueError("Two switches, or two units, share one id: give each its own.")
        for toggle in self.toggles:
            if toggle.switch not in switches:
                raise ValueError(f"A toggle names the switch “{toggle.switch}”, which is not listed.")
            for unit in toggle.results.keys() - units:
                raise ValueError(f"A toggle names the unit “{unit}”, which is not listed.")
        panels = {each_panel.id: each_panel for each_panel in self.panels}
        if len(panels) < len(self.panels):
            raise ValueError("Two panels share one id: give each its own.")
        for site_switch in self.switches:
            panel = panels.get(site_switch.panel or "")
            if site_switch.panel is not None and panel is None:
                raise ValueError(f"{site_switch.name} names the panel “{site_switch.panel}”, which is not listed.")
            for pole in site_switch.poles:
                if panel is not None and space_of(pole) > panel.spaces:
                    raise ValueError(
                        f"{site_switch.name} is in space {pole}, but {panel.name} has {panel.spaces} spaces."
                    )
        for end in self.ends:
            if end.unit not in units:
                raise ValueError(f"An end names the unit “{end.unit}”, which is not listed.")
        return self


class Fed(Frozen):
    """What feeds one piece of equipment, of one kind of switch."""

    unit: str
    kind: SwitchKind
    switches: tuple[str, ...] = Field(description="ids of the likeliest; none where it is not listed")
    probability: float
    found: bool
    words: str


class FeedsAnswer(Frozen):
    """The map so far, the toggle that decides most, and what to beware of."""

    fed: tuple[Fed, ...]
    next_switch: str | None = Field(description="id of the switch to turn off; none when nothing is left to decide")
    next_words: str
    bits: float
    warnings: tuple[str, ...]


_Weights = dict[tuple[str, ...], float]
"""Probability of each set of switches."""


def answer_of(feeds: Feeds) -> FeedsAnswer:
    """Weigh every hypothesis, and choose the next toggle."""
    names = {each_switch.id: each_switch.name for each_switch in feeds.switches}
    units = {each_unit.id: each_unit.name for each_unit in feeds.units}
    weights = {
        (unit.id, kind): _weigh(feeds, unit, kind)
        for unit in feeds.units
        for kind in SwitchKind
        if any(each_switch.kind is kind for each_switch in feeds.switches)
    }
    fed = tuple(_fed(unit, kind, by_switches, names, units) for (unit, kind), by_switches in weights.items())
    open_ = {key: by_switches for key, by_switches in weights.items() if max(by_switches.values()) < FOUND}
    gains = _gains(feeds.switches, open_)
    best = max(gains, key=lambda switch: gains[switch], default=None)
    worth = best is not None and gains[best] >= 0.02
    return FeedsAnswer(
        fed=fed,
        next_switch=best if worth else None,
        next_words=say("tools.turn_off_note_what", names=names[best]) if worth and best else _nothing_to_do(feeds),
        bits=gains[best] if worth and best else 0.0,
        warnings=tuple(_warnings(feeds, weights, names, units)),
    )


def _nothing_to_do(feeds: Feeds) -> str:
    if not feeds.switches or not feeds.units:
        return say("tools.list_switches_you_can")
    return say("tools.nothing_left_decide_among")


def _weigh(feeds: Feeds, unit: Unit, kind: SwitchKind) -> _Weights:
    """Probability of every set of switches of one kind that may feed a unit."""
    mine = [switch for switch in feeds.switches if switch.kind is kind]
    hints = {each_switch.id: LABEL_FACTOR if _names(each_switch.label, unit.name) else 1.0 for each_switch in mine}
    total = sum(hints.values())
    weights: _Weights = {(): NONE_SHARE}
    for each_toggle in mine:
        weights[each_toggle.id,] = (1 - NONE_SHARE - TWO_SHARE) * hints[each_toggle.id] / total
    pairs = list(combinations([each_switch.id for each_switch in mine], 2))
    for pair in pairs:
        weights[pair] = TWO_SHARE / len(pairs)
    for toggle in feeds.toggles:
        result = toggle.results.get(unit.id)
        if result is None or toggle.switch not in hints:
            continue
        weights = {chosen: weight * _likelihood(chosen, toggle.switch, result) for chosen, weight in weights.items()}
    whole = sum(weights.values())
    return {chosen: weight / whole for chosen, weight in weights.items()}


def _names(label: str, unit: str) -> bool:
    """Whether a label speaks of a unit: they share a word of some length."""
    words = {word.lower() for word in unit.replace("-", " ").split() if len(word) > 2}
    return bool(words & {word.lower() for word in label.replace("-", " ").split()})


def _likelihood(chosen: Sequence[str], switch: str, result: Result) -> float:
    """How likely a result is if these switches feed the unit."""
    expected = Result.STAYED if switch not in chosen else Result.DIED if len(chosen) == 1 else Result.PARTLY
    return SEEN_RIGHT if result is expected else (1 - SEEN_RIGHT) / 2


def _gains(switches: Sequence[SwitchOnSite], weights: dict[tuple[str, SwitchKind], _Weights]) -> dict[str, float]:
    """Expected information of turning each switch off, over all units [bit].

    Sets of switches fall into three classes by what is expected of them when one is turned off, so that per class the
    sum of the weights and that of w·log w are all that the entropies need: one pass over the sets serves every switch.
    """
    gains = {each_switch.id: 0.0 for each_switch in switches}
    for (_, kind), chances in weights.items():
        whole = _Sums(sum(chances.values()), sum(map(_w_log_w, chances.values())))
        classes = {
            each_switch.id: {Result.DIED: _Sums(), Result.PARTLY: _Sums()}
            for each_switch in switches
            if each_switch.kind is kind
        }
        for chosen, weight in chances.items():
            for switch in chosen:
                sums = classes[switch][Result.DIED if len(chosen) == 1 else Result.PARTLY]
                sums.weight += weight
                sums.w_log_w += _w_log_w(weight)
        for switch, outcomes in classes.items():
            died, partly = outcomes[Result.DIED], outcomes[Result.PARTLY]
            stayed = _Sums(whole.weight - died.weight - partly.weight, whole.w_log_w - died.w_log_w - partly.w_log_w)
            gains[switch] += _told_by({**outcomes, Result.STAYED: stayed}) - whole.w_log_w
    return gains


@dataclass
class _Sums:
    """Over the sets of one class."""

    weight: float = 0.0
    w_log_w: float = 0.0


def _w_log_w(weight: float) -> float:
    return weight * math.log2(weight) if weight > 0 else 0.0


def _told_by(classes: Mapping[Result, _Sums]) -> float:
    """Return minus the entropy that is left once the result is seen [bit]."""
    entropy_left = 0.0
    for result in Result:
        chance_seen = {expected: SEEN_RIGHT if result is expected else (1 - SEEN_RIGHT) / 2 for expected in classes}
        share = sum(chance_seen[outcome] * sums.weight for outcome, sums in classes.items())
        entropy_left += sum(
            chance_seen[outcome] * (sums.w_log_w + sums.weight * math.log2(chance_seen[outcome]))
            for outcome, sums in classes.items()
        )
        entropy_left -= _w_log_w(share)
    return entropy_left


def _fed(unit: str, kind: SwitchKind, weights: _Weights, names: dict[str, str], units: dict[str, str]) -> Fed:
    chosen = max(weights, key=lambda weight: weights[weight])
    probability = weights[chosen]
    is_sure = probability >= FOUND
    switch_words = " and ".join(names[text] for text in chosen) or f"no {kind} of those listed"
    words = f"{units[unit]}: {switch_words}" if is_sure else f"{units[unit]}: likeliest {switch_words}, not yet sure"
    return Fed(unit=unit, kind=kind, switches=chosen, probability=probability, found=is_sure, words=words)


def _warnings(
    feeds: Feeds,
    weights: dict[tuple[str, SwitchKind], _Weights],
    names: dict[str, str],
    units: dict[str, str],
) -> list[str]:
    warnings = []
    for (unit, kind), shares in weights.items():
        two = {chosen: share for chosen, share in shares.items() if len(chosen) > 1}
        if kind is SwitchKind.BREAKER and sum(two.values()) > SUSPECTED:
            unit_words = " and ".join(names[fed_unit] for fed_unit in max(two, key=lambda fed_unit: two[fed_unit]))
            warnings.append(say("tools.seems_have_second_supply", units=units[unit], both=unit_words))
    warnings += [
        say("tools.part_stayed_alive_when", name=each_unit.name)
        for each_unit in feeds.units
        if any(toggle.results.get(each_unit.id) is Result.PARTLY for toggle in feeds.toggles)
    ]
    warnings += [
        say("tools.wires_are_source_unit", units=units[end.unit], at_source=end.at_source, at_unit=end.at_unit)
        for end in feeds.ends
        if end.at_source.strip().lower() != end.at_unit.strip().lower()
    ]
    for switch in feeds.switches:
        for fed_unit in feeds.units:
            chosen, share = max(weights.get((fed_unit.id, switch.kind), {(): 1.0}).items(), key=lambda pair: pair[1])
            if _names(switch.label, fed_unit.name) and share >= FOUND and switch.id not in chosen:
                warnings.append(
                    say("tools.label_says_but_does", name=switch.name, label=switch.label, name_2=fed_unit.name)
                )
    return warnings
