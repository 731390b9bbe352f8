"""A call as its repair page shows it: what is done about what was found, and what was chosen and noted."""

from pydantic import Field

from zesty_copper.api.workbench import job_of, whole_answer
from zesty_copper.core.diagnosis.model.answer import Stop, Verdict
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.people import Person, narrowed
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.plan import RepairPlan, plan_of
from zesty_copper.store.records import Call, CallSummary

__all__ = ["CallRepair", "repair_of"]


class CallRepair(Frozen):
    """Everything that the repair page needs."""

    call: CallSummary
    verdict: Verdict
    stop: Stop | None
    plan: RepairPlan
    notes: RepairNotes
    version: str = Field(description="of the notes: whoever changes them says which were seen")
    may_change: bool


def repair_of(call: Call, viewer: Person) -> CallRepair:
    """Lay a call out for its repair page; what lies in a panel that is not theirs is handed over."""
    scope = narrowed(call.summary.scope, viewer)
    job = job_of(call).model_copy(update={"scope": scope})
    diagnosis = whole_answer(job)
    sheets = sheets_with(call.circuit, call.ratings.sheets, call.readings)
    return CallRepair(
        call=call.summary.model_copy(update={"scope": scope}),
        verdict=diagnosis.verdict,
        stop=diagnosis.stop,
        plan=plan_of(call.circuit, diagnosis, call.looks, sheets, call.repair),
        notes=call.repair,
        version=call.versions.repair,
        may_change=viewer.role.changes_calls,
    )
