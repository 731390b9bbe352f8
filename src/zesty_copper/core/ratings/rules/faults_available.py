"""Rules about what a fault may draw: interrupting ratings, short-circuit ratings, and fuses that wait."""

from collections.abc import Iterator

from zesty_copper.core.ratings.inputs.sheet import DeviceSort, Sheet
from zesty_copper.core.ratings.rules.finding import Finding, Ruling
from zesty_copper.core.ratings.worked import given, number
from zesty_copper.core.words import say

__all__ = ["fuse_delay", "interrupting", "short_circuit_rating"]


def interrupting(sheet: Sheet) -> Iterator[Finding]:
    """Judge what each device can interrupt against the fault current that is available (NEC 110.9)."""
    for device in sheet.devices:
        ruling = Ruling.on("interrupting", sheet, device)
        if device.interrupting_ka is None and sheet.available_ka is None:
            continue
        if device.interrupting_ka is None or sheet.available_ka is None:
            yield ruling.wants(
                "the fault current that is available" if sheet.available_ka is None else "its interrupting rating"
            )
            continue
        words = say(
            "ratings.ka_against_available", number=number(device.interrupting_ka), number_2=number(sheet.available_ka)
        )
        step = given(f"{device.name}, marked", device.interrupting_ka, "kA")
        yield ruling.at_least(words, step, given("available", sheet.available_ka, "kA"))


def short_circuit_rating(sheet: Sheet) -> Iterator[Finding]:
    """Judge the equipment's short-circuit current rating against what is available (NEC 110.10, 440.10(A))."""
    plate, available = sheet.plate, sheet.available_ka
    ruling = Ruling("short_circuit_rating", sheet.edition, "equipment")
    if plate.sccr_ka is None or available is None:
        if plate.sccr_ka is not None or available is not None:
            yield ruling.wants("the fault current that is available" if available is None else "the plate's SCCR")
        return
    words = say("ratings.ka_against_available", number=number(plate.sccr_ka), number_2=number(available))
    yield ruling.at_least(words, given("SCCR on the plate", plate.sccr_ka, "kA"), given("available", available, "kA"))


def fuse_delay(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether fuses ahead of motors wait through their start."""
    if not sheet.plate.motors:
        return
    for device in sheet.devices:
        if device.sort is DeviceSort.FUSE and device.time_delay is not None:
            key_words = say("ratings.fuse_waits") if device.time_delay else say("ratings.fuse_does_not_wait")
            yield Ruling.on("fuse_delay", sheet, device).stated(key_words, is_met=device.time_delay)
