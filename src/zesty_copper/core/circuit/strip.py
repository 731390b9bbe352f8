"""The circuit as a strip: rows from source to load, a point on each leg below each row."""

from pydantic import Field

from zesty_copper.core.circuit.catalogue import Role
from zesty_copper.core.circuit.model import Circuit, Part, Zone
from zesty_copper.core.frozen import Frozen

__all__ = ["Strip", "StripRow", "strip_of"]

FEET_PER_METRE = 1 / 0.3048


class StripRow(Frozen):
    """One part of the path."""

    part: str
    name: str
    device: str
    detail: str = Field(description="size, length, rating: what the eye looks for")
    role: Role
    zone: Zone
    switch: str | None = Field(description="the switch that opens it")
    carrier_of: str | None = Field(description="the switch whose opening takes the row's points out of the box")
    clampable: bool
    points: dict[str, str] = Field(description="point id on its load side, by leg; none for a shunt")
    point_name: str


class Strip(Frozen):
    """All rows, in the order in which power runs."""

    legs: tuple[str, ...]
    rows: tuple[StripRow, ...]


def strip_of(circuit: Circuit) -> Strip:
    """Lay a circuit out for the eye and the thumb."""
    return Strip(legs=circuit.legs, rows=tuple(_row(circuit, part) for part in circuit.parts))


def _row(circuit: Circuit, part: Part) -> StripRow:
    shunt = part.entry.role is Role.SHUNT
    carriers = [s.id for s in circuit.switches if not shunt and circuit.on_removed_carrier(part, frozenset({s.id}))]
    return StripRow(
        part=part.id,
        name=part.name,
        device=part.device,
        detail=detail_words(part),
        role=part.entry.role,
        zone=part.zone,
        switch=part.switch,
        carrier_of=carriers[0] if carriers else None,
        clampable=part.entry.clampable,
        points={} if shunt else {leg: f"{leg}@{part.id}" for leg in circuit.legs},
        point_name="" if shunt else part.point_name,
    )


def detail_words(part: Part) -> str:
    """Say a part's size in the trade's units: `8 AWG copper · 62 ft`, `40 A`, `18.6 A at 230 V`."""
    if part.conductor is not None:
        size = part.conductor.size_awg
        gauge = f"{size} AWG" if size > 0 else f"{1 - size}/0 AWG"
        return f"{gauge} {part.conductor.metal} · {part.conductor.length_m * FEET_PER_METRE:.0f} ft"
    if part.load is not None:
        return f"{part.load.rated_amps:g} A at {part.load.rated_volts:g} V"
    return f"{part.rating_amps:g} A" if part.rating_amps else ""
