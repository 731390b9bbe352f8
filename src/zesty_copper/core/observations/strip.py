"""The circuit as a strip: for each supply a section of rows, with a point on each conductor below each row."""

from typing import Literal

from pydantic import Field

from zesty_copper.core.circuit.hands import own_ends
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.parts.conductor import FEET_PER_METRE, gauge_words
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.words import mark_words
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.registry import OBSERVATIONS

__all__ = ["Strip", "StripRow", "StripSection", "detail_words", "strip_of"]


class StripRow(Frozen):
    """One part of the path."""

    part: str
    kind: str
    name: str
    device: str
    detail: str = Field(description="size, length, rating: what the eye looks for")
    role: PartRole
    idle: bool
    zone: Zone
    switch: str | None = Field(description="the switch that opens it")
    normally_closed: bool
    carrier_of: str | None = Field(description="the switch whose opening takes the row's points out of the box")
    held: str | None = Field(description="the switch whose contacts a hand can push in or keep out here")
    leads: dict[str, Point] = Field(description="point ids on its own leads once it is taken out, by conductor")
    clampable: bool
    takes: tuple[str, ...] = Field(description="kinds of place that something beside the probes is read at here")
    looked_at_as: Literal["part", "run", "load"] | None = Field(description="which signs are looked for there")
    is_motor: bool
    calls: bool = Field(description="whether it is what calls")
    moves_contacts: bool = Field(description="whether it is there to move the contacts of other parts")
    hangs_on: str | None = Field(description="id of the part ahead of it")
    reach: tuple[str, ...] = Field(description="conductors that come as far as it")
    points: dict[str, Point] = Field(description="point id on its load side, by conductor; none for a shunt")
    comes_from: dict[str, Point] = Field(description="point id ahead of it, by conductor; of a shunt, what it joins")
    point_name: str
    marks: dict[str, str] = Field(description="what its load-side terminals carry, where that is not the conductor")


class StripSection(Frozen):
    """What hangs on one supply, or on one transformer's secondary."""

    root: str = Field(description="id of the source or transformer it begins with")
    title: str
    lanes: tuple[str, ...] = Field(description="conductors, ground last")
    rows: tuple[StripRow, ...]


class Strip(Frozen):
    """All sections, in the order in which power runs."""

    sections: tuple[StripSection, ...]


def strip_of(circuit: Circuit) -> Strip:
    """Lay a circuit out for the eye and the thumb."""
    roots = [part for part in circuit.parts if part.entry.role in (PartRole.SOURCE, PartRole.TRANSFORMER)]
    return Strip(sections=tuple(_section(circuit, root) for root in roots))


def _section(circuit: Circuit, root: Part) -> StripSection:
    mine = [part for part in circuit.parts if part is not root and circuit.root(part) is root]
    lanes = dict.fromkeys(lane for part in (root, *mine) if part.has_points for lane in _own_lanes(circuit, part, root))
    neutral = (NEUTRAL,) if NEUTRAL in lanes else ()
    control = root.entry.role is PartRole.TRANSFORMER
    title = f"{root.winding.secondary_volts:g} V from the {root.name}" if control and root.winding else ""
    return StripSection(
        root=root.id,
        title=title or f"{circuit.supply_of(root).label}, {root.name}",
        lanes=(*(lane for lane in lanes if lane not in (NEUTRAL, GROUND)), *neutral, GROUND),
        rows=tuple(_row(circuit, part, root) for part in ((root, *mine))),
    )


def _own_lanes(circuit: Circuit, part: Part, root: Part) -> tuple[str, ...]:
    """Conductors of a part within a section: a transformer's primary stands in the section that feeds it."""
    if part.entry.role is PartRole.TRANSFORMER and part is not root:
        return ()
    return circuit.lanes_of(part)


def _row(circuit: Circuit, part: Part, root: Part) -> StripRow:
    carriers = [
        s.id for s in circuit.switches if part.has_points and circuit.on_removed_carrier(part, frozenset({s.id}))
    ]
    return StripRow(
        part=part.id,
        kind=part.kind,
        name=part.name,
        device=part.device,
        detail=detail_words(part),
        # In the section that feeds it a transformer only joins two conductors; in its own it is the source.
        role=PartRole.SHUNT if part.entry.role is PartRole.TRANSFORMER and part is not root else part.entry.role,
        idle=part.entry.idle,
        zone=part.zone,
        switch=part.switch,
        normally_closed=part.normally_closed,
        carrier_of=carriers[0] if carriers else None,
        held=part.switch if part.entry.armature else None,
        leads=_leads(circuit, part, root),
        clampable=part.entry.clampable,
        takes=tuple(kind.kind for kind in OBSERVATIONS if kind.picks is not None and kind.is_read_at(circuit, part)),
        looked_at_as=_looked_at_as(circuit, part),
        is_motor=part.entry.turns,
        calls=part.entry.calls,
        moves_contacts=part.entry.moves_contacts,
        hangs_on=None if part is root else circuit.feed(part).id,
        reach=circuit.reach(part),
        points={lane: Point.at(lane, part.id) for lane in _own_lanes(circuit, part, root)} if part.has_points else {},
        comes_from=_ahead(circuit, part, root),
        point_name=part.point_name if part.has_points else "",
        marks={lane: mark for lane in circuit.lanes_of(part) if (mark := mark_words(part, lane)) != lane},
    )


def _leads(circuit: Circuit, part: Part, root: Part) -> dict[str, Point]:
    """Own leads of what can be taken out: a load, or a part in a run that is no wire."""
    stays = part is root or part.conductor is not None or part.entry.elsewhere or part.winding is not None
    return {} if stays else {point.lane: point for point in own_ends(circuit, part)}


def _looked_at_as(circuit: Circuit, part: Part) -> Literal["part", "run", "load"] | None:
    if part in circuit.loads:
        return "load"
    if part.entry.role is not PartRole.SERIES:
        return None
    return "part" if part.conductor is None else "run"


def _ahead(circuit: Circuit, part: Part, root: Part) -> dict[str, Point]:
    if part is root:
        return {}
    if part.entry.role is PartRole.TRANSFORMER:
        lanes = circuit.primary_lanes(part)
        return dict(zip(lanes, circuit.terminals(part), strict=True))
    return {out: point for into, out in circuit.pairs_of(part) if (point := circuit.upstream_point(part, into))}


def detail_words(part: Part) -> str:
    """Say a part's size in the trade's units: `8 AWG copper · 62 ft`, `40 A`, `18.6 A at 230 V`."""
    if part.conductor is not None:
        gauge = gauge_words(part.conductor.size_awg)
        return f"{gauge} {part.conductor.metal.words} · {part.conductor.length_m * FEET_PER_METRE:.0f} ft"
    if part.load is not None:
        if part.entry.elsewhere:
            return "load unknown"
        return f"{part.load.rated_amps:g} A at {part.load.rated_volts:g} V"
    if part.winding is not None:
        plate = part.winding
        return f"{plate.primary_volts:g} to {plate.secondary_volts:g} V · {plate.volt_amps:g} VA"
    if part.capacitance_uf is not None:
        return f"{part.capacitance_uf:g} µF"
    return f"{part.rating_amps:g} A" if part.rating_amps else ""
