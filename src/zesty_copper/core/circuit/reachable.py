"""Which states the switches can be brought to by hand, and what is off in them."""

from functools import lru_cache

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole

__all__ = ["dead_states", "is_off", "reachable_states"]


@lru_cache(maxsize=64)
def reachable_states(circuit: Circuit) -> tuple[frozenset[str], ...]:
    """States worth testing in: a switch is opened by hand only after those below it, so never under load.

    Each supply is opened from the load up; calls are dropped first of all. Control switches that nothing but a call
    follows count as calls.
    """
    chains: dict[str, list[str]] = {}
    for switch in circuit.by_hand:
        part = next(p for p in circuit.series if p.switch == switch.id)
        chains.setdefault(circuit.root(part).id, []).append(switch.id)
    calls = [s for root, ids in chains.items() if circuit.part(root).entry.role is PartRole.TRANSFORMER for s in ids]
    states = [frozenset[str]()]
    if calls:
        states.append(frozenset(calls))
    for root, ids in chains.items():
        if circuit.part(root).entry.role is PartRole.SOURCE:
            states += [frozenset(calls + ids[i:]) for i in range(len(ids) - 1, -1, -1)]
    return tuple(dict.fromkeys(states))


@lru_cache(maxsize=64)
def dead_states(circuit: Circuit) -> tuple[frozenset[str], ...]:
    """States worth locking out: each supply opened at its first switch, and at all below it."""
    by_hand = {p.switch for p in circuit.series if p.entry.moved_by == "hand"}
    states = [state for state in reachable_states(circuit) if state & by_hand]
    # What is opened further up is dead where the less opened state is, and more besides.
    return tuple(state for state in states if not any(state < larger for larger in states))


def is_off(circuit: Circuit, part: Part, open_switches: frozenset[str]) -> bool:
    """Whether a switch that is opened, or the coil of one that is not called, stands at a part or ahead of it."""
    coils = {switch.id: switch.coil for switch in circuit.switches}
    for above in circuit.path(part):
        if above.switch is None or above.normally_closed:
            continue
        coil = coils[above.switch]
        if above.switch in open_switches or (coil and is_off(circuit, circuit.part(coil), open_switches)):
            return True
    return False
