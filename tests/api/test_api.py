"""The served API on a real database: what is kept, what is refused, what is the same twice."""

import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import httpx
import pytest
from tests.core.told import CONDENSER, PULLED, answer, spot

from zesty_copper.core.circuit.ready_made import ready_made
from zesty_copper.core.diagnosis.model.job import USUAL_TOOLS, Job
from zesty_copper.files.job_file import read_job, write_job

Json = dict[str, Any]


def new_call(api: httpx.Client, circuit: str = "condenser_fused", **more: Any) -> str:
    """Open a call on new equipment at a new site."""
    technician = api.get("/api/session").json()["person"]["id"]
    call_id = str(uuid4())
    told = {
        "id": call_id,
        "technician_id": technician,
        "complaint": "Does not run",
        "starts_at": "2026-03-01T08:00:00+01:00",
        "new_equipment": {
            "equipment_id": str(uuid4()),
            "equipment_name": "Condenser",
            "circuit": circuit,
            "site_id": str(uuid4()),
            "site_name": "Pier Three Kiosk",
        },
    } | more
    answered = api.post("/api/calls", json=told)
    assert answered.status_code == 201, answered.text
    assert api.post("/api/calls", json=told).json() == answered.json(), "sending it twice changes nothing"
    return call_id


def listed(api: httpx.Client, **asked: Any) -> list[Json]:
    """Every call of every page."""
    page: Json = api.get("/api/calls", params=asked).json()
    later = listed(api, **asked | {"after": page["next"]}) if page["next"] else []
    return [*page["calls"], *later]


def all_sites(api: httpx.Client) -> list[Json]:
    """Every site with its equipment."""
    found: list[Json] = api.get("/api/sites", params={"most": 200}).json()["sites"]
    return found


def reading(value: Any = 240.0, **change: Any) -> Json:
    """A reading as the browser sends it."""
    place = {"kind": "between", "a": "L1@whip", "b": "L2@whip"}
    return {"id": str(uuid4()), "measurement": {"place": place}, "value": value, "unit": "V"} | change


def entry(told: Json | None, action: str = "add", reading_id: str | None = None, **change: Any) -> Json:
    """An entry as the browser sends it."""
    key = reading_id or (told or {})["id"]
    return {"id": str(uuid4()), "action": action, "reading_id": key, "reading": told} | change


def values(workbench: Json) -> list[float]:
    return [shown["reading"]["value"] for shown in workbench["readings"]]


def test_a_reading_is_added_corrected_withdrawn_and_its_history_kept(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    told = reading(24.0)
    added = entry(told)
    first = api.post(f"{call}/entries", json=added)
    assert first.status_code == 200, first.text
    assert values(first.json()) == [24.0]
    assert api.post(f"{call}/entries", json=added).json() == first.json(), "the same entry twice changes nothing"
    corrected = api.post(f"{call}/entries", json=entry(told | {"value": 240.0}, "correct")).json()
    assert values(corrected) == [240.0]
    assert corrected["readings"][0]["corrected"]
    assert values(api.post(f"{call}/entries", json=added).json()) == [240.0], "a late repetition does not undo it"
    assert values(api.post(f"{call}/entries", json=entry(None, "withdraw", told["id"])).json()) == []
    again = api.post(f"{call}/entries", json=entry(told | {"value": 241.0}, "correct")).json()
    assert values(again) == [241.0], "an undo is undone by saying the reading again"
    history = api.get(f"{call}/history").json()["entries"]
    assert [e["action"] for e in history] == ["add", "correct", "withdraw", "correct"]


def test_a_card_of_three_is_taken_whole_or_not_at_all(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    three = [entry(told.model_dump(mode="json")) for told in spot("whip", 222.6, 121.0, 101.7)]
    strange = entry(reading(990.0))
    refused = api.post(f"{call}/entry-lists", json={"entries": [*three, strange]})
    assert (refused.status_code, refused.json()["field"]) == (409, "entries.3.reading.value")
    assert values(api.get(call).json()) == []
    response = api.post(f"{call}/entry-lists", json={"entries": [*three, strange | {"confirmed": True}]})
    assert values(response.json()) == [222.6, 121.0, 101.7, 990.0]
    again = api.post(f"{call}/entry-lists", json={"entries": three})
    assert values(again.json()) == [222.6, 121.0, 101.7, 990.0], "what was sent twice stands once"


def test_what_was_told_on_the_telephone_weighs_from_the_start(api: httpx.Client) -> None:
    call_id = new_call(api, told=["nothing_runs", "since_storm"])
    page = api.get(f"/api/calls/{call_id}").json()
    assert {one["look"]["sign"] for one in page["looks"]} == {"nothing_runs", "since_storm"}
    test = page["diagnosis"]["next_test"]
    assert [one["place"]["kind"] for one in test["measurements"]] == ["between"] * 3
    assert test["words"][1] == "L1 to ground at the contactor, line side"


def test_the_answer_is_the_cores_and_comes_with_the_entry(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    for told in spot("whip", 222.6, 121.0, 101.7):
        last = api.post(f"{call}/entries", json=entry(told.model_dump(mode="json")))
    theirs = last.json()["diagnosis"]
    ours = answer(*spot("whip", 222.6, 121.0, 101.7), tools=USUAL_TOOLS).model_dump(mode="json")
    assert [s["key"] for s in theirs["suspects"]] == [s["key"] for s in ours["suspects"]]
    assert theirs["next_test"] == ours["next_test"]


def test_one_entry_sent_many_times_at_once_is_one_entry(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    told = entry(reading())
    with ThreadPoolExecutor(8) as pool:
        statuses = list(pool.map(lambda _: api.post(f"{call}/entries", json=told).status_code, range(8)))
    assert statuses == [200] * 8
    assert len(api.get(f"{call}/history").json()["entries"]) == 1


@pytest.mark.parametrize(
    ("told", "field"),
    [
        (reading(measurement={"place": {"kind": "between", "a": "L1@roof", "b": "G"}}), "measurement.place.a"),
        (reading(measurement={"place": {"kind": "between", "a": "L3@whip", "b": "G"}}), "measurement.place.a"),
        (reading(measurement={"place": {"kind": "around", "leg": "L3", "part": "whip"}}, unit="A"),
         "measurement.place.leg"),
        (reading(measurement={"place": {"kind": "turning", "part": "whip"}}, unit="seq"), "measurement.place.part"),
        (reading("NaN"), "reading.value"),
        (reading("much"), "reading.value"),
        (reading(-1.0), "value"),
        (reading(1001.0), "value"),
        (reading(unit="A"), "unit"),
        (reading(unit="lumen"), "reading.unit"),
        (reading(unit="ohm"), "unit"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_field_and_sentence(api: httpx.Client, told: Json, field: str) -> None:
    call = f"/api/calls/{new_call(api)}"
    refused = api.post(f"{call}/entries", json=entry(told))
    assert refused.status_code == 422, refused.text
    problem = refused.json()
    assert problem.keys() == {"code", "message", "field", "details"}
    assert problem["code"] == "bad_input"
    assert problem["field"] == field
    assert problem["message"].endswith(".")
    assert values(api.get(call).json()) == []


def test_an_infinite_number_and_broken_json_are_refused(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    text = json.dumps(entry(reading(float("inf"))))
    headers = {"content-type": "application/json"}
    assert api.post(f"{call}/entries", content=text, headers=headers).json()["field"] == "reading.value"
    assert api.post(f"{call}/entries", content="{", headers=headers).status_code == 422


def test_an_oversize_body_is_refused_announced_or_not(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    big = b"x" * 1_100_000
    assert api.post(f"{call}/entries", content=big).status_code == 413
    chunks = (big[i : i + 10_000] for i in range(0, len(big), 10_000))
    refused = api.post(f"{call}/entries", content=chunks)
    assert refused.status_code == 413
    assert refused.json()["code"] == "too_large"


def test_a_strange_value_is_asked_about_and_kept_when_confirmed(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    told = entry(reading(340.0))
    response = api.post(f"{call}/entries", json=told)
    assert response.status_code == 409
    assert response.json()["code"] == "strange_value"
    assert values(api.get(call).json()) == []
    assert values(api.post(f"{call}/entries", json=told | {"confirmed": True}).json()) == [340.0]


def test_what_is_not_on_file_is_not_found(api: httpx.Client) -> None:
    assert api.get(f"/api/calls/{uuid4()}").status_code == 404
    call = f"/api/calls/{new_call(api)}"
    lost = api.post(f"{call}/entries", json=entry(None, "withdraw", "never said"))
    assert (lost.status_code, lost.json()["field"]) == (404, "reading_id")
    refused = api.post("/api/calls", json={"id": str(uuid4()), "technician_id": str(uuid4()), "complaint": "x",
                                           "starts_at": "2026-03-01T08:00:00Z"})  # fmt: skip
    assert (refused.status_code, refused.json()["field"]) == (422, "equipment_id")


def test_the_panel_choice_is_obeyed(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"

    def zones() -> set[str]:
        bench = api.get(call).json()
        if bench["diagnosis"]["next_test"] is None:
            return set()
        zone_of = {row["part"]: row["zone"] for row in bench["strip"]["sections"][0]["rows"]}
        places = [m["place"] for m in bench["diagnosis"]["next_test"]["measurements"]]
        return {zone_of[end.split("@")[1]] for p in places for end in (p.get("a"), p.get("b")) if end and "@" in end}

    for told in spot("line_lug", 88.0, 121.0, 33.0, *PULLED):
        api.post(f"{call}/entries", json=entry(told.model_dump(mode="json")))
    assert "panel" not in zones()
    opened = api.put(f"{call}/scope", json={"panel_may_be_opened": True, "tools": ["loz"]})
    assert opened.json()["call"]["scope"] == {
        "panel_may_be_opened": True,
        "panel_volts_only": False,
        "way": "fewest",
        "use_past": True,
        "tools": ["loz"],
    }
    assert "panel" in zones()


def test_a_call_goes_out_as_a_job_file_and_comes_back_as_a_call(api: httpx.Client) -> None:
    job = Job(circuit=CONDENSER, readings=tuple(spot("whip", 0.4, 121.3, 121.0)))
    site = next(one for one in all_sites(api) if one["equipment"])
    technician = api.get("/api/people").json()[0]
    call = {
        "id": str(uuid4()),
        "technician_id": technician["id"],
        "complaint": "Brought along",
        "starts_at": "2026-03-01T08:00:00Z",
        "equipment_id": site["equipment"][0]["id"],
    }
    opened = api.post("/api/imported-calls", json={"call": call, "job": write_job(job)})
    assert opened.status_code == 201, opened.text
    assert opened.json()["readings"] == 3
    assert api.post("/api/imported-calls", json={"call": call, "job": write_job(job)}).json()["readings"] == 3
    exported = api.get(f"/api/calls/{call['id']}/job")
    assert read_job(exported.content).job == job
    refused = api.post("/api/imported-calls", json={"call": call | {"id": str(uuid4())}, "job": "{}"})
    assert (refused.status_code, refused.json()["field"]) == (422, "circuit")


def test_people_sites_and_equipment_are_put_on_file(api: httpx.Client) -> None:
    person = {"id": str(uuid4()), "name": f"Wren Tollgate {uuid4().hex[:6]}"}
    assert api.post("/api/people", json=person).status_code == 201
    clash = api.post("/api/people", json={"id": str(uuid4()), "name": person["name"]})
    assert (clash.status_code, clash.json()["field"]) == (409, "name")
    circuit = api.get("/api/ready-made-circuits").json()[0]["circuit"]
    site = {"id": str(uuid4()), "name": "Customs Shed", "equipment": []}
    assert api.post("/api/sites", json=site).status_code == 201
    item = {"id": str(uuid4()), "name": "Rooftop unit", "circuit": circuit}
    assert api.post(f"/api/sites/{site['id']}/equipment", json=item).status_code == 201
    stored = next(one for one in all_sites(api) if one["id"] == site["id"])
    assert stored["equipment"] == [{"id": item["id"], "name": item["name"], "circuit_name": circuit["name"]}]
    shown = api.get(f"/api/equipment/{item['id']}").json()
    assert (shown["equipment"], shown["site"]["name"]) == (item, site["name"])
    assert api.post(f"/api/sites/{uuid4()}/equipment", json=item).status_code == 404


def test_the_demo_shows_the_three_situations(api: httpx.Client) -> None:
    calls = {call["complaint"]: call for call in listed(api)}
    assert len({call["site_name"] for call in calls.values()}) >= 3

    def chief(complaint: str) -> Json:
        found: Json = api.get(f"/api/calls/{calls[complaint]['id']}").json()["diagnosis"]
        return found

    open_leg = chief("Outdoor unit dead since the storm")
    kinds = [s["kind"] for s in open_leg["suspects"][:10]]
    assert "open" in kinds
    assert open_leg["verdict"]["standing"] == "open"
    assert chief("No cooling after the panel was rebuilt")["suspects"][0]["kind"] == "same_leg"
    clip = chief("Runs for a while, then hums and drops out")["suspects"][0]
    assert (clip["kind"], clip["leg"]) == ("resistive", "L2")


def test_a_look_is_said_withdrawn_and_travels_in_the_job_file(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    look = {"id": str(uuid4()), "sign": "mark", "part": "clip_load", "leg": "L2"}
    bench = api.post(f"{call}/entries", json=entry(look)).json()
    (shown,) = bench["looks"]
    assert shown["line"] == "clip_load L2 sees mark"
    assert bench["diagnosis"]["suspects"][0]["part"] == "clip_load"
    assert read_job(api.get(f"{call}/job").text).looks[0].sign == "mark"
    bench = api.post(f"{call}/entries", json=entry(None, "withdraw", look["id"])).json()
    assert bench["looks"] == []
    refused = api.post(f"{call}/entries", json=entry(look | {"id": str(uuid4()), "sign": "halo"}))
    assert (refused.status_code, refused.json()["field"]) == (422, "sign")


def test_a_line_is_read_back_before_it_is_recorded(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    read = api.post(f"{call}/line", json={"text": "whip L1-L2 222.6V", "id": "one"}).json()
    assert read["words"].startswith("222.6 V, L1 to L2")
    recorded = api.post(f"{call}/entries", json=entry(read["said"]))
    assert recorded.json()["readings"][0]["line"] == "whip L1-L2 222.6V"
    half = api.post(f"{call}/line", json={"text": "whip L", "id": "one"}).json()
    assert half["said"] is None
    assert "L1-L2" in half["completions"]


def test_why_not_and_what_if_speak_of_the_same_model(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    for told in spot("whip", 0.4, 121.3, 121.0):
        api.post(f"{call}/entries", json=entry(told.model_dump(mode="json")))
    why = api.get(f"{call}/suspects/resistive:fuse:L2").json()
    assert why["key"] == "resistive:fuse:L2"
    assert len(why["evidence"]) == 3
    assert api.get(f"{call}/suspects/nonsense").status_code == 422
    jumper = {"kind": "jumper", "a": "L2@clip_line", "b": "L2@clip_load"}
    tried = api.post(f"{call}/what-if", json={"moves": [jumper], "suspect": "open:fuse:L2"}).json()
    assert "The compressor runs." in tried["changes"]
    assert any("would start" in words for words in tried["dangers"])
    bad = api.post(f"{call}/what-if", json={"moves": [jumper | {"b": "L2@roof"}]})
    assert (bad.status_code, bad.json()["field"]) == (422, "moves.0.b")


def test_a_quick_read_answers_and_is_kept_as_a_call(api: httpx.Client) -> None:
    told = {"system": "split_phase_120_240", "load_connected": True, "volts": {"L1-L2": 0.4, "L1-G": 121, "L2-G": 121}}
    quick = api.post("/api/quick-read", json=told).json()
    likely = {suspect["kind"] for suspect in quick["diagnosis"]["suspects"][:6]}
    assert likely <= {"open", "same_leg", "intermittent"}, "one leg open and fed back, or both on one side"
    assert quick["diagnosis"]["next_test"]["measurements"]
    call_id = new_call(api)
    site = next(call["site_id"] for call in listed(api) if call["id"] == call_id)
    technician = api.get("/api/people").json()[0]["id"]
    new = {"equipment_id": str(uuid4()), "equipment_name": "Not named yet", "circuit": "", "site_id": site}
    call = {"id": str(uuid4()), "technician_id": technician, "complaint": "Quick read", "new_equipment": new}
    call["starts_at"] = "2026-03-01T08:00:00+01:00"
    response = api.post("/api/imported-calls", json={"call": call, "job": json.dumps(quick["job"])})
    assert response.status_code == 201, response.text
    assert len(api.get(f"/api/calls/{call['id']}").json()["readings"]) == 3


def test_a_site_keeps_its_map_of_what_feeds_what(api: httpx.Client) -> None:
    call_id = new_call(api)
    site = next(call["site_id"] for call in listed(api) if call["id"] == call_id)
    begun = api.get(f"/api/sites/{site}/feeds").json()
    assert [unit["name"] for unit in begun["feeds"]["units"]] == ["Condenser"]
    switches = [{"id": f"b{n}", "kind": "breaker", "name": f"Breaker {n}"} for n in (2, 4, 6)]
    told = begun["feeds"] | {"switches": switches}
    asked = api.put(f"/api/sites/{site}/feeds", json=told).json()["answer"]
    unit = begun["feeds"]["units"][0]["id"]
    toggles = [{"id": "one", "switch": asked["next_switch"], "results": {unit: "died"}}]
    found = api.put(f"/api/sites/{site}/feeds", json=told | {"toggles": toggles}).json()
    assert found["answer"]["fed"][0]["switches"] == [asked["next_switch"]]
    assert api.get(f"/api/sites/{site}/feeds").json() == found
    wrong = api.put(f"/api/sites/{site}/feeds", json=told | {"toggles": [toggles[0] | {"switch": "b9"}]})
    assert wrong.status_code == 422


def test_the_list_says_what_each_call_has_come_to(api: httpx.Client) -> None:
    call_id = new_call(api)
    call = f"/api/calls/{call_id}"

    def found() -> Json | None:
        told: Json | None = next(one for one in listed(api) if one["id"] == call_id)["found"]
        return told

    assert found() is None
    told = reading(0.4)
    shown = api.post(f"{call}/entries", json=entry(told)).json()
    assert found() == {"standing": "open", "words": shown["diagnosis"]["verdict"]["words"], "stop": None, "fault": ""}
    withdrawn = entry(None, "withdraw", told["id"])
    assert api.post(f"{call}/entries", json=withdrawn).status_code == 200
    assert found() is None
    demo = {one["complaint"]: one["found"] for one in listed(api)}
    rebuilt = demo["No cooling after the panel was rebuilt"]
    assert (rebuilt["standing"], rebuilt["words"]) == ("sure", "Both hots are on the same leg of the supply.")


def test_ratings_follow_the_circuit_and_what_is_entered_and_feed_the_diagnosis(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api, 'heat_strip')}"
    begun = api.get(f"{call}/ratings").json()
    (supply,) = begun["supplies"]
    assert (supply["entered"], supply["sheet"]["plate"]["use"]) == (False, "heat")
    by_rule = {finding["rule"]: finding for finding in supply["findings"]}
    assert by_rule["conductor_terminals"]["required"]["steps"][-1] == {
        "words": "125 %, as it lasts", "sum": "1.25 × 20.8", "value": 26.0, "unit": "A",
    }  # fmt: skip
    assert {one["what"] for one in supply["wanted"]} >= {"Smallest copper wire", "Disconnect", "Grounding conductor"}

    def chance(key: str) -> float:
        found = api.get(call).json()["diagnosis"]["suspects"]
        return float(next(s["probability"] for s in found if s["key"] == key))

    before = chance("resistive:whip:L1")
    thin = [run | {"size_awg": 14, "terminals_c": 60, "insulation": "TW"} for run in supply["sheet"]["runs"]]
    entered = api.put(f"{call}/ratings/supply", json=supply["sheet"] | {"runs": thin})
    assert entered.status_code == 200, entered.text
    (supply,) = entered.json()["supplies"]
    assert supply["entered"]
    worst = supply["findings"][0]
    assert (worst["status"], worst["hazard"]) == ("not_met", 1)
    assert worst["consequence"]
    assert chance("resistive:whip:L1") > 1.5 * before, "an undersized conductor is likelier to fail"
    suspects = api.get(call).json()["diagnosis"]["suspects"]
    assert any("14 AWG" in words for s in suspects if s["key"] == "resistive:whip:L1" for words in s["likelier_by"])

    told = reading(21.4, measurement={"place": {"kind": "around", "leg": "L1", "part": "whip"}}, unit="A")
    across = reading(2.6, measurement={"place": {"kind": "between", "a": "L1@line_lug", "b": "L1@blade"}})
    for one in (told, across):
        assert api.post(f"{call}/entries", json=entry(one)).status_code == 200
    measured = api.get(f"{call}/ratings").json()
    assert measured["supplies"][0]["sheet"]["measured"]["amps"] == [21.4]
    (tread,) = [t for t in measured["treads"] if t["parts"] == ["blade"] and t["lane"] == "L1"]
    assert (tread["standing"], tread["amps_by"]) == ("high", "clamp")
    assert tread["excess_watts"] == pytest.approx((2.6 - 21.4 * 0.003) * 21.4, rel=0.1)

    file = api.get(f"{call}/job").text
    twin = {
        "id": str(uuid4()),
        "technician_id": api.get("/api/people").json()[0]["id"],
        "complaint": "From a file",
        "starts_at": "2026-03-01T08:00:00+01:00",
        "new_equipment": {
            "equipment_id": str(uuid4()), "equipment_name": "Heat strip", "circuit": "", "site_id": str(uuid4()),
            "site_name": "Pier Four Kiosk",
        },
    }  # fmt: skip
    assert api.post("/api/imported-calls", json={"call": twin, "job": file}).status_code == 201
    assert api.get(f"/api/calls/{twin['id']}/ratings").json()["supplies"] == measured["supplies"]

    strange = api.put(f"{call}/ratings/elsewhere", json=supply["sheet"])
    assert (strange.status_code, strange.json()["field"]) == (422, "source")
    odd = [run | {"ambient_c": 400} for run in thin]
    assert api.put(f"{call}/ratings/supply", json=supply["sheet"] | {"runs": odd}).status_code == 422
    (again,) = api.delete(f"{call}/ratings/supply").json()["supplies"]
    assert not again["entered"]


def test_the_bench_calculates_keeps_and_says_what_is_missing(api: httpx.Client) -> None:
    tools = {tool["key"]: tool for tool in api.get("/api/bench").json()}
    for key, tool in tools.items():
        usual = {field["key"]: field["usual"] for field in tool["fields"]}
        assert api.post(f"/api/bench/{key}", json=usual).json()["words"], key
    empty = api.post("/api/bench/capacitor", json={"amps": 5})
    assert (empty.status_code, empty.json()["message"]) == (422, "Fill in: Volts across it.")
    assert api.post("/api/bench/nothing", json={}).status_code == 422
    call = f"/api/calls/{new_call(api)}"
    kept = {"id": str(uuid4()), "tool": "capacitor", "values": {"amps": 5, "volts": 350, "marked": 40}}
    for _ in range(2):
        assert api.post(f"{call}/kept", json=kept).status_code == 201
    (shown,) = api.get(f"{call}/ratings").json()["kept"]
    assert shown["answer"]["words"].startswith("37.9 µF")
    assert shown["inputs"] == "Amps in its lead 5 A, Volts across it 350 V, Marked 40 µF"
    assert api.delete(f"{call}/kept/{kept['id']}").json()["kept"] == []
    tables = {table["key"]: table for table in api.get("/api/tables").json()}
    assert tables["ampacity"]["rows"][2] == ["copper", 10, 30, 35, 40]


def test_a_circuit_is_changed_part_by_part_and_kept_with_the_call_and_its_equipment(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api)}"
    circuit = api.get(call).json()["circuit"]
    kinds = {kind["kind"]: kind for kind in api.get("/api/part-kinds").json()}
    assert kinds["conductor"]["needs"] == "conductor"
    assert "source" not in kinds
    splice = {"id": "new_splice", "kind": "splice", "name": "splice under the deck", "zone": "disconnect"}
    edit = {"do": "insert", "behind": "branch", "part": splice}
    longer = api.post("/api/circuits/edit", json={"circuit": circuit, "edit": edit}).json()
    rows = [row["part"] for row in longer["strip"]["sections"][0]["rows"]]
    assert rows.index("new_splice") == rows.index("branch") + 1
    assert api.get(call).json()["circuit"] == circuit, "nothing is on file before it is kept"
    response = api.put(f"{call}/circuit", json=longer["circuit"])
    assert response.status_code == 200
    assert response.json()["circuit"] == longer["circuit"]
    assert any(s["key"] == "open:new_splice:L1" for s in response.json()["diagnosis"]["suspects"])
    site = next(s for s in all_sites(api) if s["id"] == response.json()["call"]["site_id"])
    assert api.get(f"/api/equipment/{site['equipment'][0]['id']}").json()["equipment"]["circuit"] == longer["circuit"]

    place = {"kind": "between", "a": "L1@new_splice", "b": "G"}
    told = reading(120.4, measurement={"place": place})
    assert api.post(f"{call}/entries", json=entry(told)).status_code == 200
    refused = api.put(f"{call}/circuit", json=circuit)
    assert (refused.status_code, refused.json()["field"]) == (422, "circuit")
    assert "withdraw it first" in refused.json()["message"]
    broken = api.post("/api/circuits/edit", json={"circuit": circuit, "edit": {"do": "remove", "part": "supply"}})
    assert broken.status_code == 422
    assert broken.json()["message"] == "A supply cannot be taken out: everything hangs on it."


@pytest.mark.parametrize("key", ready_made())
def test_a_call_opens_on_every_ready_made_circuit(api: httpx.Client, key: str) -> None:
    bench = api.get(f"/api/calls/{new_call(api, key)}").json()
    assert bench["diagnosis"]["next_test"]
    assert {point for state in bench["diagnosis"]["lanes"] for point in state["points"]} == {
        point for section in bench["strip"]["sections"] for row in section["rows"] for point in row["points"].values()
    }
