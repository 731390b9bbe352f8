"""The technical sheet: every reading with its state, what was decided, and the proof."""

from collections.abc import Iterator

from reportlab.platypus import Flowable

from zesty_copper.core.repair.proving.items import ProofStanding
from zesty_copper.files.pdf.common import left_words, listed, pictures, top, unit_words
from zesty_copper.files.pdf.paper import rows, says
from zesty_copper.files.pdf.told import HandOver

__all__ = ["technical"]

STANDINGS = {
    ProofStanding.MET: "met",
    ProofStanding.NOT_MET: "NOT MET",
    ProofStanding.MISSING: "not measured",
    ProofStanding.LATER: "not today",
    ProofStanding.INFORMS: "",
}


def technical(told: HandOver) -> Iterator[Flowable]:
    """Everything that the technical sheet says."""
    yield from top(told, "Technical sheet")
    verdict = told.diagnosis.verdict
    if told.diagnosis.stop is not None:
        yield says(told.diagnosis.stop.title, "big")
        yield says(told.diagnosis.stop.words)
        yield says(f"Clears it: {told.diagnosis.stop.clears}")
    yield says("Verdict", "head")
    yield says(f"{verdict.words} ({100 * verdict.probability:.0f} %)")
    suspects = [(suspect.words, f"{100 * suspect.probability:.1f} %") for suspect in told.diagnosis.suspects[:6]]
    yield rows(("suspect", "sure"), suspects, (0.82, 0.18))
    yield says("Readings, each in the state of its switches", "head")
    readings = [
        (
            told.moment(reading.at),
            reading.place,
            reading.state,
            reading.value + (" (corrected)" if reading.corrected else ""),
        )
        for reading in told.readings
    ]
    yield rows(("when", "where", "state", "value"), readings, (0.2, 0.36, 0.27, 0.17)) if readings else says("None.")
    if told.looks:
        yield says("Seen, heard and smelled", "head")
        yield rows(("when", "what"), [(told.moment(look.at), look.place) for look in told.looks], (0.2, 0.8))
    yield from _decided(told)
    yield from _proven(told)
    yield from _logged(told)
    yield from pictures(told, 0.6)


def _decided(hand_over: HandOver) -> Iterator[Flowable]:
    for item in hand_over.plan.items:
        question = item.question
        chosen = hand_over.notes.chosen.get(question.key) if question is not None else None
        way = question.way(chosen.way) if question is not None and chosen is not None else None
        lines = [f"{item.does} {item.why}"]
        if way is not None and chosen is not None:
            lines.append(f"Chosen: {way.words}" + (f" Why: {chosen.reason}" if chosen.reason else ""))
        lines += [f"Match: {match.what}: {match.answer}" for match in item.matches]
        yield from listed(f"Decided: {item.because}" if item.is_sure else f"If it is this: {item.because}", lines)
    yield from listed("Done", [*hand_over.notes.work_done.splitlines(), *hand_over.notes.done])
    back = [f"{item.words}: {'back' if item.done else 'NOT BACK YET'}" for item in hand_over.notes.put_back]
    yield from listed("Changed for testing", back)


def _proven(hand_over: HandOver) -> Iterator[Flowable]:
    answered = [item for item in hand_over.proof.items if item.value is not None or item.ticked]
    yield says("Proof", "head")
    yield says(left_words(hand_over))
    if answered:
        body = [
            (
                each_item.label,
                "seen" if each_item.unit is None else f"{each_item.value:.4g} {unit_words(each_item.unit)}",
                each_item.must,
                STANDINGS[each_item.standing],
            )
            for each_item in answered
        ]
        yield rows(("asked", "read", "must be", ""), body, (0.42, 0.14, 0.31, 0.13))


def _logged(hand_over: HandOver) -> Iterator[Flowable]:
    for title, report in hand_over.tests:
        lines = [f"{finding.title}. {finding.says}" for finding in report.findings[:20]]
        yield from listed(f"Load test: {title}, {report.duration_s / 60:.1f} min", lines)
