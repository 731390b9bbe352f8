"""A job as it is diagnosed: with what its ratings make likelier."""

from functools import lru_cache

from zesty_copper.core.diagnosis.model.job import Job, PriorFactor
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.ratings.inputs.from_circuit import sheets_with
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.rules.check import check
from zesty_copper.core.ratings.rules.finding import Finding
from zesty_copper.core.ratings.rules.likelier import likelier

__all__ = ["checked", "with_prior_factors"]

checked = lru_cache(maxsize=256)(check)
"""Every finding on a sheet; the sheets checked last are kept."""


def with_prior_factors(job: Job) -> Job:
    """Return a job with what its own sheets and circuit make likelier, besides what it brings along."""
    entered = {each_sheet.source: each_sheet.sheet for each_sheet in job.sheets}
    told = {factor.key for factor in job.prior_factors}
    prior_factors = [
        PriorFactor(key=key, factor=each_likelier.factor, reason=each_likelier.reason)
        for sheet in sheets_with(job.circuit, entered, job.readings).values()
        for each_likelier in likelier(_findings(sheet))
        if (key := FaultKey.of(each_likelier.kind, each_likelier.part)) not in told
    ]
    return job.model_copy(update={"prior_factors": (*job.prior_factors, *prior_factors)}) if prior_factors else job


def _findings(sheet: Sheet) -> tuple[Finding, ...]:
    return checked(sheet)
