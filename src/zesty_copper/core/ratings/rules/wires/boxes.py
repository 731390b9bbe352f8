"""Rules about boxes: room for what is in them, length for what is pulled through them, and reach."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.ratings.inputs.sheet import Box, Edition, PullBox, Sheet
from zesty_copper.core.ratings.inputs.tables import exactly
from zesty_copper.core.ratings.rules.finding import Finding, Ruling, as_worked
from zesty_copper.core.ratings.worked import Step, Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["box_access", "box_volume", "needed_in3", "needed_length_in", "pull_box"]

GROUNDS_AS_ONE = 4
"""From the 2020 edition on so many grounding conductors count as one, and each further one a quarter."""


def _each_in3(size_awg: int) -> float | None:
    return exactly("box_conductors", "volume", size_awg)


def needed_in3(box: Box, edition: Edition) -> Worked | None:
    """Return the volume that the code asks for what is in a box [in³]; None where a size is not in its table.

    Each conductor by its size; all inside clamps as one of the largest; each stud or hickey as one; each strap of a
    device as two of the largest on it; all grounding conductors as one of the largest (NEC 314.16(B)).
    """
    sizes = [w.size_awg for w in (*box.wires, *box.grounds)]
    if not sizes or any(_each_in3(size) is None for size in sizes):
        return None
    steps: list[Step] = []

    def count(words: str, times: float, size: int) -> None:
        each_in3 = _each_in3(size) or 0.0
        text = f"{number(times)} × {number(each_in3)}"
        steps.append(computed(f"{words}, {gauge_words(size)}", text, times * each_in3, "in³"))

    for wires in box.wires:
        count("conductors", wires.count, wires.size_awg)
    largest = min(sizes)
    if box.clamps:
        count("clamps inside, as one", 1, largest)
    if box.fittings:
        count("studs and hickeys", box.fittings, largest)
    if box.yokes:
        count("straps of devices, as two each", 2 * box.yokes, largest if box.yoke_awg is None else box.yoke_awg)
    grounds = sum(wires.count for wires in box.grounds)
    if grounds:
        over = max(grounds - GROUNDS_AS_ONE, 0) if edition is not Edition.NEC_2017 else 0
        words = "grounds, as one" + (" and a quarter of each beyond four" if over else "")
        count(words, 1 + over / 4, min(wires.size_awg for wires in box.grounds))
    total = sum(step.value for step in steps)
    text = " + ".join(number(step.value) for step in steps)
    return Worked(steps=(*steps, computed("together", text, total, "in³")))


def box_volume(sheet: Sheet) -> Iterator[Finding]:
    """Judge the room in each box."""
    for box in sheet.boxes:
        ruling = Ruling("box_volume", sheet.edition, box.name)
        need = needed_in3(box, sheet.edition)
        if box.volume_in3 is None or need is None:
            missing = []
            if box.volume_in3 is None:
                missing.append("its volume")
            if need is None:
                missing.append("the conductors in it, 18 to 6 AWG")
            yield ruling.wants(*missing)
            continue
        step = given(f"{box.name}, marked", box.volume_in3, "in³")
        words = say("ratings.volume_against_asked", number=number(box.volume_in3), value=need.value)
        yield ruling.at_least(words, step, need)


def box_access(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether a box can be reached without cutting into the building."""
    for box in sheet.boxes:
        ruling = Ruling("box_access", sheet.edition, box.name)
        if box.accessible is not None:
            words = say("ratings.box_within_reach") if box.accessible else say("ratings.buried_box_stays_within")
            yield ruling.stated(words, is_met=box.accessible)


def needed_length_in(box: PullBox) -> Worked:
    """Return the length of a pull box [in]: eight times the largest raceway, or for a turn six times and the others."""
    largest = box.largest_raceway_in
    if box.straight:
        return as_worked(computed("straight through", f"8 × {number(largest)}", 8 * largest, "in"))
    text = " + ".join([f"6 × {number(largest)}", *map(number, box.others_in)])
    return as_worked(computed("around a corner", text, 6 * largest + sum(box.others_in), "in"))


def pull_box(sheet: Sheet) -> Iterator[Finding]:
    """Judge the length of each pull box."""
    for box in sheet.pull_boxes:
        ruling = Ruling("pull_box", sheet.edition, box.name)
        if box.length_in is None:
            yield ruling.wants("its length")
            continue
        need = needed_length_in(box)
        step = given(f"{box.name}, length", box.length_in, "in")
        words = say("ratings.inches_against_asked", number=number(box.length_in), value=need.value)
        yield ruling.at_least(words, step, need)
