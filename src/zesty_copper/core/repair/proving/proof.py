"""The checklist of a proof, made from the repair and the equipment, filled by numbers and judged."""

from collections.abc import Iterator, Mapping, Sequence

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.errors import BadInput
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.load_test.report import LoadReport
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.repair.proving.air import air
from zesty_copper.core.repair.proving.amps import amps, starts
from zesty_copper.core.repair.proving.controls import controls
from zesty_copper.core.repair.proving.ends import joints, last, stages, upkeep
from zesty_copper.core.repair.proving.from_trace import measured_in
from zesty_copper.core.repair.proving.items import NumberAsked, ProofItem, ProofStanding, Subject, item_of
from zesty_copper.core.repair.proving.notes import Outcome, ProofNotes
from zesty_copper.core.repair.proving.volts import volts
from zesty_copper.core.words import say

__all__ = ["Proof", "check_left", "check_outcome", "kept_up", "numbers_in", "proof_of"]


class Proof(Frozen):
    """What is asked, how each stands, and whether all of it is proven."""

    items: tuple[ProofItem, ...]
    missing: int = Field(description="items that nobody has answered yet")
    failing: int = Field(description="items that are not met")
    later: int = Field(description="items that cannot be proven today")

    @property
    def holds(self) -> bool:
        """Whether nothing is missing, failing or left for another day."""
        return not (self.missing or self.failing or self.later)


def kept_up(circuit: Circuit) -> tuple[Part, ...]:
    """Every joint and device outside the panel that carries a load's current: what a maintenance visit looks after."""
    ways = {part.id for load in circuit.loads if not load.entry.elsewhere for part in circuit.path(load)}
    return tuple(
        part
        for part in circuit.series
        if part.id in ways
        and part.entry.role is PartRole.SERIES
        and part.conductor is None
        and part.zone is not Zone.PANEL
        and circuit.root(part).entry.role is PartRole.SOURCE
    )


def proof_of(
    circuit: Circuit,
    sheets: Mapping[str, Sheet],
    parts: Sequence[Part],
    notes: ProofNotes,
    *,
    is_maintenance: bool = False,
) -> Proof:
    """Lay out what has to be proven, and judge what was measured.

    Parameters
    ----------
    sheets
        By the source or breaker at which each branch circuit begins; those that feed a load of the equipment.
    parts
        What was worked on, or is looked after.
    is_maintenance
        Whether the visit is there to look after it.
    """
    asks: dict[str, NumberAsked] = {}
    for subject in _subjects(circuit, sheets, parts, notes, is_maintenance=is_maintenance):
        for rule in (volts, controls, amps, starts, stages, air, joints, upkeep, last):
            # Covers and labels are asked once, whatever the number of supplies.
            asks |= {ask.key: ask for ask in rule(subject)}
    items = tuple(item_of(ask, notes.numbers, notes.ticked) for ask in asks.values())
    standings = [item.standing for item in items]
    return Proof(
        items=items,
        missing=standings.count(ProofStanding.MISSING),
        failing=standings.count(ProofStanding.NOT_MET),
        later=standings.count(ProofStanding.LATER),
    )


def numbers_in(
    circuit: Circuit, sheets: Mapping[str, Sheet], notes: ProofNotes, report: LoadReport
) -> dict[str, float]:
    """Return the numbers of a proof that a load test has measured, by the items' keys."""
    subjects = list(_subjects(circuit, sheets, (), notes))
    # A trace says nothing of which supply it was taken on: with several it is left to be typed.
    return measured_in(subjects[0], report) if len(subjects) == 1 else {}


def _subjects(
    circuit: Circuit,
    sheets: Mapping[str, Sheet],
    parts: Sequence[Part],
    notes: ProofNotes,
    *,
    is_maintenance: bool = False,
) -> Iterator[Subject]:
    for start in circuit.series:
        if start.id not in sheets:
            continue
        source = circuit.path(start)[0]
        loads = tuple(
            load
            for load in circuit.loads
            if circuit.root(load) is source
            and start in circuit.path(load)
            and load.load is not None
            and not load.entry.elsewhere
        )
        if loads:
            own_parts = tuple(part for part in parts if circuit.root(part) is source and start in circuit.path(part))
            yield Subject(circuit, start, sheets[start.id], loads, own_parts, notes.numbers, notes.mode, is_maintenance)


def check_outcome(proof: Proof, notes: ProofNotes) -> None:
    """Check that a proof may be left as it is said to be.

    Raises
    ------
    BadInput
        If it is called proven while something is missing, failing or open, or not proven without a reason.
    """
    if notes.outcome is Outcome.PROVEN and not proof.holds:
        wanting = (ProofStanding.NOT_MET, ProofStanding.MISSING, ProofStanding.LATER)
        first = min(
            (item for item in proof.items if item.standing in wanting), key=lambda one: wanting.index(one.standing)
        )
        raise BadInput(
            say(
                "proof.not_proven_yet",
                missing=proof.missing,
                failing=proof.failing,
                later=proof.later,
                first=first.label,
            ),
            "proof.outcome",
        )
    if notes.outcome is Outcome.NOT_PROVEN and not notes.reason.strip():
        raise BadInput(say("proof.say_why_not_proven"), "proof.reason")
    if notes.outcome is Outcome.NOT_PROVEN and proof.later and notes.return_on is None:
        raise BadInput(say("proof.say_when_proven"), "proof.return_on")


def check_left(notes: ProofNotes) -> None:
    """Check that a call in which something was found is closed as proven, or as not proven with its reason.

    Raises
    ------
    BadInput
        If nobody has said which.
    """
    if notes.outcome is Outcome.OPEN:
        raise BadInput(say("proof.prove_before_closing"), "status")
