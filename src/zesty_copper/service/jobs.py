"""The one way from a call to the job that is answered, for its pages, the shell, the demo and files."""

from functools import lru_cache

from zesty_copper.core.diagnosis.model.job import Job, PriorFactor, SupplySheet
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.people import Person, narrowed
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Finding
from zesty_copper.core.ratings.rules.likelier import likelier
from zesty_copper.store.records import Call

__all__ = ["checked", "job_for", "job_of", "job_to_keep", "with_prior_factors"]

checked = lru_cache(maxsize=256)(check)
"""Every finding on a sheet; the sheets checked last are kept."""


def with_prior_factors(job: Job) -> Job:
    """Return a job with what its own sheets and circuit make likelier, besides what it brings along."""
    entered = {each_sheet.source: each_sheet.sheet for each_sheet in job.sheets}
    keys = {factor.key for factor in job.prior_factors}
    prior_factors = [
        PriorFactor(key=key, factor=each_likelier.factor, reason=each_likelier.reason)
        for sheet in sheets_with(job.circuit, entered, job.readings).values()
        for each_likelier in likelier(_findings(sheet))
        if (key := FaultKey.of(each_likelier.kind, each_likelier.part)) not in keys
    ]
    return job.model_copy(update={"prior_factors": (*job.prior_factors, *prior_factors)}) if prior_factors else job


def _findings(sheet: Sheet) -> tuple[Finding, ...]:
    return checked(sheet)


def job_of(call: Call) -> Job:
    """Return a call as a job: what stands, scope, and what its ratings and the firm's past make likelier."""
    job = with_prior_factors(_told_in(call))
    return job.model_copy(update={"prior_factors": (*job.prior_factors, *_past_of(call, job))})


def job_for(call: Call, viewer: Person) -> Job:
    """Return a call as the job of somebody who looks at it: nobody is sent into a panel that is not theirs to open."""
    return job_of(call).model_copy(update={"scope": narrowed(call.summary.scope, viewer)})


def job_to_keep(call: Call) -> Job:
    """Return a call as a job that is answered alike wherever it is opened: the firm's past goes with it.

    What its ratings make likelier is not in it: that follows from its sheets and circuit anywhere.
    """
    job = _told_in(call)
    return job.model_copy(update={"prior_factors": (*job.prior_factors, *_past_of(call, with_prior_factors(job)))})


def _told_in(call: Call) -> Job:
    """What was told in a call, without what follows from it."""
    return Job(
        circuit=call.circuit,
        readings=call.readings,
        looks=call.looks,
        scope=call.summary.scope,
        prior_factors=call.ratings.prior_factors,
        sheets=tuple(SupplySheet(source=source, sheet=sheet) for source, sheet in call.ratings.sheets.items()),
    )


def _past_of(call: Call, job: Job) -> list[PriorFactor]:
    """What the firm's past makes likelier, where it is asked for: what is told of this very circuit goes before it."""
    keys = {factor.key for factor in job.prior_factors}
    return [factor for factor in call.past if factor.key not in keys] if job.scope.use_past else []
