"""A part of a circuit: what it is, where it sits, which conductors it carries on, and what opens it."""

from enum import StrEnum
from functools import cached_property
from typing import Annotated, Any

from pydantic import Field, model_validator

from zesty_copper.core.circuit.parts.catalogue import PartEntry, PartRole, catalogue, entry
from zesty_copper.core.circuit.parts.conductor import Conductor
from zesty_copper.core.circuit.parts.delay import Delay
from zesty_copper.core.circuit.parts.loads import LoadData, Nameplate, Winding
from zesty_copper.core.circuit.systems import SystemName
from zesty_copper.core.frozen import Frozen

__all__ = ["NEUTRAL", "Drives", "Identifier", "Lane", "Part", "Switch", "Zone"]

NEUTRAL = "N"

Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
Lane = Annotated[str, Field(pattern=r"^[A-Z][A-Z0-9]{0,3}$")]
"""Name of a conductor: L1, L2, L3, N, G; R, C, W, Y, … on the control side; S for a start lead."""


class Zone(StrEnum):
    """Which cover has to be open for a hand to reach a point."""

    PANEL = "panel"
    DISCONNECT = "disconnect"
    UNIT = "unit"
    THERMOSTAT = "thermostat"


class Drives(StrEnum):
    """What a motor turns."""

    COMPRESSOR = "compressor"
    FAN = "fan"
    PUMP = "pump"
    OTHER = "other"


class Switch(Frozen):
    """Something that opens and closes conductors together: by a hand, by a call, or by its coil."""

    id: Identifier
    name: str
    closed: str = Field(description="word for the closed position")
    open: str = Field(description="word for the open position")
    removes_carrier: bool = Field(default=False, description="opening it takes the parts between its contacts away")
    coil: Identifier | None = Field(default=None, description="the part whose voltage closes it; none: a hand does")
    closes_after: Delay | None = Field(default=None, description="its coil gets its volts; none: as its kind does")
    opens_after: Delay | None = Field(default=None, description="its coil loses them")


class Part(Frozen):
    """One row of the path, the same on every conductor it carries."""

    id: Identifier
    kind: str
    name: str = Field(min_length=1, max_length=60)
    device: str = Field(default="", max_length=60, description="the box it sits in, for the eye only")
    zone: Zone = Field(description="the cover to open to reach its load-side point")
    point: str = Field(default="", max_length=60, description="words for its load-side point, if not the catalogue's")
    after: Identifier | None = Field(default=None, description="the part it hangs on; by default the last before it")
    lanes: tuple[Lane, ...] | None = Field(
        default=None, description="conductors it carries or joins; by default all legs of its supply"
    )
    makes: tuple[Lane, ...] = Field(default=(), description="conductors that begin on its load side")
    switch: Identifier | None = Field(default=None, description="the switch that opens it")
    normally_closed: bool = Field(default=False, description="closed while its switch is open, and the reverse")
    conductor: Conductor | None = None
    load: LoadData | None = None
    winding: Winding | None = None
    capacitance_uf: float | None = Field(default=None, ge=0.01, le=1000, description="microfarad")
    system: SystemName | None = Field(default=None, description="of a further source; by default the circuit's")
    rating_amps: float | None = Field(default=None, ge=0.1, le=1000)
    drives: Drives | None = Field(default=None, description="of a motor: what it turns")
    nameplate: Nameplate | None = Field(
        default=None, description="of a breaker or fuse: what is marked for the circuit that begins there"
    )

    @model_validator(mode="before")
    @classmethod
    def _from_before(cls, value: Any) -> Any:
        """A motor stored before it could say what it turns says so by its name, once; from then on it is kept."""
        if not isinstance(value, dict) or "drives" in value:
            return value
        kind_entry = catalogue().get(str(value.get("kind")))
        if kind_entry is None or not kind_entry.turns or kind_entry.compresses:
            return value
        named = f"{value.get('id', '')} {value.get('name', '')}".lower()
        return value | ({"drives": "compressor"} if "compressor" in named else {})

    @cached_property
    def entry(self) -> PartEntry:
        """What all parts of this kind have in common."""
        return entry(self.kind)

    @property
    def compresses(self) -> bool:
        """Whether it is a motor-compressor, which has rules of its own (NEC 440)."""
        return self.entry.compresses if self.drives is None else self.drives is Drives.COMPRESSOR

    @property
    def point_name(self) -> str:
        """Words for the point on its load side."""
        return self.point or self.entry.point

    @property
    def has_points(self) -> bool:
        """Whether conductors go on behind it."""
        return self.entry.role is not PartRole.SHUNT

    def __eq__(self, other: object) -> bool:
        """Two parts of one circuit are told apart by their ids, without looking at the rest."""
        if self is other:
            return True
        return isinstance(other, Part) and self.id == other.id and super().__eq__(other)

    def __hash__(self) -> int:
        return hash(self.id)
