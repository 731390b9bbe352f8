"""How places on a circuit are said."""

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.words import say

__all__ = ["at_words", "mark_words", "point_words"]


def at_words(circuit: Circuit, part: Part) -> str:
    """Say where a part's load side is; the supply's name is added where there are several."""
    sources = [p for p in circuit.series if p.entry.role is PartRole.SOURCE]
    root = circuit.root(part) if part.entry.role is not PartRole.TRANSFORMER else part
    further = root in sources[1:] and root is not part
    at = f"the {part.point_name}" if part.has_points else say("circuit.its_own_leads", name=part.name)
    return f"{at} ({root.name})" if further else at


def point_words(circuit: Circuit, point: Point) -> str:
    """Say where a point is: `L2 at the fuse, load end`; behind a contactor by the mark of its terminal, T2."""
    if point == GROUND:
        return "ground"
    lane, part = circuit.split_point(point)
    return f"{'ground' if lane == GROUND else mark_words(part, lane)} at {at_words(circuit, part)}"


def mark_words(part: Part, lane: str) -> str:
    """Say a conductor as the part's load-side terminal is marked: T1 for L1 on a contactor."""
    mark = part.entry.load_mark
    return mark + lane.removeprefix("L") if mark and lane.startswith("L") else lane
