"""What a test takes in minutes: reading, walking, switching, locking out."""

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib.resources import files

from zesty_copper.core.circuit.hands import FREE, Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Zone
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Measurement, zone_of
from zesty_copper.core.observations.registry import observation_in

__all__ = ["Effort", "effort_minutes", "efforts", "look_minutes"]


class Effort(Frozen):
    """The prices of `effort.toml` [min]."""

    look: float
    handle: float
    lift: float
    record: float
    lock: float
    reach: dict[Zone, float]
    switch: dict[str, float]


@cache
def efforts() -> Effort:
    """The prices, read once."""
    return Effort.model_validate(tomllib.loads(files(__package__).joinpath("effort.toml").read_text("utf-8")))


def effort_minutes(
    circuit: Circuit,
    zone: Zone,
    state: tuple[frozenset[str], Hands],
    units: Sequence[str],
    last: Measurement | None,
) -> float:
    """Minutes that a card takes, coming from the last measurement (None: standing at the unit, all closed).

    Parameters
    ----------
    zone, state
        Where the card's readings are taken, and in which state of switches and hands.
    units
        The unit of each reading it asks.
    """
    prices, kinds = efforts(), [observation_in(unit) for unit in units]
    open_switches, hands = state
    before, hands_before = last.state if last else (frozenset[str](), FREE)
    minutes = kinds[0].minutes + sum(kind.further_minutes for kind in kinds[1:])
    minutes += _reach(circuit, zone, last)
    for switch in open_switches ^ before:
        part = next(part for part in circuit.series if part.switch == switch)
        minutes += prices.switch["breaker" if part.zone is Zone.PANEL else part.entry.moved_by]
    # Leads are marked, taken off, and landed again before anything else is read.
    minutes += prices.switch["hand"] * len(hands.pushed_in | hands.held_out)
    minutes += prices.lift * len((hands.removed ^ hands_before.removed) | (hands.lifted ^ hands_before.lifted))
    locked = last is not None and last.observation.is_dead and not open_switches ^ before
    return minutes + (prices.lock if kinds[0].is_dead and not locked else 0)


def look_minutes(circuit: Circuit, zone: Zone, last: Measurement | None, *, handle: bool = False) -> float:
    """Effort of looking over a box, or at the handle on it [min]."""
    return (efforts().handle if handle else efforts().look) + _reach(circuit, zone, last)


def _reach(circuit: Circuit, zone: Zone, last: Measurement | None) -> float:
    zone_here = zone_of(circuit, last) if last else Zone.UNIT
    return efforts().reach[zone] if zone is not zone_here else 0.0
