"""What if: a jumper, a lifted or moved lead or a swap in the model, before anything is touched in metal.

A change is a row like a fault: a few directions edited in the network of today's suspect. Contacts follow their coils,
so what the change pulls in or lets go is told too.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from zesty_copper.core.circuit.hands import no_lead
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Identifier, Lane
from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.circuit.words import point_words
from zesty_copper.core.diagnosis.model.answer import LaneState, PointStanding
from zesty_copper.core.diagnosis.predict.compiled import CompiledCircuit, compile_circuit
from zesty_copper.core.diagnosis.predict.observe import predict
from zesty_copper.core.diagnosis.predict.states import state_of, unknowns_in
from zesty_copper.core.diagnosis.tell.lanes import lane_state
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.edits import Edits
from zesty_copper.core.faults.fault import no_suspect
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, OpenSwitches
from zesty_copper.core.words import say

__all__ = ["Jumper", "Landed", "Lifted", "Move", "WhatIf", "changed_by", "middle_sample", "row_of", "what_if"]

JUMPER_OHM = 5e-3
"""A short clip lead [ohm]."""
LIFTED_OHM = 1e9
"""A lead in the air [ohm]."""
TRIP_MULTIPLE = 2.5
"""Multiple of its rating from which a device opens within a minute or so; common practice, no source."""
TOLD_CHANGES = 12


class Jumper(Frozen):
    """Two points joined by a clip lead."""

    kind: Literal["jumper"] = "jumper"
    a: Point
    b: Point


class Lifted(Frozen):
    """A conductor taken off behind a part."""

    kind: Literal["lifted"] = "lifted"
    part: Identifier
    lane: Lane


class Landed(Frozen):
    """A conductor taken off behind a part and landed on another point."""

    kind: Literal["landed"] = "landed"
    part: Identifier
    lane: Lane
    at: Point


Move = Annotated[Jumper | Lifted | Landed, Field(discriminator="kind")]


class WhatIf(Frozen):
    """What a change does in one state of the switches."""

    before: LaneState
    after: LaneState
    changes: tuple[str, ...] = Field(description="what becomes live or dead, starts or stops, in words")
    dangers: tuple[str, ...] = Field(description="what would trip, be fed back, or start, and must not be tried live")


def what_if(circuit: Circuit, moves: Sequence[Move], open_switches: OpenSwitches, suspect: str | None) -> WhatIf:
    """Say what moves would do, on top of a suspect (none: nothing wrong).

    Raises
    ------
    BadInput
        If a move speaks of a point, part or conductor that is not there, or no such suspect is known.
    """
    compiled = compile_circuit(circuit)
    for switch in sorted(open_switches - {each_switch.id for each_switch in circuit.by_hand}):
        raise BadInput(say("tools.circuit_has_no_switch", switch=switch), "open_switches")
    row = row_of(compiled, suspect)
    changed = changed_by(compiled, row, moves)
    sample = middle_sample(compiled)
    before, after = (lane_state(changed, r, sample, open_switches) for r in (0, 1))
    doing = _doing(changed, open_switches, sample)
    trips = tuple(_trips(changed, open_switches, sample))
    # Of a short nothing matters but that it is one: what its volts would be lasts a blink.
    moved = () if trips else tuple(_moved(circuit, before, after))
    changes = (*_worked(circuit, doing), *moved)
    return WhatIf(
        before=before,
        after=after,
        changes=changes[:TOLD_CHANGES] or ("Nothing changes.",),
        dangers=(*trips, *_dangers(circuit, before, after, doing)),
    )


def row_of(compiled: CompiledCircuit, suspect: str | None) -> int:
    """Return the row of a suspect, by its key; of nothing wrong where there is none.

    Raises
    ------
    BadInput
        If no such suspect is known.
    """
    if suspect is None:
        return compiled.healthy
    f = next((i for i, fault in enumerate(compiled.faults) if fault.key == suspect), None)
    if f is None:
        raise no_suspect("suspect")
    return int(compiled.row[f])


def middle_sample(compiled: CompiledCircuit) -> int:
    """The sample whose fault lies in the middle of its spread, of those where a control secondary is grounded.

    A jumper that makes it live to ground is then seen, which is the worse of the two.
    """
    far = np.abs(compiled.nuisance.fault_quantile - 0.5) + np.where(compiled.nuisance.bonded, 0, 1)
    return int(far.argmin())


def changed_by(compiled: CompiledCircuit, row: int, moves: Sequence[Move]) -> CompiledCircuit:
    """Make two rows of the circuit: as it is, and as it would be."""
    circuit, old = compiled.circuit, compiled.edits
    edits = old.with_rows([])
    before = old.rows[row]
    series: list[tuple[int, complex]] = []
    for i, move in enumerate(moves):
        series += _directions(circuit, edits, move, i)
    if len({direction for direction, _ in series} | set(before.directions)) < len(series) + len(before.directions):
        raise BadInput(say("tools.two_changes_touch_same"), "moves")
    samples = len(old.quantile)
    added = np.broadcast_to(np.array([amount for _, amount in series], dtype=complex), (samples, len(series)))
    after = replace(
        before,
        directions=(*before.directions, *(direction for direction, _ in series)),
        delta=np.concatenate([before.delta, added], axis=1),
        dlog=np.concatenate([before.dlog, np.zeros((samples, len(series)), dtype=complex)], axis=1),
    )
    edits.rows = [before, after]
    faults = [compiled.faults[int(np.flatnonzero(compiled.row == row)[0])]] * len(edits.rows)
    return compiled.of_rows(edits, faults, np.zeros(len(faults)), (row, tuple(moves)))


def _directions(circuit: Circuit, edits: Edits, move: Move, i: int) -> Iterator[tuple[int, complex]]:
    def point(text: Point, field: str) -> Point:
        if text == GROUND:
            raise BadInput(say("tools.say_which_row_touches"), f"moves.{i}.{field}")
        try:
            _, part = circuit.split_point(text)
        except BadInput as error:
            raise BadInput(error.message, f"moves.{i}.{field}") from None
        if not part.has_points:
            raise BadInput(say("tools.joined_where_landed_touch", name=part.name), f"moves.{i}.{field}")
        return text

    if isinstance(move, Jumper):
        a, b = point(move.a, "a"), point(move.b, "b")
        if a == b:
            raise BadInput(say("tools.both_ends_jumper_are"), f"moves.{i}.b")
        yield edits.between(a, b), complex(1 / JUMPER_OHM)
        return
    part = circuit.part(move.part)
    ahead = circuit.upstream_point(part, move.lane)
    if part.entry.role is not PartRole.SERIES or ahead is None or move.lane not in circuit.lanes_of(part):
        raise no_lead(move.lane, part, f"moves.{i}.part")
    yield edits.branch(part.id, move.lane), complex(-LIFTED_OHM)
    if isinstance(move, Landed):
        yield edits.between(ahead, point(move.at, "at")), complex(1 / JUMPER_OHM)


def _doing(compiled: CompiledCircuit, open_switches: frozenset[str], sample: int) -> dict[str, tuple[int, int]]:
    """What each load and contactor does before and after: 0 nothing, 1 runs or is in, 2 hums or chatters."""
    by_load = {}
    for part in compiled.circuit.watched:
        predicted = predict(compiled, Measurement(place=Watching(part=part.id), open_switches=open_switches)).value
        by_load[part.id] = (round(float(predicted[0, sample])), round(float(predicted[1, sample])))
    return by_load


def _worked(circuit: Circuit, doing: dict[str, tuple[int, int]]) -> Iterator[str]:
    """Say what starts, stops, pulls in or drops out."""
    for part_id, (did, does) in doing.items():
        if did != does:
            part = circuit.part(part_id)
            words = ("stops", "runs", "hums") if part in circuit.loads else ("drops out", "pulls in", "chatters")
            yield f"The {part.name} {words[does]}."


def _moved(circuit: Circuit, before: LaneState, after: LaneState) -> Iterator[str]:
    """Say which points become live, dead or floating, or change by much."""
    grouped: dict[str, list[str]] = {}
    for point, point_shown in after.points.items():
        was = before.points[point]
        moved = abs(point_shown.volts - was.volts) > max(0.1 * was.volts, 5.0)
        if point_shown.standing is not was.standing or (moved and point_shown.standing is PointStanding.LIVE):
            says = (
                f"{point_shown.standing}, {point_shown.volts:.0f} V to ground"
                if point_shown.volts >= 1
                else str(point_shown.standing)
            )
            grouped.setdefault(says, []).append(point_words(circuit, point))
    for says, points in grouped.items():
        further_words = f" and {len(points) - 4} more" if len(points) > 4 else ""
        yield f"{'; '.join(points[:4])}{further_words}: {says}."


def _trips(compiled: CompiledCircuit, open_switches: frozenset[str], sample: int) -> Iterator[str]:
    """Say what would open by the current through it."""
    was, amps = (_amps(compiled, open_switches, row, sample) for row in (0, 1))
    for (part_id, lane), flows in amps.items():
        part = compiled.circuit.part(part_id)
        if flows > TRIP_MULTIPLE * (part.rating_amps or 0.0) > was[part_id, lane]:
            yield say("tools.about_through_short_would", flows=flows, lane=lane, name=part.name)


def _dangers(circuit: Circuit, before: LaneState, after: LaneState, doing: dict[str, tuple[int, int]]) -> Iterator[str]:
    """Say what would start, and what would be live though it looks off."""
    for part_id, (was_doing, becomes) in doing.items():
        if becomes > was_doing and circuit.part(part_id) in circuit.loads:
            yield say("tools.would_start_keep_hands", name=circuit.part(part_id).name)
    fed_back = [
        point
        for point, point_shown in after.points.items()
        if point_shown.standing is PointStanding.LIVE
        and before.points[point].standing is not PointStanding.LIVE
        and _behind_open(circuit, point, after.open_switches)
    ]
    if fed_back:
        yield say("tools.fed_back_behind_open", point=point_words(circuit, fed_back[0]))


def _behind_open(circuit: Circuit, point: Point, open_switches: frozenset[str]) -> bool:
    _, part = circuit.split_point(point)
    return any(each_part.switch in open_switches and not each_part.normally_closed for each_part in circuit.path(part))


def _amps(
    compiled: CompiledCircuit, open_switches: frozenset[str], row: int, sample: int
) -> dict[tuple[str, str], float]:
    """Current through every overcurrent device [A]."""
    state = state_of(compiled, open_switches)
    by_branch: dict[tuple[str, str], float] = {}
    for part in compiled.circuit.series:
        if not part.entry.overcurrent or not part.rating_amps:
            continue
        for lane in compiled.circuit.lanes_of(part):
            if lane not in (GROUND, NEUTRAL):
                (amps,) = unknowns_in(compiled, state, state.settled, [compiled.netlist.branch_row(part.id, lane)])
                by_branch[part.id, lane] = float(abs(amps[row, sample]))
    return by_branch
