"""A call as the workbench shows it: strip, readings that stand, and the diagnosis."""

from datetime import datetime
from functools import lru_cache

from zesty_copper.core.circuit.measurement import Reading
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.strip import Strip, strip_of
from zesty_copper.core.circuit.words import place_words, state_words
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model import Diagnosis, Job, Scope
from zesty_copper.core.frozen import Frozen
from zesty_copper.store.records import Call, CallSummary, fold

__all__ = ["ShownReading", "Workbench", "job_of", "workbench_of"]


class ShownReading(Frozen):
    """A reading that stands, in words."""

    reading: Reading
    place: str
    state: str
    entered_at: datetime
    corrected: bool


class Workbench(Frozen):
    """Everything that one call's page needs."""

    call: CallSummary
    circuit: Circuit
    strip: Strip
    readings: tuple[ShownReading, ...]
    diagnosis: Diagnosis


_answer = lru_cache(maxsize=512)(diagnose)


def job_of(call: Call) -> Job:
    """Return the call as a job: circuit, readings that stand, and scope."""
    scope = Scope(panel_may_be_opened=call.summary.panel_may_be_opened)
    return Job(circuit=call.circuit, readings=fold(call.entries), scope=scope)


def workbench_of(call: Call) -> Workbench:
    """Lay a call out for its page."""
    job = job_of(call)
    shown = []
    for reading in job.readings:
        said = [entry for entry in call.entries if entry.reading_id == reading.id]
        shown.append(
            ShownReading(
                reading=reading,
                place=place_words(call.circuit, reading.measurement.place),
                state=state_words(call.circuit, reading.measurement.open_switches),
                entered_at=said[0].entered_at,
                corrected=any(entry.reading != said[0].reading for entry in said if entry.reading),
            )
        )
    return Workbench(
        call=call.summary,
        circuit=call.circuit,
        strip=strip_of(call.circuit),
        readings=tuple(shown),
        diagnosis=_answer(job),
    )
