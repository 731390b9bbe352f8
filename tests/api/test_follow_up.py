"""The board, equipment over its visits, and what past finds do to a new call, through the served application."""

import io
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

import httpx
import pytest
from pypdf import PdfReader
from tests.api.test_answers import diagnosed_in_shell
from tests.api.test_api import Json, entry, new_call, reading
from tests.client import change_notes

from zesty_copper.store.clock import now

CLIP = [("L2@fuse", "L2@clip_load", 19.6), ("L2@fuse", "L2@clip_load", 19.4), ("L1@whip", "L2@whip", 222.6)]


def read(api: httpx.Client, call_id: str, told: list[tuple[str, str, float]]) -> Json:
    page: Json = {}
    for a, b, value in told:
        said = entry(reading(value, measurement={"place": {"kind": "between", "a": a, "b": b}}))
        page = api.post(f"/api/calls/{call_id}/entries", json=said).json()
    return page


def shares(page: Json) -> dict[str, float]:
    return {one["key"]: one["probability"] for one in page["diagnosis"]["suspects"]}


def keep(api: httpx.Client, call_id: str, **notes: object) -> Json:
    answer = change_notes(api, call_id, **notes)
    assert answer.status_code == 200, answer.text
    kept: Json = answer.json()
    return kept


def prove(api: httpx.Client, call_id: str) -> None:
    """Prove the repair by numbers as they should be, and close the call."""
    good = {
        "rest": 241,
        "load": 238,
        "settles": 0.8,
        "dead": 0.3,
        "air_in": 76,
        "air_out": 57,
        "warm": 2,
        "across": 0.05,
    }
    for _ in range(2):
        items = api.get(f"/api/calls/{call_id}/repair").json()["proof"]["items"]
        numbers = {
            item["key"]: good.get(item["key"].split(":")[0], 18.0)
            for item in items
            if item["asked"] and item["unit"] and item["needed"]
        }
        ticked = [one["key"] for one in items if one["unit"] is None]
        keep(api, call_id, proof={"numbers": numbers, "ticked": ticked})
    kept = keep(api, call_id, proof={"numbers": numbers, "ticked": ticked, "outcome": "proven"})
    assert kept["call"]["proof"] == "proven"
    assert api.patch(f"/api/calls/{call_id}", json={"status": "done"}).status_code == 200


def test_the_board_shows_what_is_due_until_it_is_done(alone: httpx.Client) -> None:
    call_id = new_call(alone)
    yesterday = (now().date() - timedelta(1)).isoformat()
    bypass = {"way": "bypass", "reason": "Ill tenant", "tags": True, "breaker_lock": True, "return_on": yesterday}
    keep(alone, call_id, chosen={"failed_disconnect": bypass}, orders=[{"words": "Disconnect"}], quote="waiting")
    lines = alone.get("/api/board").json()["lines"]
    kinds = [line["due"]["kind"] for line in lines]
    assert kinds == sorted(kinds, key=["bypass", "not_proven", "return", "put_back", "quote", "parts"].index)
    mine = {one["due"]["kind"]: one["due"]["on"] for one in lines if one["call"]["id"] == call_id}
    assert mine == {"bypass": yesterday, "quote": None, "parts": None}
    keep(alone, call_id, chosen={}, orders=[{"words": "Disconnect", "state": "here"}], quote="accepted")
    assert not [one for one in alone.get("/api/board").json()["lines"] if one["call"]["id"] == call_id]


def test_what_was_found_and_proven_shifts_the_next_call_and_can_be_switched_off(
    alone: httpx.Client, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    first = new_call(alone)
    found = read(alone, first, CLIP)
    assert found["diagnosis"]["verdict"]["standing"] == "sure"
    before = shares(read(alone, new_call(alone), CLIP[2:]))
    prove(alone, first)
    # Once, on other equipment, is chance.
    assert shares(read(alone, new_call(alone), CLIP[2:])) == before
    # On this very equipment it is not.
    back = str(uuid4())
    told = {
        "id": back,
        "technician_id": found["call"]["technician"]["id"],
        "complaint": "Again",
        "starts_at": "2026-03-09T08:00:00Z",
        "visit": "call_back",
        "equipment_id": found["call"]["equipment_id"],
    }
    assert alone.post("/api/calls", json=told).json()["visit"] == "call_back"
    page = read(alone, back, CLIP[2:])
    suspect = next(one for one in page["diagnosis"]["suspects"] if one["key"] == "resistive:clip_load:L2")
    assert suspect["probability"] > 1.5 * before[suspect["key"]]
    assert any("Found here before" in one for one in suspect["likelier_by"])
    # A file of it carries the firm's past along: the shell, and the call opened from it, say the same.
    exported = alone.get(f"/api/calls/{back}/job").text
    assert diagnosed_in_shell(exported, tmp_path, capsys) == page["diagnosis"]
    brought = told | {"id": str(uuid4()), "complaint": "From its file"}
    alone.post("/api/imported-calls", json={"call": brought, "job": exported}).raise_for_status()
    assert alone.get(f"/api/calls/{brought['id']}").json()["diagnosis"] == page["diagnosis"]
    alone.delete(f"/api/calls/{brought['id']}").raise_for_status()
    scope = page["call"]["scope"] | {"use_past": False}
    off = alone.put(f"/api/calls/{back}/scope", json=scope).json()
    assert shares(off) == before

    trends = alone.get(f"/api/equipment/{found['call']['equipment_id']}/trends").json()
    assert trends["visits"] == 2


def test_what_is_due_of_the_demo_is_found_on_every_page_and_sheet_of_its_call(alone: httpx.Client) -> None:
    """One call has one account: what is due is what its repair says, what its proof says, and what is handed over."""
    lines = alone.get("/api/board").json()["lines"]
    demo = [line for line in lines if line["call"]["complaint"] == "Disconnect smells burned"]
    kinds = {due["kind"] for one in demo for due in [one["due"]]}
    assert kinds >= {"bypass", "not_proven", "parts", "quote"}
    call_id = demo[0]["call"]["id"]
    page = alone.get(f"/api/calls/{call_id}/repair").json()
    assert page["verdict"]["standing"] == "sure"
    (item,) = [
        one for one in page["plan"]["items"] if one["question"] and one["question"]["key"] == "failed_disconnect"
    ]
    assert item["part"] == "clip_load"
    chosen = page["notes"]["chosen"]["failed_disconnect"]
    assert chosen["way"] == "bypass"
    assert page["notes"]["proof"]["outcome"] == "not_proven"
    assert page["proof"]["missing"] > 0
    answer = alone.get(f"/api/calls/{call_id}/report", params={"sheet": "all", "zone": "America/New_York"})
    text = " ".join(" ".join(one.extract_text() for one in PdfReader(io.BytesIO(answer.content)).pages).split())
    for said in (
        chosen["reason"],
        page["notes"]["proof"]["reason"],
        *(one["words"] for one in page["notes"]["orders"]),
    ):
        assert said in text, said
