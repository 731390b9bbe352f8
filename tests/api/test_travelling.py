"""What goes out comes back the same: a call as a job file, and a whole firm as an archive."""

import io
import json
import zipfile
import zlib
from base64 import b64encode
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import httpx
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator
from PIL import Image
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session
from tests.conftest import Databases

from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.job import PriorFactor, Scope, SupplySheet, Way
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look
from zesty_copper.core.load_test.trace import Channel, trace_of
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading
from zesty_copper.core.observations.modes import Tool
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of
from zesty_copper.core.repair.notes import Chosen, Declined, Order, PutBack, Quote, RepairNotes
from zesty_copper.core.repair.proving.notes import Mode, Outcome, ProofNotes
from zesty_copper.demo.load import load_demo
from zesty_copper.files.firm_file import firm_schema
from zesty_copper.files.job_file import JobFile, SaidThen, read_job, write_job
from zesty_copper.files.kept import KeptPhoto, KeptTrace
from zesty_copper.files.logger.mapping import BadRow, ReadCsv
from zesty_copper.files.photo import taken_in
from zesty_copper.files.travelling import keep_photos, keep_traces
from zesty_copper.launch.firm import export_firm, import_firm
from zesty_copper.store import people
from zesty_copper.store.database import connect
from zesty_copper.store.records import Action, Kept, fold
from zesty_copper.store.tables import CallRow

CIRCUIT = ready_made()["condenser_fused"]
CALLS = 11
"""Of the demo."""
POINTS = [f"{leg}@{part}" for leg in ("L1", "L2", "G") for part in ("whip", "branch")]
numbers = st.floats(0, 300, width=32).map(lambda value: round(value, 2))
words = st.sampled_from(["Clip, brown", "„Tür“ & <b>", "=1+1", "60 A disconnect"])
moments = st.datetimes(datetime(2020, 1, 1), datetime(2030, 1, 1), timezones=st.just(UTC))


def _begun(trace: KeptTrace) -> datetime:
    return trace.begun_at


def _added(photo: KeptPhoto) -> datetime:
    return photo.added_at


@st.composite
def said(draw: st.DrawFn) -> list[SaidThen]:
    """A history in the order of time: readings and looks added, corrected, withdrawn and brought back."""
    history: list[SaidThen] = []
    at = draw(moments)
    for number in range(draw(st.integers(0, 12))):
        at += timedelta(seconds=draw(st.integers(0, 900)))
        known = {said_then.reading_id: said_then.action for said_then in history}
        key = draw(st.sampled_from([f"new-{number}", *known]))
        stood = known.get(key)
        action = Action.ADD if stood is None else draw(st.sampled_from([Action.CORRECT, Action.WITHDRAW]))
        reading = None if action is Action.WITHDRAW else draw(one_thing(key))
        history.append(SaidThen(action=action, reading_id=key, reading=reading, entered_at=at))
    return history


@st.composite
def one_thing(draw: st.DrawFn, key: str) -> Reading | Look:
    """A reading or a look."""
    if draw(st.booleans()):
        return Look(id=key, sign="mark", part="fuse", seen=draw(st.booleans()))
    a, b = draw(st.lists(st.sampled_from(POINTS), min_size=2, max_size=2, unique=True))
    open_switches = draw(st.frozensets(st.sampled_from(["contactor", "disconnect"])))
    measurement = Measurement(place=Between(a=Point(a), b=Point(b)), open_switches=open_switches)
    return Reading(id=key, measurement=measurement, value=draw(numbers), unit=measurement.unit)


@st.composite
def notes(draw: st.DrawFn) -> RepairNotes:
    """Everything that may be chosen and noted about a repair."""
    days = st.dates(date(2026, 1, 1), date(2028, 1, 1))
    declined = st.builds(Declined, what=words, by=words, on=days, warning=words)
    orders = st.builds(Order, words=words, state=st.sampled_from(["to_order", "ordered", "here"]))
    proof = ProofNotes(
        numbers=draw(st.dictionaries(st.sampled_from(["rest:supply:L1:L2", "amps:compressor:L1"]), numbers)),
        ticked=tuple(draw(st.lists(st.sampled_from(["covers", "labels"]), unique=True))),
        mode=draw(st.sampled_from(Mode)),
        outcome=draw(st.sampled_from([Outcome.OPEN, Outcome.NOT_PROVEN])),
        reason="41 °F outside",
        return_on=draw(st.none() | days),
    )
    return RepairNotes(
        chosen={"loose_spades": Chosen(way="tighten", reason=draw(st.sampled_from(["bright", "springs back"])))},
        put_back=tuple(draw(st.lists(st.builds(PutBack, words=st.just("jumper"), done=st.booleans()), max_size=2))),
        proof=proof,
        work_done=draw(st.sampled_from(["", "New clip\nNew fuses"])),
        declined=tuple(draw(st.lists(declined, max_size=2))),
        orders=tuple(draw(st.lists(orders, max_size=2))),
        quote=draw(st.sampled_from(Quote)),
    )


@st.composite
def traces(draw: st.DrawFn) -> KeptTrace:
    """A load test, numbers missing here and there."""
    count = draw(st.integers(3, 400))
    rng = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    values = rng.uniform(0, 260, (2, count)).astype(np.float32).astype(np.float64)
    values[:, rng.integers(1, count, count // 9)] = np.nan
    channels = (Channel(kind="volts", lanes=("L1", "L2")), Channel(kind="amps", lanes=("L1",), rated_amps=18.6))
    trace = trace_of(channels, np.cumsum(rng.uniform(0.05, 2.0, count)), values)
    rows = ReadCsv(rows=count, left_out=1, bad=(BadRow(line=7, why="it has too few columns"),))
    return KeptTrace(
        title=draw(words),
        source=draw(st.sampled_from(["csv", "clamp", "typed"])),
        begun_at=draw(moments),
        channels=channels,
        rows=draw(st.none() | st.just(rows)),
        **KeptTrace.packed(trace),
    )


@st.composite
def pictures(draw: st.DrawFn) -> KeptPhoto:
    """A photo as this program keeps it."""
    buffer = io.BytesIO()
    Image.effect_noise((draw(st.integers(8, 90)), 40), 50).convert("RGB").save(buffer, "JPEG")
    part = draw(st.none() | st.sampled_from(["clip_load", "whip"]))
    lane = draw(st.sampled_from(["L1", None])) if part else None
    jpeg = taken_in(buffer.getvalue()).jpeg
    return KeptPhoto(part=part, lane=lane, words=draw(words), added_at=draw(moments), jpeg=KeptPhoto.packed(jpeg))


@st.composite
def job_files(draw: st.DrawFn) -> JobFile:
    """Everything that a call may hold."""
    history = draw(said())
    stands = fold(history)
    sheet = sheets_of(CIRCUIT)["supply"]
    plate = sheet.plate.model_copy(update={"mca_amps": draw(st.none() | st.integers(1, 90).map(float))})
    entered = SupplySheet(source="supply", sheet=sheet.model_copy(update={"plate": plate}))
    sums = st.builds(Kept, id=st.uuids(), tool=st.just("capacitor"), values=st.fixed_dictionaries({"amps": numbers}))
    factors = st.builds(
        PriorFactor,
        key=st.just("open"),
        factor=st.floats(0.1, 20).map(lambda one: round(one, 3)),
        reason=st.just("seen before"),
    )
    return JobFile(
        circuit=CIRCUIT,
        readings=tuple(entry for entry in stands if isinstance(entry, Reading)),
        looks=tuple(one for one in stands if isinstance(one, Look)),
        scope=Scope(way=draw(st.sampled_from(Way)), tools=draw(st.frozensets(st.sampled_from(Tool)))),
        sheets=(entered,) if draw(st.booleans()) else (),
        prior_factors=tuple(draw(st.lists(factors, max_size=2))),
        kept=tuple(draw(st.lists(sums, max_size=3, unique_by=lambda one: one.id))),
        repair=draw(notes()),
        load_tests=tuple(sorted(draw(st.lists(traces(), max_size=2, unique_by=_begun)), key=_begun)),
        photos=tuple(sorted(draw(st.lists(pictures(), max_size=2, unique_by=_added)), key=_added)),
        history=tuple(history),
    )


@given(told=job_files())
@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_call_comes_back_from_its_job_file_as_it_went_out(api: httpx.Client, told: JobFile) -> None:
    for _ in range(2):
        call = {"id": str(uuid4()), "technician_id": api.get("/api/session").json()["person"]["id"]}
        call |= {"complaint": "Brought along", "starts_at": "2026-03-01T08:00:00Z"}
        item = {"equipment_id": str(uuid4()), "equipment_name": "Unit", "circuit": ""}
        call["new_equipment"] = item | {"site_id": str(uuid4()), "site_name": "Slip"}
        opened = api.post("/api/imported-calls", json={"call": call, "job": write_job(told)})
        assert opened.status_code == 201, opened.text
        again = read_job(api.get(f"/api/calls/{call['id']}/job").content)
        assert again == told
        told = again


def test_a_history_that_ends_elsewhere_is_refused() -> None:
    reading = Reading(
        id="r", measurement=Measurement(place=Between(a=Point("L1@whip"), b=GROUND)), value=120.0, unit="V"
    )
    at = datetime(2026, 3, 1, tzinfo=UTC)
    history = (SaidThen(action=Action.ADD, reading_id="r", reading=reading, entered_at=at),)
    job_file = JobFile(circuit=CIRCUIT, readings=(reading,), history=history)
    with pytest.raises(BadInput, match="does not end at the readings"):
        read_job(write_job(job_file).replace('"value": 120.0', '"value": 12.0', 1))


def test_a_trace_that_unpacks_to_more_than_a_load_test_holds_is_refused() -> None:
    """A few kilobytes of zeros that would unpack to 200 MB, and text that is no packing at all."""
    bomb = b64encode(zlib.compress(bytes(200_000_000), 9)).decode()
    channels = [{"kind": "volts", "lanes": ["L1", "L2"]}]
    for packed in (bomb, "AAAA", "not base64!"):
        told = {"title": "Log", "source": "csv", "begun_at": "2026-03-01T08:00:00Z", "channels": channels}
        job = json.loads(write_job(JobFile(circuit=CIRCUIT))) | {
            "load_tests": [told | {"seconds": packed, "values": packed}]
        }
        with pytest.raises(BadInput) as refused:
            read_job(json.dumps(job))
        assert refused.value.field.startswith("load_tests.0")


@contextmanager
def empty(databases: Databases) -> Iterator[Engine]:
    """A database with tables and nothing in them."""
    engine = connect(databases.with_tables())
    yield engine
    engine.dispose()


def test_a_firm_comes_back_from_its_archive_as_it_went_out(tmp_path: Path, databases: Databases) -> None:
    path, back = tmp_path / "there.zip", tmp_path / "back.zip"
    with empty(databases) as old, empty(databases) as new:
        with Session(old) as session, session.begin():
            load_demo(session, datetime(2026, 3, 1, 12, tzinfo=UTC))
            one = session.scalars(select(CallRow.id).order_by(CallRow.id)).first()
            assert one is not None
            at = datetime(2026, 3, 1, 12, tzinfo=UTC)
            noise = np.random.default_rng(4).uniform(1, 20, (1, 500)).astype(np.float32).astype(np.float64)
            trace = trace_of([Channel(kind="amps", lanes=("L1",))], np.arange(500.0), noise)
            kept_trace = KeptTrace(
                title="Log", source="csv", begun_at=at, channels=trace.channels, rows=None, **KeptTrace.packed(trace)
            )
            keep_traces(session, one, CIRCUIT, {uuid4(): kept_trace})
            buffer = io.BytesIO()
            Image.effect_noise((64, 48), 60).convert("RGB").save(buffer, "PNG")
            photo = KeptPhoto(words="Clip", added_at=at, jpeg=KeptPhoto.packed(taken_in(buffer.getvalue()).jpeg))
            keep_photos(session, one, {uuid4(): photo})
            spoilt = session.query(CallRow.id).filter(CallRow.complaint.startswith("Weak")).scalar()
        with Session(old) as session:
            assert export_firm(session, path) == CALLS
        with Session(new) as session, session.begin():
            added = import_firm(session, path)
            assert added["calls"] == CALLS
            assert added["people"] == len(people.people(session))
            assert people.demo_people(session) == [], "whoever was of the demo needs a password here"
        with Session(new) as session:
            export_firm(session, back)
        assert contents(back) == contents(path)
        with Session(new) as session, session.begin():
            session.execute(text("update call set complaint = 'Ours by now' where id = :one"), {"one": spoilt})
            assert import_firm(session, path) == {}, "what is there is never overwritten"
            assert session.get_one(CallRow, spoilt).complaint == "Ours by now"
    schemas = firm_schema()["$defs"]
    for name, told in contents(path).items():
        schema = schemas["firm.json" if name == "firm.json" else "calls/*.json"]
        Draft202012Validator(schema).validate(told)


def contents(archive: Path) -> dict[str, object]:
    """Every file of an archive, read."""
    with zipfile.ZipFile(archive) as opened:
        return {name: json.loads(opened.read(name)) for name in opened.namelist()}


@pytest.fixture(scope="module")
def nothing(databases: Databases) -> Iterator[Engine]:
    """A database with nothing in it."""
    with empty(databases) as engine:
        yield engine


@pytest.mark.parametrize(
    ("files", "sentence"),
    [
        (None, "is no archive"),
        ({}, "has no firm.json"),
        ({"firm.json": "{}"}, "firm.json, people: "),
        ({"firm.json": '{"people": [], "sites": []}', "calls/x.json": '{"id": 1}'}, "calls/x.json, id: "),
    ],
)
def test_what_is_no_archive_adds_nothing(
    files: dict[str, str] | None, sentence: str, tmp_path: Path, nothing: Engine
) -> None:
    file = tmp_path / "firm.zip"
    file.write_text("no zip")
    if files is not None:
        with zipfile.ZipFile(file, "w") as archive:
            for name, told in files.items():
                archive.writestr(name, told)
    with Session(nothing) as session:
        with pytest.raises(BadInput, match=sentence):
            import_firm(session, file)
        assert people.people(session) == []
