"""What goes into a diagnosis: a circuit, what was read and seen on it, and how far the technician may go."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, PlainSerializer, model_validator

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Identifier
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look, check_look
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.measurement import Reading, check_reading
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.ratings.inputs.sheet import Sheet

__all__ = ["MOST_SAID", "USUAL_TOOLS", "Job", "PriorFactor", "Scope", "SupplySheet", "Way"]


class Way(StrEnum):
    """In which order to work, where practitioners differ."""

    FEWEST = "fewest"
    UNIT_BACK = "unit_back"
    SOURCE_OUT = "source_out"


USUAL_TOOLS = frozenset({Tool.LOZ, Tool.OHMS, Tool.SEQUENCE, Tool.EYES})
"""What the tool reckons with unless it is told otherwise; of the tester it only takes what is said unasked."""


MOST_SAID = 200
"""Readings and looks that one job holds, together where a call keeps them."""


class Scope(Frozen):
    """How far the technician may go, in which order, and with what."""

    panel_may_be_opened: bool = False
    panel_volts_only: bool = Field(default=False, description="volts may be read in the panel, and nothing else done")
    way: Way = Way.FEWEST
    use_past: bool = Field(default=True, description="whether what the firm has found before makes faults likelier")
    tools: Annotated[frozenset[Tool], PlainSerializer(sorted, return_type=list[Tool])] = USUAL_TOOLS


class PriorFactor(Frozen):
    """Something known beforehand that makes some faults likelier, or less likely."""

    key: str = Field(min_length=1, max_length=120, description="of a fault, or how the keys of several begin")
    factor: float = Field(gt=0, le=20)
    reason: str = Field(max_length=300)


class SupplySheet(Frozen):
    """What was entered for the ratings of one supply."""

    source: Identifier
    sheet: Sheet


class Job(Frozen):
    """A circuit, what was read on it, and the scope: all that a diagnosis needs. Also the open file format."""

    format: Literal["zesty-copper-job/1"] = "zesty-copper-job/1"
    circuit: Circuit
    readings: tuple[Reading, ...] = Field(default=(), max_length=MOST_SAID)
    looks: tuple[Look, ...] = Field(default=(), max_length=MOST_SAID)
    scope: Scope = Scope()
    prior_factors: tuple[PriorFactor, ...] = Field(default=(), max_length=200)
    sheets: tuple[SupplySheet, ...] = Field(default=(), max_length=8)

    @model_validator(mode="after")
    def _check(self) -> Self:
        ids = [reading.id for reading in self.readings] + [look.id for look in self.looks]
        if len(set(ids)) != len(ids):
            raise ValueError("Two readings share one id: give each reading its own.")
        sources = {part.id for part in self.circuit.series if part.entry.role is PartRole.SOURCE}
        for i, sheet in enumerate(self.sheets):
            if sheet.source not in sources:
                source_ids = ", ".join(sorted(sources))
                raise ValueError(
                    f"sheets.{i}.source: This circuit has no supply “{sheet.source}”: it has {source_ids}."
                )
        for i, look in enumerate(self.looks):
            try:
                check_look(self.circuit, look)
            except BadInput as error:
                raise ValueError(f"looks.{i}.{error.field}: {error.message}") from None
        for i, reading in enumerate(self.readings):
            try:
                check_reading(self.circuit, reading)
            except BadInput as error:
                # Pydantic reports a ValueError with its place in the file.
                raise ValueError(f"readings.{i}.{error.field}: {error.message}") from None
        return self
