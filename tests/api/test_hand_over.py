"""What is handed over: sheets whose text is read back, calendar, tables, photos; and what is refused."""

import csv
import io
import struct
import zlib
from datetime import date, timedelta
from uuid import uuid4

import httpx
import pytest
from icalendar import Calendar
from PIL import Image
from pypdf import PdfReader
from tests.api.test_api import Json, entry, new_call, reading
from tests.api.test_robust import refused
from tests.client import change_notes

from zesty_copper.files.readings_csv import readings_csv
from zesty_copper.store.clock import now

OCTETS = {"content-type": "application/octet-stream"}
SCRIPT = "<script>alert(1)</script> & <b>bold</b>"


def sheet(api: httpx.Client, call_id: str, kind: str = "all", zone: str = "America/New_York") -> str:
    """The text of a sheet, read back from its PDF."""
    answer = api.get(f"/api/calls/{call_id}/report", params={"sheet": kind, "zone": zone})
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "application/pdf"
    pages = PdfReader(io.BytesIO(answer.content)).pages
    return " ".join(" ".join(page.extract_text() for page in pages).split())


def poor_clip(api: httpx.Client) -> str:
    """A call in which a poor clip is found."""
    call_id = new_call(api)
    for a, b, value in (
        ("L1@whip", "L2@whip", 222.6),
        ("L1@whip", "G", 121.2),
        ("L2@whip", "G", 101.6),
        ("L2@fuse", "L2@clip_load", 19.6),
        ("L2@fuse", "L2@clip_load", 19.4),
    ):
        place = {"kind": "between", "a": a, "b": b}
        said = entry(reading(value, measurement={"place": place}))
        assert api.post(f"/api/calls/{call_id}/entries", json=said).status_code == 200
    return call_id


def test_the_sheets_say_what_was_found_decided_declined_and_left(api: httpx.Client) -> None:
    call_id = poor_clip(api)
    back = (now().date() + timedelta(days=9)).isoformat()
    response = change_notes(
        api,
        call_id,
        chosen={
            "failed_disconnect": {
                "way": "bypass",
                "reason": "Ill tenant",
                "tags": True,
                "breaker_lock": True,
                "return_on": back,
            }
        },
        work_done="Fuse clip cleaned out of use\n" + SCRIPT,
        declined=[
            {"what": "A new disconnect today", "by": "Mr. Poole", "on": "2026-11-20", "warning": "It may burn through."}
        ],
        orders=[{"words": "60 A fused disconnect", "state": "ordered"}],
        proof={
            "numbers": {"rest:supply:L1:L2": 241.0, "load:supply:L1:L2": 238.4},
            "outcome": "not_proven",
            "reason": "Too cold to cool",
            "return_on": back,
        },
    )
    assert response.status_code == 200, response.text
    customer = sheet(api, call_id, "customer")
    for said in (
        "A connection in the wiring to Condenser had gone bad",
        "Fuse clip cleaned out of use",
        SCRIPT,
        "222.6 V",
        "238.4 V",
        "A new disconnect today. Declined by Mr. Poole on Nov 20, 2026. It may burn through.",
        "60 A fused disconnect: ordered",
        "Not proven yet: Too cold to cool",
        "found here",
    ):
        assert said in customer, said
    # Words of the trade stay on the technical sheet.
    assert "Ω" not in customer
    technical = sheet(api, call_id, "technical")
    for said in (
        "High-resistance connection on L2 at the fuse clip, load side",
        "19.6 V",
        "all closed",
        "Replace the disconnect.",
        "Bypass it for now",
        "Ill tenant",
        "241",
        "207 to 253 V",
    ):
        assert said in technical, said
    tag = sheet(api, call_id, "tag")
    assert tag.count("BYPASSED") == 2
    assert "At the breaker" in tag
    assert "Ill tenant" in tag
    whole = sheet(api, call_id)
    assert customer[:60] in whole
    assert "Technical sheet" in whole


def test_moments_are_told_in_the_readers_own_time(api: httpx.Client) -> None:
    call_id = new_call(api)  # begins at 7:00 UTC
    assert "Mar 1, 2026, 2:00 AM" in sheet(api, call_id, "customer", "America/New_York")
    assert "Mar 1, 2026, 4:00 PM" in sheet(api, call_id, "customer", "Asia/Tokyo")
    for zone in ("Nowhere/Land", "../../etc/passwd", "x" * 61):
        refused(api.get(f"/api/calls/{call_id}/report", params={"zone": zone}), 422, "bad_input")


def test_a_full_call_is_set_as_pdf(api: httpx.Client) -> None:
    call_id = new_call(api, "rooftop_208")
    for i in range(60):
        place = {"kind": "between", "a": f"L{1 + i % 3}@whip", "b": "G"}
        said = entry(reading(118 + i % 5, measurement={"place": place}))
        assert api.post(f"/api/calls/{call_id}/entries", json=said, params={"first": True}).status_code == 200
    for i in range(8):
        put = api.put(f"/api/calls/{call_id}/photos/{uuid4()}", content=photo(1600, 1200, i), headers=OCTETS)
        assert put.status_code == 200
    api.get(f"/api/calls/{call_id}")  # whoever hands it over has it open
    text = sheet(api, call_id)
    assert text.count("L1 to ground") >= 20


def test_return_visits_open_in_a_calendar(api: httpx.Client) -> None:
    call_id = new_call(api)
    refused(api.get(f"/api/calls/{call_id}/returns"), 404, "not_found")
    proof = {"outcome": "not_proven", "reason": "41 °F outside; cooling, later", "return_on": "2027-04-12"}
    assert change_notes(api, call_id, proof=proof).status_code == 200
    answer = api.get(f"/api/calls/{call_id}/returns")
    assert answer.headers["content-type"].startswith("text/calendar")
    calendar = Calendar.from_ical(answer.content)
    (event,) = calendar.walk("VEVENT")
    assert event.decoded("dtstart") == date(2027, 4, 12)
    assert event.decoded("dtend") == date(2027, 4, 13)
    assert "41 °F outside; cooling, later" in str(event["description"])
    assert "Condenser, Pier Three Kiosk" in str(event["summary"])
    again = Calendar.from_ical(api.get(f"/api/calls/{call_id}/returns").content).walk("VEVENT")[0]
    assert again["uid"] == event["uid"], "taken over, not doubled"
    assert api.get(f"/api/calls/{call_id}").json()["call"]["return_on"] == "2027-04-12"


def test_readings_are_a_table_that_no_spreadsheet_takes_for_formulas(api: httpx.Client) -> None:
    call_id = poor_clip(api)
    text = api.get(f"/api/calls/{call_id}/readings").text
    assert text.count("\r\n") == 6
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [float(row["value"]) for row in rows] == [222.6, 121.2, 101.6, 19.6, 19.4]
    assert {row["unit"] for row in rows} == {"V"}
    told = readings_csv([("=HYPERLINK(1)", "+1", "-1", 4.5, "@x", 'say "no", so', "")])
    assert next(csv.reader(io.StringIO(told.split("\r\n", 1)[1]))) == [
        "'=HYPERLINK(1)",
        "'+1",
        "'-1",
        "4.5",
        "'@x",
        'say "no", so',
        "",
    ]


def photo(width: int, height: int, seed: int = 0, kind: str = "JPEG") -> bytes:
    """A picture as a phone takes it, with where it was taken written into it."""
    image = Image.effect_noise((width // 8, height // 8), 40 + seed).resize((width, height)).convert("RGB")
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "A phone", 6
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 12.0)
    buffer = io.BytesIO()
    image.save(buffer, kind, exif=exif)
    return buffer.getvalue()


@pytest.mark.parametrize("kind", ["JPEG", "PNG"])
def test_a_photo_is_kept_at_its_place_without_what_the_phone_wrote(api: httpx.Client, kind: str) -> None:
    call_id, photo_id = new_call(api), str(uuid4())
    taken = photo(3000, 2000, kind=kind)
    assert Image.open(io.BytesIO(taken)).getexif().get_ifd(0x8825)
    path = f"/api/calls/{call_id}/photos"
    at = {"part": "clip_load", "lane": "L2", "words": SCRIPT}
    for _ in range(2):
        put = api.put(f"{path}/{photo_id}", params=at, content=taken, headers=OCTETS)
        assert len(put.json()["photos"]) == 1, "sending it twice changes nothing"
    (shown,) = api.get(path).json()["photos"]
    assert shown["at"] == f"L2, fuse clip, load side: {SCRIPT}"
    assert (shown["width"], shown["height"]) == (1067, 1600), "upright, as it was held"
    kept = Image.open(io.BytesIO(api.get(f"{path}/{photo_id}").content))
    assert kept.format == "JPEG"
    assert not kept.getexif()
    assert b"Exif" not in api.get(f"{path}/{photo_id}").content
    small = Image.open(io.BytesIO(api.get(f"{path}/{photo_id}", params={"size": "thumb"}).content))
    assert max(small.size) == 320
    assert SCRIPT in sheet(api, call_id, "customer")
    assert api.delete(f"{path}/{photo_id}").json()["photos"] == []
    refused(api.get(f"{path}/{photo_id}"), 404, "not_found")
    refused(api.put(f"{path}/{uuid4()}", params={"part": "nowhere"}, content=taken, headers=OCTETS), 422, "bad_input")
    refused(
        api.put(f"{path}/{uuid4()}", params={"part": "clip_load", "lane": "Y"}, content=taken, headers=OCTETS),
        422,
        "bad_input",
    )


def bomb() -> bytes:
    """A PNG of a few kilobytes that unpacks to 30,000 by 30,000 pixels."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", 30_000, 30_000, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes(1 + 30_000 // 8) * 30_000, 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


HOSTILE = {
    "nothing": b"",
    "words": b"<svg onload=alert(1)>",
    "a zip": b"PK\x03\x04" + bytes(500),
    "half a photo": photo(800, 600)[:4000],
    "a gif": b"GIF89a" + bytes(50),
    "a bomb": bomb(),
    "a bomb cut short": bomb()[:300],
}


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_no_photo_is_refused_with_a_sentence(api: httpx.Client, name: str) -> None:
    call_id = new_call(api)
    put = api.put(f"/api/calls/{call_id}/photos/{uuid4()}", content=HOSTILE[name], headers=OCTETS)
    problem: Json = refused(put, 422, "bad_input")
    assert problem["message"]
    assert api.get(f"/api/calls/{call_id}/photos").json()["photos"] == []


def test_a_photo_that_is_too_large_is_not_even_read(api: httpx.Client) -> None:
    call_id = new_call(api)
    put = api.put(f"/api/calls/{call_id}/photos/{uuid4()}", content=bytes(13_000_000), headers=OCTETS)
    assert put.status_code == 413


def test_a_call_in_which_something_was_found_is_not_closed_unproven_unsaid(api: httpx.Client) -> None:
    call_id = poor_clip(api)
    done = {"status": "done"}
    problem = refused(api.patch(f"/api/calls/{call_id}", json=done), 422, "bad_input")
    assert "Prove the repair first" in problem["message"]
    proven = refused(change_notes(api, call_id, proof={"outcome": "proven"}), 422, "bad_input")
    assert proven["field"] == "proof.outcome"
    assert "missing" in proven["message"]
    assert (
        change_notes(api, call_id, proof={"outcome": "not_proven", "reason": "No part before Monday"}).status_code
        == 200
    )
    closed = api.patch(f"/api/calls/{call_id}", json=done).json()
    assert (closed["status"], closed["proof"], closed["not_proven"]) == ("done", "not_proven", "No part before Monday")


@pytest.mark.parametrize(
    ("notes", "field"),
    [
        ({"work_done": "x" * 2001}, "work_done"),
        ({"orders": [{"words": "x" * 201}]}, "orders.0.words"),
        ({"orders": [{"words": "two\nlines"}]}, "orders.0.words"),
        ({"declined": [{"what": "x", "by": "", "on": "2026-11-20", "warning": "y"}]}, "declined.0.by"),
        ({"proof": {"numbers": {"rest:supply:L1:L2": 1e9}}}, "proof.numbers.rest:supply:L1:L2"),
        ({"proof": {"reason": "x" * 301}}, "proof.reason"),
        ({"chosen": {"failed_disconnect": {"way": "bypass"}}}, "chosen.failed_disconnect.reason"),
    ],
)
def test_what_is_too_long_or_left_out_is_refused_and_nothing_is_lost(
    api: httpx.Client, notes: Json, field: str
) -> None:
    call_id = new_call(api)
    assert change_notes(api, call_id, work_done="Kept before").status_code == 200
    assert refused(change_notes(api, call_id, **notes), 422, "bad_input")["field"] == field
    assert api.get(f"/api/calls/{call_id}/repair").json()["notes"]["work_done"] == "Kept before"


def test_what_belongs_to_one_call_is_not_found_in_another(api: httpx.Client) -> None:
    """A photo and a load test by their ids, asked for through a call that they are not in."""
    mine, other = new_call(api), new_call(api)
    photo_id, test_id = str(uuid4()), str(uuid4())
    put = api.put(f"/api/calls/{mine}/photos/{photo_id}", content=photo(400, 300), headers=OCTETS)
    assert put.status_code == 200
    channel = {"kind": "amps", "lanes": ["L1"]}
    told = {"id": test_id, "title": "Typed", "channels": [channel], "seconds": [0, 60, 120], "values": [[0, 18, 18]]}
    assert api.post(f"/api/calls/{mine}/typed-load-tests", json=told).status_code == 201
    refused(api.get(f"/api/calls/{other}/photos/{photo_id}"), 404, "not_found")
    for what in ("chart", "csv"):
        refused(api.get(f"/api/calls/{other}/load-tests/{test_id}/{what}"), 404, "not_found")
    refused(api.post(f"/api/calls/{other}/typed-load-tests", json=told), 409, "conflict")
    assert api.delete(f"/api/calls/{other}/photos/{photo_id}").status_code == 200
    assert api.delete(f"/api/calls/{other}/load-tests/{test_id}").status_code == 200
    assert len(api.get(f"/api/calls/{mine}/photos").json()["photos"]) == 1
    assert len(api.get(f"/api/calls/{mine}/load-tests").json()["tests"]) == 1
