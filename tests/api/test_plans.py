"""A plan is worked out beside everything else, and is there when it is asked for again."""

import time

import httpx
from tests.api.test_api import entry, new_call, reading


def test_a_plan_grows_while_others_are_answered_and_is_kept(api: httpx.Client) -> None:
    call = f"/api/calls/{new_call(api, 'heat_strip', told=['nothing_runs'])}"
    # A number that no other test reads: of the same job the plan would be there already.
    api.post(f"{call}/entries", json=entry(reading(240.37))).raise_for_status()
    first = api.get(f"{call}/plan").json()
    assert (first["is_done"], first["nodes"]) == (False, [])
    told = first
    while not told["is_done"]:
        assert api.get(f"{call}/stamp").status_code == 200
        time.sleep(0.5)
        told = api.get(f"{call}/plan").json()
        assert 0 <= told["progress"] <= 1
    page = api.get(call).json()["diagnosis"]
    assert told["nodes"][0]["words"] == page["verdict"]["words"]
    assert told["nodes"][0]["test"]["measurements"] == page["next_test"]["measurements"]
    assert len(api.get(f"{call}/plan").content) < 1_000_000
    assert api.get(f"{call}/plan").json()["nodes"] == told["nodes"]
    api.post(f"{call}/entries", json=entry(reading())).raise_for_status()
    assert not api.get(f"{call}/plan").json()["is_done"], "of another reading it is another plan"
