"""Everything that the sheets tell of a call, gathered before any of it is set on paper."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, tzinfo

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.load_test.report import LoadReport
from zesty_copper.core.observations.strip import Strip
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.sizing.staircase import Tread
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.plan import RepairPlan
from zesty_copper.core.repair.proving.proof import Proof
from zesty_copper.store.records import CallSummary

__all__ = ["HandOver", "Picture", "PrintedReading"]


@dataclass(frozen=True)
class PrintedReading:
    """A reading or look in words."""

    at: datetime
    place: str
    state: str
    value: str
    corrected: bool = False


@dataclass(frozen=True)
class Picture:
    """A photo, and what it shows."""

    words: str
    jpeg: bytes


@dataclass(frozen=True)
class HandOver:
    """A call, with all that its sheets tell.

    Attributes
    ----------
    zone
        In whose time moments are told.
    today
        When it is handed over.
    """

    call: CallSummary
    circuit: Circuit
    strip: Strip
    diagnosis: Diagnosis
    plan: RepairPlan
    notes: RepairNotes
    proof: Proof
    sheets: Mapping[str, Sheet]
    readings: tuple[PrintedReading, ...]
    looks: tuple[PrintedReading, ...]
    treads: tuple[Tread, ...]
    tests: tuple[tuple[str, LoadReport], ...]
    zone: tzinfo
    today: datetime
    pictures: tuple[Picture, ...] = field(default=())

    @property
    def is_sure(self) -> bool:
        """Whether the cause was found."""
        return self.diagnosis.verdict.standing is Standing.SURE

    @property
    def found(self) -> str | None:
        """The part that the verdict names; none where it names no part."""
        suspects = {suspect.key: suspect for suspect in self.diagnosis.suspects}
        first = next((suspects[key] for key in self.diagnosis.verdict.suspects if key in suspects), None)
        return first.part if first is not None else None

    def moment(self, at: datetime) -> str:
        """A moment in the reader's own time."""
        return f"{at.astimezone(self.zone):%b %-d, %Y, %-I:%M %p}"
