"""What is said of a circuit before anything was read on it, kept for the next call on such a circuit."""

from hashlib import sha256

from sqlalchemy.orm import Session

from zesty_copper.compiled_code import engine_version
from zesty_copper.core.diagnosis.model.answer import Diagnosis
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.service.answers import Answers, whole_answer
from zesty_copper.store.calls import queries

__all__ = ["answers_kept_in"]


def answers_kept_in(session: Session, answer: Answers = whole_answer) -> Answers:
    """Answer jobs, and those without a reading or look from the database where one like it was answered before."""

    def kept(job: Job) -> Diagnosis:
        unread = not job.readings and not job.looks
        key = _key(job) if unread else ""
        diagnosis = queries.unread_answer(session, key) if unread else None
        # What was said is stored before it is thought about, and nobody waits for it meanwhile.
        session.commit()
        if not unread:
            return answer(job)
        if diagnosis is None:
            diagnosis = whole_answer(job)
            queries.keep_unread_answer(session, key, engine_version(), diagnosis)
        return diagnosis

    return kept


def _key(job: Job) -> str:
    """Tell circuit, scope, what is known beforehand and the version of the core from all others."""
    # Sheets say nothing to a diagnosis but by the prior factors they make.
    job_text = job.model_dump_json(exclude={"sheets"})
    return sha256(f"{engine_version()} {job_text}".encode()).hexdigest()
