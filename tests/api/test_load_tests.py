"""Load tests through the served application: a file in pieces, the clamp, and numbers typed by hand."""

import csv
import io
import json
import socket
import time
from uuid import uuid4

import httpx
import numpy as np
import pytest
from tests.api.test_api import Json, new_call
from tests.api.test_robust import refused

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.load_test.expected import usual_channels
from zesty_copper.core.load_test.report import analysed
from zesty_copper.core.load_test.trace import trace_of
from zesty_copper.stand_ins.clamp_protocol import Begin
from zesty_copper.stand_ins.logging_clamp import LoggingClamp

PIECE = 900_000


def ended(api: httpx.Client, call_id: str, test_id: str) -> Json:
    """The load test, once it is no longer under way."""
    for _ in range(600):
        tests = api.get(f"/api/calls/{call_id}/load-tests").json()["tests"]
        found: Json = next(test for test in tests if test["id"] == test_id)
        if found["state"] not in ("running", "stopping"):
            return found
        time.sleep(0.1)
    raise AssertionError(f"it never ends: {found['progress']}")


def send(api: httpx.Client, call_id: str, text: str) -> str:
    """Send a file as the page does: its head, its pieces, then the word to read it."""
    test_id, data = str(uuid4()), text.encode()
    guess = api.post(f"/api/calls/{call_id}/recognized-logs", json={"head": text[:20_000]}).json()
    for place in range(-(-len(data) // PIECE)):
        piece = data[place * PIECE : (place + 1) * PIECE]
        for _ in range(2):
            sent = api.put(
                f"/api/calls/{call_id}/load-tests/{test_id}/pieces/{place}",
                content=piece,
                headers={"content-type": "application/octet-stream"},
            )
            assert sent.json() == {"bytes_there": place * PIECE + len(piece)}, "sending it twice changes nothing"
    told = {"id": test_id, "title": "Rooftop, afternoon", "mapping": guess["mapping"]}
    assert api.post(f"/api/calls/{call_id}/file-load-tests", json=told).status_code == 201
    return test_id


def log_of(count: int, *, spoiled: int) -> str:
    """A log of a condenser with 0.3 Ω ahead of it, ten samples a second, one row that is none."""
    rng = np.random.default_rng(1)
    seconds = np.arange(count) / 10
    amps = np.where(seconds % 300 > 60, 17.5, 0.0) + rng.normal(0, 0.04, count)
    volts = 241 - 0.3 * amps + rng.normal(0, 0.1, count)
    rows = [f"{at:.1f},{v:.2f},{max(a, 0):.2f}" for at, v, a in zip(seconds, volts, amps, strict=True)]
    rows[spoiled] = "here,the,logger,restarted"
    return "\n".join(["Time (s),L1-L2 (V),L1 (A)", *rows]) + "\n"


def test_a_file_comes_in_pieces_and_is_read_with_every_bad_row_named(api: httpx.Client) -> None:
    call_id = new_call(api)
    text = log_of(120_000, spoiled=70_123)
    assert len(text) > 2 * PIECE
    test_id = send(api, call_id, text)
    done = ended(api, call_id, test_id)
    assert done["state"] == "ready", done["why"]
    assert done["rows"]["rows"] == 119_999
    assert [one["line"] for one in done["rows"]["bad"]] == [70_125]
    (sag,) = done["report"]["sags"]
    assert sag["ohm"] == pytest.approx(0.3, abs=0.02)
    assert any("high-resistance connection" in one["says"] for one in done["report"]["findings"])

    path = f"/api/calls/{call_id}/load-tests/{test_id}"
    whole = api.get(f"{path}/chart", params={"stretches": 500}).json()
    assert len(whole["seconds"]) == 500
    assert max(x for x in whole["high"][1] if x is not None) == pytest.approx(17.6, abs=0.2)
    near = api.get(f"{path}/chart", params={"from_s": 59, "to_s": 62, "stretches": 500}).json()
    assert 30 <= len(near["seconds"]) <= 33, "as fine as it was logged"
    assert near["low"] == near["high"]
    beyond = api.get(f"{path}/chart", params={"from_s": 1e7}).json()
    assert beyond["seconds"] == []

    exported = api.get(f"{path}/csv").text
    rows = list(csv.reader(io.StringIO(exported)))
    assert rows[0] == ["Time (s)", "L1-L2 (V)", "L1 (A)"]
    assert len(rows) == 120_000
    again = ended(api, call_id, send(api, call_id, exported))
    assert again["report"]["sags"][0]["ohm"] == pytest.approx(sag["ohm"], abs=1e-3)
    assert again["report"]["samples"] == 119_999

    assert api.delete(path).status_code == 200
    assert api.delete(path).status_code == 200, "removing it twice changes nothing"
    assert refused(api.get(f"{path}/chart"), 404, "not_found")


def test_a_file_that_is_no_log_says_so(api: httpx.Client) -> None:
    call_id = new_call(api)
    head = api.post(f"/api/calls/{call_id}/recognized-logs", json={"head": "\x89PNG\r\n\x1a\n\x00"})
    refused(head, 422, "bad_input")
    test_id = str(uuid4())
    call = f"/api/calls/{call_id}"
    path = f"{call}/load-tests"
    octets = {"content-type": "application/octet-stream"}
    refused(api.put(f"{path}/{test_id}/pieces/3", content=b"late", headers=octets), 422, "bad_input")
    use = {"column": 1, "channel": {"kind": "volts", "lanes": ["L1", "L2"]}}
    told = {"id": test_id, "title": "Log", "mapping": {"columns": [use]}}
    refused(api.post(f"{call}/file-load-tests", json=told), 422, "bad_input")
    assert api.put(f"{path}/{test_id}/pieces/0", content=b"\x00\xff" * 900, headers=octets).status_code == 200
    assert api.post(f"{call}/file-load-tests", json=told).status_code == 201
    assert "could be read" in ended(api, call_id, test_id)["why"]


@pytest.mark.parametrize(("circuit", "hides"), [("condenser_fused", "resistive:clip_load:L2"), ("heat_strip", None)])
def test_the_clamp_logs_what_hides_in_the_circuit(api: httpx.Client, circuit: str, hides: str | None) -> None:
    call_id = new_call(api, circuit)
    test_id = str(uuid4())
    told = {"id": test_id, "title": "As found", "minutes": 4, "hides": hides}
    assert api.post(f"/api/calls/{call_id}/clamp-load-tests", json=told).status_code == 201
    done = ended(api, call_id, test_id)
    assert done["state"] == "ready", done["why"]
    assert done["report"]["samples"] > 900
    joint = [one for one in done["report"]["findings"] if "high-resistance connection" in one["says"]]
    assert bool(joint) is (hides is not None)
    if circuit == "heat_strip":
        assert any(one["says"].startswith("Steady") for one in done["report"]["findings"])


def test_a_run_is_stopped_and_what_was_logged_is_kept(api: httpx.Client) -> None:
    call_id = new_call(api)
    test_id = str(uuid4())
    path = f"/api/calls/{call_id}/load-tests"
    assert (
        api.post(
            f"/api/calls/{call_id}/clamp-load-tests", json={"id": test_id, "title": "Long", "minutes": 60}
        ).status_code
        == 201
    )
    for _ in range(100):
        if api.get(path).json()["tests"][0]["progress"] > 0.02:
            break
        time.sleep(0.1)
    assert api.post(f"{path}/{test_id}/stopped").status_code == 200
    done = ended(api, call_id, test_id)
    assert done["state"] == "ready"
    assert 60 < done["report"]["duration_s"] < 1500


def test_numbers_typed_by_hand_are_judged_at_once(api: httpx.Client) -> None:
    call_id = new_call(api)
    channels = [{"kind": "volts", "lanes": ["L1", "L2"]}, {"kind": "amps", "lanes": ["L1"]}]
    told = {
        "id": str(uuid4()),
        "title": "By hand",
        "channels": channels,
        "seconds": [0, 60, 120, 600],
        "values": [[241, 232, 232, None], [0, 18.6, 18.5, 18.4]],
    }
    path = f"/api/calls/{call_id}/typed-load-tests"
    (done,) = api.post(path, json=told).json()["tests"]
    assert done["state"] == "ready"
    assert done["report"]["sags"][0]["ohm"] == pytest.approx(9 / 18.6, rel=0.02)
    assert done["channels"][1]["rated_amps"] == 18.6
    assert len(api.post(path, json=told).json()["tests"]) == 1, "sending it twice changes nothing"
    short = told | {"id": str(uuid4()), "values": [[241, 232], [0, 18.6]]}
    assert refused(api.post(path, json=short), 422, "bad_input")
    back = told | {"id": str(uuid4()), "seconds": [0, 120, 60, 600]}
    assert refused(api.post(path, json=back), 422, "bad_input")


def test_the_clamp_speaks_as_its_protocol_says() -> None:
    """Line by line over a bare socket, as docs/logging-clamp.md has it; what is no question is refused."""
    circuit = ready_made()["rooftop_208"]
    with LoggingClamp() as clamp:
        with socket.create_connection(clamp.address, 20) as talk, talk.makefile("rwb") as lines:
            asked = Begin(circuit=circuit, minutes=3, speed=600, rate_hz=4)
            lines.write(asked.model_dump_json().encode() + b"\n")
            lines.flush()
            begun, *samples, last = [json.loads(line) for line in lines]
        assert [one["kind"] for one in begun["channels"]] == ["volts"] * 3 + ["amps"] * 3
        assert last == {"ended": True}
        assert [sample["s"] for sample in samples] == [i / 4 for i in range(721)]
        assert any(None in one["v"] for one in samples), "a clamp loses some"
        for question in (b"hello\n", b"{}\n", b'{"ask": "begin", "rate_hz": 1e9}\n', b"\n"):
            with socket.create_connection(clamp.address, 20) as talk, talk.makefile("rwb") as lines:
                lines.write(question)
                lines.flush()
                assert "refused" in json.loads(lines.readline())
    values = np.array([[np.nan if x is None else x for x in one["v"]] for one in samples]).T
    report = analysed(trace_of(usual_channels(circuit), np.arange(721) / 4, values))
    assert report.volts_unbalance_percent is not None
    assert report.volts_unbalance_percent < 1
