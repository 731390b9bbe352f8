"""How the answer comes: at once, then whole; kept where nothing was read; let go when nobody asks."""

import json
from pathlib import Path

import httpx
import psycopg
import pytest
from tests.api.test_api import Json, entry, listed, new_call, reading

from zesty_copper.api.gate.idle import let_go
from zesty_copper.cli import main
from zesty_copper.compiled_code import engine_version
from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.diagnose import diagnose
from zesty_copper.core.diagnosis.model.job import Job
from zesty_copper.core.diagnosis.predict.compiled import compile_circuit


def diagnosed_in_shell(job: str, folder: Path, capsys: pytest.CaptureFixture[str]) -> Json:
    """What the shell says of a job file."""
    path = folder / "job.json"
    path.write_text(job, "utf-8")
    assert main(["diagnose", str(path), "--json"]) == 0
    diagnosis: Json = json.loads(capsys.readouterr().out)
    return diagnosis


def test_the_verdict_comes_first_and_the_next_test_with_the_second_answer(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    told = entry(reading(221.0), confirmed=True)
    first = api.post(f"{call}/entries", params={"first": True}, json=told).json()["diagnosis"]
    assert first["planning"]
    assert first["next_test"] is None
    whole = api.get(call).json()["diagnosis"]
    assert not whole["planning"]
    assert whole["next_test"]
    for same in ("suspects", "stop", "guards", "contradictions", "lanes"):
        assert first[same] == whole[same], f"{same} stand from the first"
    assert api.post(f"{call}/entries", json=told).json()["diagnosis"] == whole, (
        "without asking, the whole comes at once"
    )


def test_what_is_said_before_any_reading_is_kept_for_the_next_such_call(api: httpx.Client, database_url: str) -> None:
    calls = [f"/api/calls/{new_call(api, 'duct_heater')}" for _ in range(2)]
    answers = [api.get(call).json()["diagnosis"] for call in calls]
    assert answers[0] == answers[1]
    afresh = diagnose(Job(circuit=ready_made()["duct_heater"]))
    assert answers[0]["next_test"] == afresh.model_dump(mode="json")["next_test"]
    with psycopg.connect(database_url.replace("+psycopg", "")) as connection:
        mine = "select count(*) from unread_answer where engine = %s"
        assert connection.execute(mine, (engine_version(),)).fetchone() != (0,)
        others = connection.execute("select count(*) from unread_answer where engine <> %s", (engine_version(),))
        assert others.fetchone() == (0,)
        kept = connection.execute("select count(*) from unread_answer").fetchone()
    api.get(calls[0])
    with psycopg.connect(database_url.replace("+psycopg", "")) as connection:
        assert connection.execute("select count(*) from unread_answer").fetchone() == kept


def test_what_is_let_go_is_made_again() -> None:
    circuit = ready_made()["through_wall"]
    before, answer = compile_circuit(circuit), diagnose(Job(circuit=circuit))
    assert before.memory.bytes > 0
    let_go()
    assert compile_circuit(circuit) is not before
    assert diagnose(Job(circuit=circuit)) == answer


def test_the_shell_gives_the_answer_that_the_page_gives(
    api: httpx.Client, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Of a call whose sheet says that wires are thin, which makes faults likelier; with and without the history."""
    call = f"/api/calls/{new_call(api)}"
    (supply,) = api.get(f"{call}/ratings").json()["supplies"]
    thin = [run | {"size_awg": 14, "terminals_c": 60, "insulation": "TW"} for run in supply["sheet"]["runs"]]
    api.put(f"{call}/ratings/supply", json=supply["sheet"] | {"runs": thin}).raise_for_status()
    page = api.get(call).json()["diagnosis"]
    exported = api.get(f"{call}/job").json()
    assert exported["prior_factors"] == [], "what follows from the sheet is not told beside it"
    for told in (exported, {key: one for key, one in exported.items() if key != "history"}):
        shell = diagnosed_in_shell(json.dumps(told), tmp_path, capsys)
        assert shell["verdict"] == page["verdict"]
        assert shell["next_test"] == page["next_test"]


def test_the_shell_and_the_list_say_of_every_call_of_the_demo_what_its_page_says(
    alone: httpx.Client, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    listed_found = {row["id"]: row["found"] for row in listed(alone)}
    for call_id, found in listed_found.items():
        diagnosis = alone.get(f"/api/calls/{call_id}").json()["diagnosis"]
        verdict = diagnosis["verdict"]
        assert found is None or (found["words"], found["standing"]) == (verdict["words"], verdict["standing"])
        assert diagnosed_in_shell(alone.get(f"/api/calls/{call_id}/job").text, tmp_path, capsys) == diagnosis
    assert len([found for found in listed_found.values() if found]) >= 8
