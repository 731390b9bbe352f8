"""What a replacement must match, as a list to take from the truck."""

from collections.abc import Iterator, Mapping, Sequence

from zesty_copper.core.circuit.model import Circuit, Part
from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.rules.plate.equipment import disconnect_amps
from zesty_copper.core.ratings.sizing.sizes import DISCONNECT_STEPS, Wanted, what_matches, what_should_be_there
from zesty_copper.core.ratings.worked import number
from zesty_copper.core.repair.rows import Replaced
from zesty_copper.core.words import say

__all__ = ["matches_of"]

USUAL = "common practice, no source"
SMALLEST_COPPER = "Smallest copper wire"


def matches_of(
    circuit: Circuit, sheets: Mapping[str, Sheet], part: Part | None, replaced: Sequence[Replaced]
) -> Iterator[Wanted]:
    """Return what each replacement must match; what nothing is known of says what to read off the old one."""
    own = [sheet for start, sheet in sheets.items() if part is not None and circuit.part(start) in circuit.path(part)]
    sheet = next(iter(own or sheets.values()), None)
    for one in replaced:
        yield from _match(circuit, sheet, part, one)


def _match(circuit: Circuit, sheet: Sheet | None, part: Part | None, replaced: Replaced) -> Iterator[Wanted]:
    match replaced:
        case Replaced.WIRE:
            yield _wire(sheet, part)
        case Replaced.CONTROL:
            yield _control(circuit, part)
        case Replaced.ELEMENT:
            yield from _elements(circuit, part)
        case Replaced.MOTOR:
            yield from _motors(circuit, part)
        case Replaced.CAPACITOR:
            yield from _capacitors(circuit)
        case Replaced.TRANSFORMER:
            yield from _transformers(circuit)
        case Replaced.DISCONNECT:
            yield from _disconnects(sheet) or [_as_marked(say("repair.disconnect"), say("repair.disconnect_as_marked"))]
        case _:
            yield from _listed(circuit, sheet, replaced) or [_marked_alike(replaced)]


def _disconnects(sheet: Sheet | None) -> list[Wanted]:
    """What the plate asks; where it holds fuses, at least the frame that takes them."""
    if sheet is None:
        return []
    asked = [one for one in what_should_be_there(sheet) if one.what == "Disconnect"]
    fuses = max((device.amps for device in sheet.devices if device.sort == "fuse"), default=0.0)
    asks = disconnect_amps(sheet.plate)
    needed = max(fuses, asks.value if asks is not None else 0.0)
    frame = next((step for step in DISCONNECT_STEPS if step >= needed), None)
    if not fuses or frame is None:
        return asked
    answer = say("repair.disconnect_for_fuses", amps=number(frame), fuse=number(fuses))
    return [_as_marked(say("repair.fused_disconnect"), answer)]


def _listed(circuit: Circuit, sheet: Sheet | None, replaced: Replaced) -> list[Wanted]:
    """What the sheet knows of devices of a kind, or of terminals and connectors."""
    if sheet is None:
        return []
    kinds = {part.id: part.kind for part in circuit.parts}
    what = {Replaced.TERMINAL: "Crimp terminal", Replaced.CONNECTOR: "Connector"}.get(replaced)
    return [one for one in what_matches(sheet) if one.what == what or kinds.get(one.part or "") == replaced]


def _marked_alike(replaced: Replaced) -> Wanted:
    """What to read off the old one where nothing is known of it."""
    match replaced:
        case Replaced.FUSE:
            return _as_marked(say("repair.fuse"), say("repair.fuse_as_marked"))
        case Replaced.BREAKER:
            return _as_marked(say("repair.breaker"), say("repair.breaker_as_marked"))
        case Replaced.CONTACTOR:
            return _as_marked(say("repair.contactor"), say("repair.contactor_as_marked"))
        case Replaced.TERMINAL:
            return _as_marked(say("repair.terminal"), say("repair.terminal_as_found"))
        case _:
            return _as_marked(say("repair.connector"), say("repair.connector_as_found"))


def _control(circuit: Circuit, part: Part | None) -> Wanted:
    """A relay, sequencer, thermostat or limit, by what it switches."""
    amps = max((load.load.rated_amps for load in _behind(circuit, part) if load.load), default=0.0)
    name = part.name if part is not None else say("repair.control")
    if part is None or not amps:
        return _as_marked(say("repair.replacement", name=name), say("repair.control_as_marked"))
    volts = number(circuit.root_volts(part))
    answer = say("repair.control_matches", amps=number(amps), volts=volts)
    return _as_marked(say("repair.replacement", name=name), answer)


def _elements(circuit: Circuit, part: Part | None) -> Iterator[Wanted]:
    for one in _of_kind(circuit, part, "heater", "crankcase_heater"):
        if one.load is not None:
            kw, volts = one.load.rated_volts * one.load.rated_amps / 1000, number(one.load.rated_volts)
            answer = say("repair.element_matches", kw=kw, volts=volts)
            yield _as_marked(say("repair.replacement", name=one.name), answer)


def _motors(circuit: Circuit, part: Part | None) -> Iterator[Wanted]:
    for one in _of_kind(circuit, part, "compressor", "motor", "three_phase_motor", "drive"):
        if one.load is not None:
            volts, amps = number(one.load.rated_volts), number(one.load.rated_amps)
            answer = say("repair.motor_matches", volts=volts, amps=amps)
            yield _as_marked(say("repair.replacement", name=one.name), answer)


def _capacitors(circuit: Circuit) -> Iterator[Wanted]:
    for one in circuit.parts:
        if one.kind == "capacitor" and one.capacitance_uf is not None:
            answer = say("repair.capacitor_matches", microfarad=one.capacitance_uf)
            yield _as_marked(say("repair.replacement", name=one.name), answer)


def _transformers(circuit: Circuit) -> Iterator[Wanted]:
    for one in circuit.parts:
        if one.winding is not None:
            primary, secondary = number(one.winding.primary_volts), number(one.winding.secondary_volts)
            answer = say(
                "repair.transformer_matches", primary=primary, secondary=secondary, va=number(one.winding.volt_amps)
            )
            yield _as_marked(say("repair.replacement", name=one.name), answer)


def _as_marked(what: str, answer: str) -> Wanted:
    return Wanted(what=what, answer=answer, source=USUAL)


def _wire(sheet: Sheet | None, part: Part | None) -> Wanted:
    """The least wire that the plate asks; where none is known, the one that is there."""
    asked = [] if sheet is None else [one for one in what_should_be_there(sheet) if one.what == SMALLEST_COPPER]
    if asked:
        return asked[0]
    if part is not None and part.conductor is not None:
        size = f"{gauge_words(part.conductor.size_awg)} {part.conductor.metal.words}"
        return _as_marked(say("repair.wire"), say("repair.wire_as_is", size=size))
    return _as_marked(say("repair.wire"), say("repair.wire_as_marked"))


def _behind(circuit: Circuit, part: Part | None) -> list[Part]:
    """The loads that a part feeds; all of them where none is named."""
    return [load for load in circuit.loads if part is None or part in circuit.path(load)]


def _of_kind(circuit: Circuit, part: Part | None, *kinds: str) -> list[Part]:
    """The part itself where it is of one of these kinds, else every such load behind it."""
    if part is not None and part.kind in kinds:
        return [part]
    return [load for load in _behind(circuit, part) if load.kind in kinds]
