"""A call as its repair page shows it: what is done about what was found, and what was chosen and noted."""

from pydantic import Field

from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing, Stop, Verdict
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.report import LoadReport
from zesty_copper.core.people import Person
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.repair.make_safe import make_safe
from zesty_copper.core.repair.notes import RepairNotes, check_notes, check_put_back
from zesty_copper.core.repair.plan import RepairPlan, plan_of
from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.core.repair.proving.proof import Proof, check_left, check_outcome, kept_up, numbers_in, proof_of
from zesty_copper.service.answers import whole_answer
from zesty_copper.service.jobs import job_for, job_of
from zesty_copper.store.records import Call, CallSummary, Visit

__all__ = ["CallRepair", "check_closing", "check_kept", "repair_of"]


class CallRepair(Frozen):
    """Everything that the repair page needs."""

    call: CallSummary
    verdict: Verdict
    stop: Stop | None
    safe: tuple[str, ...] = Field(description="what is seen to before the first look")
    plan: RepairPlan
    notes: RepairNotes
    proof: Proof
    logged: dict[str, float] = Field(description="numbers of the proof that the last load test has measured")
    may_change: bool


def repair_of(call: Call, viewer: Person, last_test: LoadReport | None = None) -> CallRepair:
    """Lay a call out for its repair page; what lies in a panel that is not theirs is handed over.

    Parameters
    ----------
    last_test
        What the last load test found; none where there was none.
    """
    job = job_for(call, viewer)
    diagnosis = whole_answer(job)
    plan, proof = _laid_out(call, diagnosis, call.repair)
    sheets = sheets_with(call.circuit, call.ratings.sheets, call.readings)
    logged = {} if last_test is None else numbers_in(call.circuit, sheets, call.repair.proof, last_test)
    return CallRepair(
        call=call.summary.model_copy(update={"scope": job.scope}),
        verdict=diagnosis.verdict,
        stop=diagnosis.stop,
        safe=tuple(make_safe(call.circuit, job.scope)),
        plan=plan,
        notes=call.repair,
        proof=proof,
        logged=logged,
        may_change=viewer.role.changes_calls,
    )


def check_kept(call: Call, notes: RepairNotes) -> None:
    """Check notes on their way in: ways that exist with what they ask, and a proof that holds where it is said to.

    Raises
    ------
    BadInput
        If not; the field is named.
    """
    check_notes(notes)
    if notes.proof.outcome is not Outcome.OPEN:
        check_outcome(_laid_out(call, whole_answer(job_of(call)), notes)[1], notes.proof)


def check_closing(call: Call) -> None:
    """Check that a call may be closed: everything put back, and what was found proven or left with its reason.

    Raises
    ------
    BadInput
        If not; what is to be done first is named.
    """
    check_put_back(call.repair)
    verdict = call.summary.found
    if verdict is None or verdict.standing is not Standing.SURE:
        return
    check_left(call.repair.proof)
    # What was read since may ask for more.
    check_kept(call, call.repair)


def _laid_out(call: Call, diagnosis: Diagnosis, notes: RepairNotes) -> tuple[RepairPlan, Proof]:
    """What is done, and what proves it."""
    sheets = sheets_with(call.circuit, call.ratings.sheets, call.readings)
    plan = plan_of(call.circuit, diagnosis, call.looks, sheets, notes)
    parts = [call.circuit.part(text) for text in plan.worked_on]
    upkeep = call.summary.visit is Visit.MAINTENANCE
    if upkeep:
        parts = list(dict.fromkeys([*parts, *kept_up(call.circuit)]))
    return plan, proof_of(call.circuit, sheets, parts, notes.proof, is_maintenance=upkeep)
