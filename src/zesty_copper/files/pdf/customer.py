"""The customer's page: what was found and done, in plain words, before and after."""

from collections.abc import Iterator

from reportlab.platypus import Flowable

from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.repair.proving.items import ProofItem
from zesty_copper.core.repair.proving.notes import Outcome
from zesty_copper.core.repair.rows import By, plains
from zesty_copper.files.pdf.common import left_words, listed, pictures, top, unit_words
from zesty_copper.files.pdf.paper import rows, says
from zesty_copper.files.pdf.told import HandOver

__all__ = ["customer"]


def customer(told: HandOver) -> Iterator[Flowable]:
    """Everything that the customer's page says."""
    yield from top(told, "What we found and what we did")
    yield says("What we found", "head")
    yield from (says(text) for text in _plain(told))
    yield from listed("What we did", _done(told))
    measured = list(_before_and_after(told))
    if measured:
        yield says("Measured before and after", "head")
        yield rows(("", "before", "after"), measured, (0.5, 0.25, 0.25))
    yield says("How it was left", "head")
    yield says(left_words(told))
    yield from listed("Still to do", _open(told))
    declined = [
        f"{refusal.what}. Declined by {refusal.by} on {refusal.on:%b %-d, %Y}. {refusal.warning}"
        for refusal in told.notes.declined
    ]
    yield from listed("Advised and declined", declined)
    yield from pictures(told, 0.8)


def _plain(hand_over: HandOver) -> Iterator[str]:
    """What was found, in the customer's words."""
    verdict = hand_over.diagnosis.verdict
    by_key = {suspect.key: suspect for suspect in hand_over.diagnosis.suspects}
    kinds = [by_key[key].kind for key in verdict.suspects if key in by_key] if hand_over.is_sure else []
    if FaultKind.NOTHING_WRONG in kinds:
        yield "The power to your equipment was found good."
        return
    plain_words = [plains()[kind] for kind in dict.fromkeys(kinds) if kind in plains()]
    if not plain_words:
        damage = [item.because for item in hand_over.plan.items if item.probability is None]
        yield "Damage was seen: " + "; ".join(damage) + "." if damage else "The cause has not been found yet."
        return
    for plain in plain_words:
        yield f"{plain.found.format(equipment=hand_over.call.equipment_name)} {plain.meant}"


def _done(hand_over: HandOver) -> list[str]:
    own_lines = [line.strip() for line in hand_over.notes.work_done.splitlines() if line.strip()]
    return own_lines or [text for text in hand_over.notes.done if text in {item.does for item in hand_over.plan.items}]


def _before_and_after(hand_over: HandOver) -> Iterator[tuple[str, str, str]]:
    """Volts and amps as they were read, and as they were proven."""
    for source, sheet in hand_over.sheets.items():
        proven = [item for item in hand_over.proof.items if item.value is not None and item.key.part_id == source]
        volts = [each_item for each_item in proven if each_item.key.what == "load"]
        was = ", ".join(f"{value:.1f} V" for value in sheet.measured.volts) or "not read"
        if sheet.measured.volts or volts:
            yield "Volts at the equipment while it runs", was, _values(volts)
    amps = [
        each_item for each_item in hand_over.proof.items if each_item.key.what == "amps" and each_item.value is not None
    ]
    amps_read = [f"{value:.1f} A" for sheet in hand_over.sheets.values() for value in sheet.measured.amps]
    if amps_read or amps:
        yield "Amps while it runs", ", ".join(amps_read) or "not read", _values(amps)
    across = [
        each_item
        for each_item in hand_over.proof.items
        if each_item.key.what == "across" and each_item.value is not None
    ]
    high = [tread for tread in hand_over.treads if tread.standing == "high" and tread.measured_volts is not None]
    if high or across:
        lost = ", ".join(f"{each_tread.measured_volts:.2f} V" for each_tread in high)
        yield "Volts lost where they should not be", lost or "not read", _values(across)


def _values(items: list[ProofItem]) -> str:
    return ", ".join(f"{item.value:g} {unit_words(item.unit)}" for item in items) or "not read"


def _open(hand_over: HandOver) -> list[str]:
    notes = hand_over.notes
    lines = [
        f"{order.words}: {'ordered' if order.state == 'ordered' else 'to be ordered'}"
        for order in notes.orders
        if order.state != "here"
    ]
    lines += [
        f"We come back on {choice.return_on:%A, %B %-d, %Y}: {choice.reason or 'to finish the repair'}"
        for choice in notes.chosen.values()
        if choice.return_on
    ]
    if notes.proof.return_on and notes.proof.outcome is not Outcome.PROVEN:
        lines.append(f"We come back on {notes.proof.return_on:%A, %B %-d, %Y} to prove it under load")
    lines += [f"For an electrician: {item.does}" for item in hand_over.plan.items if item.by is By.ELECTRICIAN]
    return lines
