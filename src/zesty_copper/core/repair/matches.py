"""What a replacement must match, as a list to take from the truck.

Only of what is at the place itself: the part that was named, what sits with it in the same box on the same way, the
wire that lands on it, and the loads that hang on it.
"""

from collections.abc import Iterator, Mapping, Sequence

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part
from zesty_copper.core.circuit.parts.conductor import Conductor, gauge_words
from zesty_copper.core.diagnosis.safety.stray_volts import LOW_VOLTAGE
from zesty_copper.core.faults.kinds import FaultKind
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.sizing.sizes import DISCONNECT_STEPS, Wanted, smallest_copper, what_matches
from zesty_copper.core.ratings.worked import number
from zesty_copper.core.repair.rows import Replaced
from zesty_copper.core.words import say

__all__ = ["matches_of"]

USUAL = "common practice, no source"
"""Kinds whose wire lands bare under a screw or in a connector: no crimp belongs there."""
THREE_LEGS = 3


def matches_of(
    circuit: Circuit,
    sheets: Mapping[str, Sheet],
    part: Part | None,
    replaced: Sequence[Replaced],
    kind: FaultKind | None = None,
) -> Iterator[Wanted]:
    """Return what each replacement must match; what nothing is known of says what to read off the old one.

    Parameters
    ----------
    part
        The place; none where the supply as a whole is meant, which asks for no part.
    kind
        What is wrong there; none where damage was seen.
    """
    if part is None:
        return
    parts = [circuit.part(start) for start in sheets]
    sheet = next((sheets[start.id] for start in parts if start in circuit.path(part)), None)
    for replacement in replaced:
        yield from _match(circuit, sheet, part, replacement, kind)


def _match(
    circuit: Circuit, sheet: Sheet | None, part: Part, replaced: Replaced, kind: FaultKind | None
) -> Iterator[Wanted]:
    match replaced:
        case Replaced.WIRE:
            yield _wire(circuit, sheet, part, kind)
        case Replaced.CONTROL:
            yield _control(circuit, part)
        case Replaced.ELEMENT:
            yield from _elements(circuit, part)
        case Replaced.MOTOR:
            yield from _motors(part)
        case Replaced.CAPACITOR:
            yield from _capacitors(circuit, part)
        case Replaced.TRANSFORMER:
            yield from _transformers(circuit, part)
        case Replaced.DISCONNECT:
            yield _disconnect(circuit, part)
        case Replaced.FUSE | Replaced.BREAKER | Replaced.CONTACTOR:
            yield from _devices(circuit, sheet, part, replaced)
        case Replaced.TERMINAL:
            yield from _terminal(part)
        case Replaced.CONNECTOR:
            yield _connector(circuit, part)


def _devices(circuit: Circuit, sheet: Sheet | None, part: Part, replaced: Replaced) -> Iterator[Wanted]:
    """What the sheet knows of these very devices; else what to read off them."""
    read_off = {
        Replaced.FUSE: say("repair.fuse_as_marked"),
        Replaced.BREAKER: say("repair.breaker_as_marked"),
        Replaced.CONTACTOR: say("repair.contactor_as_marked"),
    }
    fuses = _fuses(circuit, part) if replaced is Replaced.FUSE else []
    by_part = {each_wanted.part: each_wanted for each_wanted in (() if sheet is None else what_matches(sheet))}
    for device in fuses or ([part] if part.kind == replaced else []):
        yield by_part.get(device.id) or _of(device, read_off[replaced])


def _fuses(circuit: Circuit, part: Part) -> list[Part]:
    """The fuses in the same box on the same way; the part itself where it is one."""
    if part.entry.is_fuse:
        return [part]
    return [
        fuse
        for fuse in circuit.parts
        if fuse.entry.is_fuse
        and (fuse.zone, fuse.device) == (part.zone, part.device)
        and (fuse in circuit.path(part) or part in circuit.path(fuse))
    ]


def _disconnect(circuit: Circuit, part: Part) -> Wanted:
    """By what hangs on it: where it holds fuses, at least the frame that takes them."""
    disconnect_words = say("repair.fused_disconnect") if (fuses := _fuses(circuit, part)) else say("repair.disconnect")
    amps = [fuse.rating_amps for fuse in fuses if fuse.rating_amps]
    frame = next((step for step in DISCONNECT_STEPS if step >= max(amps)), None) if amps else None
    if frame is None:
        return _as_marked(disconnect_words, say("repair.disconnect_as_marked"), part)
    return _as_marked(
        disconnect_words, say("repair.disconnect_for_fuses", amps=number(frame), fuse=number(max(amps))), part
    )


def _control(circuit: Circuit, part: Part) -> Wanted:
    """A relay, sequencer, thermostat or limit, by all that it switches together."""
    amps = sum(load.load.rated_amps for load in _behind(circuit, part) if load.load)
    if not amps:
        return _of(part, say("repair.control_as_marked"))
    volts = number(circuit.root_volts(part))
    return _of(part, say("repair.control_matches", amps=number(amps), volts=volts))


def _elements(circuit: Circuit, part: Part) -> Iterator[Wanted]:
    for element in [part] if part.entry.heats else []:
        if element.load is not None:
            # Between three legs, in wye or delta, each conductor's amps belong to volts from leg to leg.
            legs = [lane for lane in circuit.lanes_of(element) if lane in circuit.legs]
            factor = 3**0.5 if len(legs) == THREE_LEGS else 1.0
            kw = factor * element.load.rated_volts * element.load.rated_amps / 1000
            yield _of(element, say("repair.element_matches", kw=kw, volts=number(element.load.rated_volts)))


def _motors(part: Part) -> Iterator[Wanted]:
    if part.load is not None:
        volts, amps = number(part.load.rated_volts), number(part.load.rated_amps)
        yield _of(part, say("repair.motor_matches", volts=volts, amps=amps))


def _capacitors(circuit: Circuit, part: Part) -> Iterator[Wanted]:
    """The part itself, or what is drawn beside the motor that it serves."""
    beside = [
        each_part
        for each_part in circuit.parts
        if each_part.entry.is_run_capacitor and circuit.feed(each_part) == circuit.feed(part)
    ]
    for capacitor in [part] if part.entry.is_run_capacitor else beside:
        if capacitor.capacitance_uf is not None:
            yield _of(capacitor, say("repair.capacitor_matches", microfarad=capacitor.capacitance_uf))


def _transformers(circuit: Circuit, part: Part) -> Iterator[Wanted]:
    transformer = part if part.winding is not None else circuit.root(part)
    if transformer.winding is not None:
        primary, secondary = number(transformer.winding.primary_volts), number(transformer.winding.secondary_volts)
        va = number(transformer.winding.volt_amps)
        yield _of(transformer, say("repair.transformer_matches", primary=primary, secondary=secondary, va=va))


def _wire(circuit: Circuit, sheet: Sheet | None, part: Part, kind: FaultKind | None) -> Wanted:
    """The wire that is there, or thicker where it was too thin for what the plate asks."""
    if part.conductor is None:
        return _as_marked(say("repair.wire"), say("repair.wire_as_marked"), part)
    size = part.conductor.size_awg
    is_control = circuit.root_volts(part) < LOW_VOLTAGE
    if kind is FaultKind.UNDERSIZED and sheet is not None and not is_control:
        least = smallest_copper(sheet)
        if least is not None and (least < size or part.conductor.metal.words != "copper"):
            return _as_marked(say("repair.wire"), say("repair.wire_by_plate", size=gauge_words(least)), part)
    return _as_marked(say("repair.wire"), say("repair.wire_as_is", size=_size(part.conductor)), part)


def _terminal(part: Part) -> Iterator[Wanted]:
    """A crimp terminal, where one belongs; the lead's own size where it is drawn."""
    if part.entry.set_screw:
        return
    if part.conductor is None:
        yield _as_marked(say("repair.terminal"), say("repair.terminal_as_found"), part)
    else:
        yield _as_marked(say("repair.terminal"), say("repair.terminal_for", size=_size(part.conductor)), part)


def _connector(circuit: Circuit, part: Part) -> Wanted:
    """For the wires that meet there."""
    behind = [each_part for each_part in circuit.series if circuit.feed(each_part) == part]
    meeting = [part] if part.conductor else [circuit.feed(part), *behind]
    sizes = dict.fromkeys(_size(each_part.conductor) for each_part in meeting if each_part.conductor)
    if not sizes:
        return _as_marked(say("repair.connector"), say("repair.connector_as_found"), part)
    return _as_marked(say("repair.connector"), say("repair.connector_for", sizes=" and ".join(sizes)), part)


def _size(conductor: Conductor) -> str:
    return f"{gauge_words(conductor.size_awg)} {conductor.metal.words}"


def _behind(circuit: Circuit, part: Part) -> list[Part]:
    """The loads that a part feeds, coils among them."""
    loads = [each_part for each_part in circuit.parts if each_part.load is not None and not each_part.entry.elsewhere]
    return [load for load in loads if part in circuit.path(load)]


def _of(part: Part, answer: str) -> Wanted:
    return _as_marked(say("repair.replacement", name=part.name), answer, part)


def _as_marked(what: str, answer: str, part: Part) -> Wanted:
    return Wanted(what=what, answer=answer, source=USUAL, part=part.id)
