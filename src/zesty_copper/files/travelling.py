"""Load tests and photos of a call on their way into a file, and out of one."""

from collections.abc import Mapping
from uuid import UUID, uuid5

from sqlalchemy.orm import Session

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.load_test.expected import analysed_for
from zesty_copper.files.job_file import JobFile
from zesty_copper.files.kept import KeptPhoto, KeptTrace
from zesty_copper.files.photo import kept_again
from zesty_copper.store.calls import load_tests, photos
from zesty_copper.store.calls.load_tests import LoadTestState, NewLoadTest
from zesty_copper.store.calls.photos import NewPhoto

__all__ = ["keep_all", "keep_photos", "keep_traces", "kept_photos", "kept_traces"]


def kept_traces(session: Session, call_id: UUID) -> dict[UUID, KeptTrace]:
    """Every load test of a call that has ended well, by its id."""
    ready = [load_test for load_test in load_tests.listed(session, call_id) if load_test.state is LoadTestState.READY]
    return {
        load_test.id: KeptTrace.model_validate(
            {
                "title": load_test.title,
                "source": load_test.source,
                "begun_at": load_test.begun_at,
                "channels": load_test.channels,
                "rows": load_test.rows,
                **KeptTrace.packed(load_tests.trace(session, call_id, load_test.id)),
            }
        )
        for load_test in ready
    }


def kept_photos(session: Session, call_id: UUID) -> dict[UUID, KeptPhoto]:
    """Every photo of a call, by its id."""
    photos_listed = zip(photos.listed(session, call_id), photos.jpegs(session, call_id), strict=True)
    return {
        photo.id: KeptPhoto(
            part=photo.part, lane=photo.lane, words=photo.words, added_at=photo.added_at, jpeg=KeptPhoto.packed(jpeg)
        )
        for photo, jpeg in photos_listed
    }


def keep_traces(session: Session, call_id: UUID, circuit: Circuit, traces: Mapping[UUID, KeptTrace]) -> None:
    """Keep load tests, each under its id."""
    for test_id, kept_trace in traces.items():
        new = NewLoadTest(id=test_id, title=kept_trace.title, channels=kept_trace.channels)
        if load_tests.add(session, call_id, new, kept_trace.source, kept_trace.begun_at):
            trace = kept_trace.trace()
            load_tests.append(session, new.id, trace.seconds, trace.values)
            load_tests.finish(session, new.id, analysed_for(circuit, trace), kept_trace.rows)


def keep_photos(session: Session, call_id: UUID, kept: Mapping[UUID, KeptPhoto]) -> None:
    """Keep photos, each under its id.

    Raises
    ------
    BadInput
        If one of them is no photo.
    """
    for photo_id, kept_photo in kept.items():
        photo = kept_again(kept_photo.picture())
        at = {
            "part": kept_photo.part,
            "lane": kept_photo.lane,
            "words": kept_photo.words,
            "width": photo.width,
            "height": photo.height,
        }
        new = NewPhoto.model_validate({"id": photo_id, **at})
        photos.add(session, call_id, new, photo.jpeg, photo.thumb, added_at=kept_photo.added_at)


def keep_all(session: Session, call_id: UUID, told: JobFile) -> None:
    """Keep the load tests and photos of a job file; their ids are made of the call's and their place."""
    traces = {uuid5(call_id, f"load test {place}"): load_test for place, load_test in enumerate(told.load_tests)}
    keep_traces(session, call_id, told.circuit, traces)
    keep_photos(
        session, call_id, {uuid5(call_id, f"photo {place}"): load_test for place, load_test in enumerate(told.photos)}
    )
