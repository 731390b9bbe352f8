"""Where a diagnosis stands, and what is to be done next."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from zesty_copper.core.circuit.part import NEUTRAL, Zone
from zesty_copper.core.diagnosis.infer.posterior import Posterior
from zesty_copper.core.diagnosis.infer.weighed import Weighed
from zesty_copper.core.diagnosis.model.answer import Standing, Stop
from zesty_copper.core.diagnosis.model.job import Job, Way
from zesty_copper.core.diagnosis.plan.inspection import Asked, best_handle, best_look
from zesty_copper.core.diagnosis.plan.next_test import Card, best_card, card_of, opening_card, separation_bits
from zesty_copper.core.diagnosis.plan.owed import danger_to_confirm, spot_unread, worth_repeating
from zesty_copper.core.diagnosis.plan.particles import Particles, particles_of
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit
from zesty_copper.core.diagnosis.safety.stops import reads_failing_neutral
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.faults.signs import SignOf, signs
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, zone_of
from zesty_copper.core.observations.modes import Tool

__all__ = ["INSEPARABLE_BITS", "SURE", "NextStep", "first_standing", "named_places", "neutral_may_hide", "next_step"]

SURE = 0.98
"""Probability of one place from which the tool says so and asks no more."""
SURE_OF_NOTHING = 0.95
"""The same of nothing being wrong: it sends no hand anywhere, and what is left is looked for elsewhere first."""
HELD = 0.5
"""Probability that a verdict must keep whichever one reading is struck out: no part is condemned on one number."""
HELD_BY_EYE = 0.2
"""The same where what was seen speaks for the place too: eyes are a second witness."""
SPEAKS_NATS = 1.0
"""How much looks must say for a place to be a witness to it."""
LOOK_MARGIN = 1.5
"""By how much a look must tell more for its time than a number: a verdict needs the numbers anyway."""
SURE_ALONE = 0.95
"""Probability of one place from which it is told where no test is left that tells more: the rest are many and small."""
INSEPARABLE_BITS = 0.05
"""Information below which a test is not worth taking: what is left is not told apart in reasonable time."""
NOTHING_FOUND, NOTHING_BITS = 0.9, 0.2
"""Probability of nothing being wrong from which only a test that tells so much is still worth taking [bit]: what is
left is many and small, and is said beside it."""
WORTHLESS_BITS = 0.01
"""Information below which not even one more reading towards certainty is worth taking."""


@dataclass(frozen=True, eq=False)
class NextStep:
    """Where a diagnosis stands, and the test that follows from it.

    Attributes
    ----------
    card
        What to measure; none where nothing is, or where a look is better.
    look
        What to look at instead: the look, its information [bit] and its minutes.
    carried
        Whether one number, or looks, carry a place that would be sure.
    handover
        What an electrician should read beyond the scope, where this ends short of an answer.
    """

    standing: Standing
    card: Card | None = None
    look: Asked | None = None
    carried: bool = False
    handover: Card | None = None


@dataclass(frozen=True, eq=False)
class _Deciding:
    """What a step is chosen by."""

    weighed: Weighed
    particles: Particles
    job: Job
    stop: Stop | None

    @property
    def taken(self) -> list[Measurement]:
        """What was measured so far."""
        return [reading.measurement for reading in self.job.readings]

    @property
    def place(self) -> int:
        """The likeliest place."""
        return int(self.weighed.places.argmax())

    def best(self, particles: Particles | None = None) -> Card | None:
        """The best card within scope and stop."""
        return best_card(self.weighed.compiled, particles or self.particles, self.taken, self.job.scope, self.stop)

    def card(self, measurements: Sequence[Measurement]) -> Card:
        """The card of measurements that are asked for whatever they tell."""
        return card_of(self.weighed.compiled, self.particles, measurements, self.taken)


def first_standing(weighed: Weighed, job: Job, stop: Stop | None) -> Standing:
    """Say where it stands before any test is looked for: sure only where no test is needed to say so."""
    place = int(weighed.places.argmax())
    if weighed.places[place] >= _bar(weighed.compiled, place):
        proven = not _owed(weighed, job, stop, place) and _leave_one_out(weighed, place) is None
        if proven and neutral_may_hide(weighed, job):
            return Standing.INSEPARABLE
        return Standing.SURE if proven and _holds_without_inspections(weighed, place) else Standing.OPEN
    return Standing.UNEXPLAINED if weighed.posterior.unlisted > 0.5 else Standing.OPEN


def next_step(weighed: Weighed, particles: Particles, job: Job, stop: Stop | None) -> NextStep:
    """Say where a diagnosis stands and choose the next test."""
    here = _Deciding(weighed, particles, job, stop)
    if owed := danger_to_confirm(job, stop):
        return NextStep(Standing.OPEN, here.card(owed))
    if (card := _opening(here)) is not None:
        return NextStep(Standing.OPEN, card)
    step = _by_numbers(here)
    if step.standing in (Standing.OPEN, Standing.INSEPARABLE):
        step = _or_a_look(here, step)
    if step.standing is Standing.SURE and neutral_may_hide(weighed, job):
        step = replace(step, standing=Standing.INSEPARABLE)
    if step.standing is Standing.INSEPARABLE and not job.scope.panel_may_be_opened:
        step = replace(step, handover=_handover(here))
    return step


def _opening(here: _Deciding) -> Card | None:
    """Return the volts that a call begins with where it was told on the telephone what runs; none later.

    What was told need not be watched again; and what trips is not energized to be read.
    """
    signs_seen = [signs()[look.sign] for look in here.job.looks if look.seen]
    if here.job.readings or here.stop is not None or not any(sign.follows for sign in signs_seen):
        return None
    if any(sign.of is SignOf.CALL and any(rule.tripped for rule in sign.shows) for sign in signs_seen):
        return None
    return opening_card(here.weighed.compiled, here.particles, here.job.scope)


def _by_numbers(here: _Deciding) -> NextStep:
    """Where it stands, and what to measure next."""
    weighed, place = here.weighed, here.place
    if weighed.places[place] >= _bar(weighed.compiled, place):
        return _nearly_sure(here)
    card = here.best()
    if weighed.posterior.unlisted > 0.5:
        if card is None or card.bits < WORTHLESS_BITS:
            again = worth_repeating(weighed.posterior, here.job, here.stop, doubt=0.0)
            card = None if again is None else here.card([again])
        return NextStep(Standing.UNEXPLAINED, card)
    if card is None or _nothing_left(here, card):
        return _nothing_more(here)
    return NextStep(Standing.OPEN, card)


def _nothing_more(here: _Deciding) -> NextStep:
    """Where it stands with no test left: one place if it is far ahead of all others, else a set."""
    weighed, place = here.weighed, here.place
    if place == _nothing_wrong(weighed.compiled) and (owed := _owed(weighed, here.job, here.stop, place)):
        return NextStep(Standing.OPEN, here.card(owed), carried=True)
    ahead = weighed.places[place] >= SURE_ALONE
    if not ahead or _leave_one_out(weighed, place) is not None or not _holds_without_inspections(weighed, place):
        return NextStep(Standing.INSEPARABLE)
    return _nearly_sure(here)


def _nearly_sure(here: _Deciding) -> NextStep:
    """Return what is still owed to a place likely enough to be told: a number struck out, or one that carries it."""
    weighed, place = here.weighed, here.place
    if owed := _owed(weighed, here.job, here.stop, place):
        return NextStep(Standing.OPEN, here.card(owed), carried=True)
    posterior = _leave_one_out(weighed, place)
    if posterior is None and _holds_without_inspections(weighed, place):
        return NextStep(Standing.SURE)
    card = here.best(None if posterior is None else particles_of(weighed.compiled, posterior))
    if card is not None and card.bits >= INSEPARABLE_BITS:
        return NextStep(Standing.OPEN, card, carried=True)
    by_eye_alone = posterior is None and weighed.log_inspection_ratio.any()
    return NextStep(Standing.INSEPARABLE if by_eye_alone else Standing.SURE)


def _owed(weighed: Weighed, job: Job, stop: Stop | None, place: int) -> Sequence[Measurement]:
    """Return what must be read before a place is told: a number struck out again, or its own spot."""
    if (again := worth_repeating(weighed.posterior, job, stop)) is not None:
        return [again]
    chief = max(np.flatnonzero(weighed.compiled.place == place), key=lambda f: weighed.by_fault[f])
    return spot_unread(job, weighed.compiled.faults[int(chief)], stop)


def _or_a_look(here: _Deciding, step: NextStep) -> NextStep:
    """Return a look instead where that tells more for the effort: at a handle, or over a box.

    Along the way it is only the box one is at; where no number tells anything more, only a handle. What a number is
    worth is its own rate, whether or not it is to be recorded for minutes [bit/min].
    """
    job, compiled, rate = here.job, here.weighed.compiled, 0.0 if step.card is None else step.card.rate
    last = here.taken[-1] if here.taken else None
    # A handle is moved off and on again to prove it: never while something says to leave it off.
    handle = best_handle(compiled, here.particles, job.looks, last) if here.stop is None else None
    if handle is not None and handle[1] >= INSEPARABLE_BITS and handle[1] / handle[2] > rate:
        return replace(step, standing=Standing.OPEN, look=handle)
    if step.card is None:
        return step
    open_step = replace(step, standing=Standing.OPEN)
    if Tool.EYES not in job.scope.tools:
        return open_step
    look = best_look(compiled, here.particles, job.looks, last, panel=job.scope.panel_may_be_opened)
    if look is None or look[1] / look[2] <= LOOK_MARGIN * rate:
        return open_step
    along = job.scope.way is not Way.FEWEST
    if along and look[0].zone is not zone_of(compiled.circuit, step.card.measurements[0]):
        return open_step
    return replace(open_step, look=look)


def _holds_without_inspections(weighed: Weighed, place: int) -> bool:
    """Whether a place keeps half without all that was seen: a look alone never convicts."""
    by_fault = weighed.by_fault * np.exp(-weighed.log_inspection_ratio)
    share = by_fault[weighed.compiled.place == place].sum()
    return bool(share >= HELD * (by_fault.sum() + weighed.posterior.unlisted))


def _handover(here: _Deciding) -> Card | None:
    """Return the readings that an electrician should take in the panel; none where they would tell nothing."""
    beyond = here.job.scope.model_copy(update={"panel_may_be_opened": True, "way": Way.SOURCE_OUT})
    card = best_card(here.weighed.compiled, here.particles, here.taken, beyond, here.stop)
    return None if card is None or card.bits < INSEPARABLE_BITS else card


def _nothing_wrong(compiled: CompiledCircuit) -> int | None:
    """Return the place that stands for nothing being wrong; None among pairs of faults."""
    kinds = [fault.kind for fault in compiled.faults]
    return int(compiled.place[kinds.index(FaultKind.NOTHING_WRONG)]) if FaultKind.NOTHING_WRONG in kinds else None


def _bar(compiled: CompiledCircuit, place: int) -> float:
    """Probability of a place from which the tool says so."""
    return SURE_OF_NOTHING if place == _nothing_wrong(compiled) else SURE


def _leave_one_out(weighed: Weighed, place: int) -> Posterior | None:
    """Return what is left without the one reading that carries a verdict; None where it stands without any of them."""
    compiled, posterior = weighed.compiled, weighed.posterior
    if posterior.outlier.max(initial=0.0) > 0.5:
        return None  # one number is struck out already
    mine = compiled.place == place
    weight = np.exp(
        posterior.log_without - logsumexp(posterior.log_without, axis=(0, 1))
    )  # (faults, samples, readings)
    share = weight[mine].sum(axis=(0, 1))
    i = int(share.argmin())
    look_speaks = weighed.log_inspection_ratio[mine].max() >= SPEAKS_NATS
    return None if share[i] >= (HELD_BY_EYE if look_speaks else HELD) else posterior.without(i)


def neutral_may_hide(weighed: Weighed, job: Job) -> bool:
    """Whether the likeliest place is not told from a failing service neutral, or a reading says that by itself."""
    return bool(_hidden_neutral(weighed, job, [int(weighed.places.argmax())]))


def named_places(weighed: Weighed, job: Job) -> list[int]:
    """Return the places that a verdict names which cannot be narrowed further; a neutral that may hide among them."""
    named: list[int] = leading_places(weighed.places, weighed.posterior.unlisted).tolist()
    hidden = _hidden_neutral(weighed, job, named)
    return [named[0], *hidden, *(place for place in named[1:] if place not in hidden)]


def _hidden_neutral(weighed: Weighed, job: Job, named: Sequence[int]) -> list[int]:
    """Return the place of a service neutral that must be named beside these; none where it is first, or ruled out.

    Where the service has another leg, which does not come to this circuit, a poor neutral acts on the one that does as
    a poor leg would, or as nothing much: what gives it away is the leg that nobody reads here.
    """
    compiled, source = weighed.compiled, job.circuit.series[0].id
    faults = zip(compiled.faults, compiled.place.tolist(), strict=True)
    place = next((place for fault, place in faults if (fault.part, fault.leg) == (source, NEUTRAL)), named[0])
    alike = bool(job.circuit.supply.unseen_phasors) and any(_told_alike(weighed, job, number) for number in named)
    return [place] if place != named[0] and (alike or reads_failing_neutral(job.circuit, job.readings)) else []


def _told_alike(weighed: Weighed, job: Job, place: int) -> bool:
    """Whether a place is nothing being wrong, a supply out of range, or a poor leg in a panel, line side unread."""
    compiled, circuit = weighed.compiled, job.circuit
    if place == _nothing_wrong(compiled):
        return True
    chief = compiled.faults[int(np.where(compiled.place == place, weighed.by_fault, -1).argmax())]
    if chief.kind in (FaultKind.SUPPLY_LOW, FaultKind.WRONG_SUPPLY):
        return True
    if chief.kind not in (FaultKind.RESISTIVE, FaultKind.INTERMITTENT) or chief.leg not in circuit.legs:
        return False
    part = circuit.part(chief.part or "")
    if part == circuit.series[0]:
        return True
    line_side = circuit.upstream_point(part, chief.leg)
    points = {
        point
        for reading in job.readings
        if isinstance(at := reading.measurement.place, Between)
        for point in (at.a, at.b)
    }
    return part.zone is Zone.PANEL and line_side not in points


def leading_places(places: NDArray[np.float64], unlisted: float) -> NDArray[np.int64]:
    """Return the fewest places that together are as sure as `SURE`; all of them where that cannot be reached."""
    order = np.argsort(-places, kind="stable")
    needed = int(np.searchsorted(np.cumsum(places[order]), SURE * (1 - unlisted))) + 1
    return order[:needed]


def _nothing_left(here: _Deciding, card: Card) -> bool:
    """Whether no allowed test tells the leading places apart, whatever it may say about the unlikely rest."""
    # The doubtful rest holds at most 1 - SURE, so it can add no more than its own entropy to what the set may yield.
    rest_bits = 0.3
    if card.bits > INSEPARABLE_BITS + rest_bits:
        return False
    if card.bits < WORTHLESS_BITS:
        return True
    compiled, places = here.weighed.compiled, here.weighed.places
    nothing = _nothing_wrong(compiled)
    if nothing is not None and places[nothing] >= NOTHING_FOUND and card.bits < NOTHING_BITS:
        return True
    named = leading_places(places, 1 - places.sum())
    if len(named) == 1:
        return False  # one place, not yet sure: more readings still settle it
    leading = here.particles.among(named)
    return separation_bits(compiled, leading, here.taken, here.job.scope, here.stop) < INSEPARABLE_BITS
