"""From what is suspected and what was seen to what is done: item by item, and for the call as a whole."""

from collections.abc import Iterator, Mapping, Sequence

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.circuit.words import mark_words
from zesty_copper.core.diagnosis.model.answer import Diagnosis, Standing
from zesty_copper.core.faults.catalogue import faults_of, single_phases
from zesty_copper.core.faults.fault import Fault
from zesty_copper.core.faults.key import FaultKey
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import Look, signs
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.sizing.sizes import Wanted
from zesty_copper.core.repair.back_on import BackOnStep, back_on
from zesty_copper.core.repair.lock_out import opened_for
from zesty_copper.core.repair.matches import matches_of
from zesty_copper.core.repair.notes import RepairNotes
from zesty_copper.core.repair.rows import By, Decision, Question, decisions, harms, questions
from zesty_copper.core.repair.work import before_work, order_of_work, to_prove
from zesty_copper.core.words import say

__all__ = ["RepairItem", "RepairPlan", "plan_of"]

MOST_SUSPECTS = 3
"""How many places are planned for while it is open which it is."""
LEAST_PROBABILITY = 0.1


class RepairItem(Frozen):
    """One repair: what is done, why, by whom, and with what."""

    key: str = Field(description="part, conductor and what asks for it")
    part: str | None
    because: str = Field(description="the fault, or what was seen")
    probability: float | None = Field(description="of the fault; none where damage was seen, which asks by itself")
    is_sure: bool
    does: str
    why: str
    never: str
    by: By
    question: Question | None
    inspects: tuple[str, ...]
    matches: tuple[Wanted, ...]


class RepairPlan(Frozen):
    """Everything that follows from what was found."""

    items: tuple[RepairItem, ...]
    harm: tuple[str, ...] = Field(description="what it may have hurt besides")
    before: tuple[str, ...] = Field(description="before any hand goes in")
    order: tuple[str, ...] = Field(description="the work in order")
    back_on: tuple[BackOnStep, ...] = Field(description="how it goes back on, with what each step reads")
    worked_on: tuple[str, ...] = Field(description="ids of the parts that are repaired here")
    prove: tuple[str, ...] = Field(description="what must be proven after")


def plan_of(
    circuit: Circuit,
    diagnosis: Diagnosis,
    looks: Sequence[Look],
    sheets: Mapping[str, Sheet],
    notes: RepairNotes | None = None,
) -> RepairPlan:
    """Decide what is done about what was found, and about damage that was seen.

    Visible damage asks for its repair by itself; a fault does as far as it is suspected, and says how sure it is. What
    is handed to an electrician asks for no work here.
    """
    likely = list(_likely(circuit, diagnosis))
    sure = diagnosis.verdict.standing is Standing.SURE
    # What was seen comes first: it asks for its repair whatever is found. What asks for the same again adds nothing.
    repair_items = [
        _item(circuit, sheets, row, part, leg, because=because, probability=None, sure=True)
        for part, leg, row, because in _seen(circuit, looks)
    ] + [
        _item(
            circuit,
            sheets,
            row,
            fault.part,
            fault.leg,
            because=fault.words,
            probability=probability,
            sure=sure,
            kind=fault.kind,
        )
        for fault, probability in likely
        if (row := _row_for(circuit, fault)) is not None
    ]
    items = list({(each_item.part, each_item.does): each_item for each_item in reversed(repair_items)}.values())[::-1]
    ours = [item for item in items if not _handed_over(item, notes or RepairNotes())]
    parts = [circuit.part(each_item.part) for each_item in ours if each_item.part is not None]
    return RepairPlan(
        items=tuple(items),
        harm=tuple(dict.fromkeys(_harmed(circuit, [fault for fault, _ in likely]))),
        before=tuple(before_work(circuit, parts)) if ours else (),
        order=tuple(order_of_work(circuit, parts)) if ours else (),
        back_on=tuple(back_on(circuit, opened_for(circuit, parts))) if ours else (),
        worked_on=tuple(dict.fromkeys(part.id for part in parts)),
        prove=tuple(to_prove(circuit)),
    )


def _handed_over(item: RepairItem, notes: RepairNotes) -> bool:
    """Whether an electrician does it: the usual way, unless somebody chose to do it under their own license."""
    if item.by is not By.ELECTRICIAN or item.question is None:
        return item.by is By.ELECTRICIAN
    chosen = notes.chosen.get(item.question.key)
    return chosen is None or chosen.way == item.question.ways[0].key


def _likely(circuit: Circuit, diagnosis: Diagnosis) -> Iterator[tuple[Fault, float]]:
    """The faults that the verdict speaks of, one for each place, the likeliest first."""
    by_key = {fault.key: fault for fault in faults_of(circuit)}
    sure = diagnosis.verdict.standing is Standing.SURE
    places: set[str] = set()
    for suspect in diagnosis.suspects:
        if len(places) >= (1 if sure else MOST_SUSPECTS) or suspect.probability < LEAST_PROBABILITY:
            return
        # Of two at once, each asks for its own.
        faults = [by_key[key] for key in FaultKey(suspect.key).each if key in by_key]
        if suspect.place in places or (sure and suspect.key not in diagnosis.verdict.suspects):
            continue
        suspects = [fault for fault in faults if fault.kind not in (FaultKind.NOTHING_WRONG, FaultKind.NONE_OF_THESE)]
        if suspects:
            places.add(suspect.place)
        yield from ((fault, suspect.probability) for fault in suspects)


def _row_for(circuit: Circuit, fault: Fault) -> Decision | None:
    kind = circuit.part(fault.part).kind if fault.part else ""
    return next((row for row in decisions() if fault.kind in row.faults and (not row.parts or kind in row.parts)), None)


def _seen(circuit: Circuit, looks: Sequence[Look]) -> Iterator[tuple[str, str | None, Decision, str]]:
    """Damage that was seen at a part, and what it asks for."""
    for look in looks:
        if not look.seen or look.part is None:
            continue
        part = circuit.part(look.part)
        row = next((row for row in decisions() if look.sign in row.marks and part.kind in row.parts), None)
        if row is not None:
            where = part.name if look.leg is None else f"{mark_words(part, look.leg)}, {part.name}"
            yield look.part, look.leg, row, say("repair.seen_at", sign=signs()[look.sign].label, where=where)


def _item(
    circuit: Circuit,
    sheets: Mapping[str, Sheet],
    row: Decision,
    part: str | None,
    leg: str | None,
    *,
    because: str,
    probability: float | None,
    sure: bool,
    kind: FaultKind | None = None,
) -> RepairItem:
    place: Part | None = circuit.part(part) if part else None
    return RepairItem(
        key=":".join(text for text in (part or "supply", leg if leg != GROUND else "G", row.does) if text),
        part=part,
        because=because,
        probability=probability,
        is_sure=sure,
        does=row.does,
        why=row.why,
        never=row.never,
        by=row.by,
        question=questions()[row.question] if row.question else None,
        inspects=row.inspects,
        matches=tuple(matches_of(circuit, sheets, place, row.replaces, kind)),
    )


def _harmed(circuit: Circuit, faults: Sequence[Fault]) -> Iterator[str]:
    for fault in faults:
        for row in harms():
            if fault.kind in row.faults and (not row.three_phase or single_phases(circuit, fault)):
                yield from row.checks
