"""A reading or a look as it would be said on the phone: “L1 to ground at the disconnect 120”, “fuse L2 blown”.

What is said is taken apart in one order: the number with its unit, the state of switches, conductors, and then where it
is, by the names printed on the strip, in any order. No word that was said is dropped or replaced: one that is not
known, and a line that can be read in two ways, end in a question, which carries what could be meant.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import NEUTRAL, Part
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look, SignOf, check_look, places_for, signs
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.kinds.ohms import OHM_LIMIT
from zesty_copper.core.observations.kinds.watching import Watching
from zesty_copper.core.observations.measurement import Measurement, Reading, check_reading
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.observations.registry import Place
from zesty_copper.core.tools.spoken_places import SpokenLine, check_known, find_part, only_part, part_names
from zesty_copper.core.words import say

__all__ = ["check_number", "nothing_ahead", "read_spoken"]

_UNITS = {
    "v": "V", "vac": "V", "volt": "V", "volts": "V", "a": "A", "amp": "A", "amps": "A", "ohm": "ohm", "ohms": "ohm",
    "kohm": "kohm", "kohms": "kohm", "k": "kohm", "megohm": "Mohm", "megohms": "Mohm", "mohm": "Mohm", "meg": "Mohm",
    "mv": "mV", "millivolt": "mV", "millivolts": "mV", "kv": "kV",
}  # fmt: skip
_SIZES = {"V": ("V", 1.0), "mV": ("V", 1e-3), "kV": ("V", 1e3), "A": ("A", 1.0), "ohm": ("ohm", 1.0)}
_SIZES |= {"kohm": ("ohm", 1e3), "Mohm": ("ohm", 1e6)}
_NUMBER = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?|\.\d+)(?![\w.,]*\d)\s*([a-z]+)?(?![\w])")
_DOES = {
    "not running": 0.0, "isn't running": 0.0, "not pulled in": 0.0, "not pulling in": 0.0, "won't pull in": 0.0,
    "dropped out": 0.0, "still": 0.0, "stopped": 0.0, "dead": 0.0, "off": 0.0, "out": 0.0, "not on": 0.0,
    "running": 1.0, "runs": 1.0, "is on": 1.0, "pulled in": 1.0, "pulls in": 1.0, "in": 1.0, "heating": 1.0,
    "humming": 2.0, "hums": 2.0, "chattering": 2.0, "chatters": 2.0, "buzzing": 2.0, "buzzes": 2.0,
}  # fmt: skip
_OPENED = ("is off", "off", "is open", "open", "opened", "is out", "out", "pulled", "dropped out", "not calling")
_CLOSED = ("is on", "on", "is closed", "closed", "is in", "calling")
_GROUNDS = {"ground", "gnd", "grd", "grnd", "g", "earth", "egc", "case", "frame"}
_NEUTRALS = {"neutral", "neut", "n"}
_NUMBERED = re.compile(r"\b(l|leg|line|phase|fuse|element|limit|sequencer|bank|clip|pole) $")
"""What a number may belong to, as in “fuse 2”."""


def check_number(text: str) -> None:
    """Refuse a number that could be meant in two ways, or in none.

    Raises
    ------
    BadInput
        If a number carries a minus sign, an exponent, a letter O, or a comma that may stand for thousands.
    """
    for word in text.split():
        plain = word.strip("“”\"'();:")
        if re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?[a-zA-Z]*", plain):
            raise BadInput(say("tools.may_thousands_decimal_write", plain=plain), "line")
        if re.fullmatch(r"[-−–]\d[\d.]*[a-zA-Z]*", plain):
            raise BadInput(say("tools.has_minus_sign_no", plain=plain), "line")
        if re.fullmatch(r"\d+(\.\d+)?[eE][+-]?\d+[a-zA-Z]*", plain):
            raise BadInput(say("tools.written_exponent_write_all", plain=plain), "line")
        if re.fullmatch(r"\d+[oO](\d+)?(\.\d+)?([vVaA][a-zA-Z]*)?", plain) or re.fullmatch(r"[oO]\d+[.\d]*", plain):
            raise BadInput(say("tools.has_letter_o_write", plain=plain), "line")


def nothing_ahead(part: Part) -> BadInput:
    """What to say of a part with nothing ahead of it to read across."""
    return BadInput(say("tools.nothing_lies_ahead_read", name=part.name), "line")


def read_spoken(circuit: Circuit, text: str, said_id: str, meant: frozenset[str] = frozenset()) -> Reading | Look:
    """Read a line as it is said.

    Parameters
    ----------
    meant
        Ids of the parts that are meant where the line fits several.

    Raises
    ------
    BadInput
        If something in it is not understood, or can be meant in two ways; one sentence names it. `details` then hold
        `parts`, ids that it fits, or `instead`, a word that was said and what may be meant by it.
    """
    check_number(text)
    told = SpokenLine(_plain(text), meant=meant)
    _take_number(told)
    if told.value is None:
        return _without_number(circuit, told, said_id)
    _take_state(circuit, told)
    told.start = told.take(r"\b(inrush|at start|starting|start)\b") is not None
    told.across = told.take(r"\bacross\b") is not None
    place = _place(circuit, told)
    meter = _meter_of(place, told)
    measurement = Measurement(
        place=place,
        meter=meter,
        open_switches=frozenset(told.opened),
        hands=Hands(pushed_in=frozenset(told.pushed)),
    )
    reading = Reading(id=said_id, measurement=measurement, value=told.value, unit=measurement.unit)
    check_reading(circuit, reading)
    return reading


def _plain(text: str) -> str:
    low = text.lower().replace("ω", "ohm").replace("Ω", "ohm")
    low = re.sub(r"[–—−‑]", "-", low).replace("’", "'")
    low = re.sub(r"(?<=\d),(?=\d{1,2}(?!\d))", ".", low)
    return re.sub(r"\s+", " ", low).strip()


def _take_number(told: SpokenLine) -> None:
    """Take the number: the one that carries a unit, else the last that is no conductor's."""
    if told.take(r"\b(ol|open line|infinite|infinity)\b"):
        told.value, told.unit = OHM_LIMIT, "ohm"
        return
    matches = list(_NUMBER.finditer(told.text))
    if len(matches) > 1 and re.fullmatch(r"[\d.\s]+", told.text):
        joined = re.sub(r"\s", "", told.text)
        raise BadInput(say("tools.number_in_pieces", joined=joined), "line", instead={told.text: [joined]})
    with_unit = [match for match in matches if match[2] in _UNITS]
    plain = [match for match in matches if match[2] not in _UNITS]
    chosen = with_unit[-1] if with_unit else plain[-1] if plain else None
    if chosen is None:
        return
    in_name = not with_unit and len(chosen[1]) == 1 and _NUMBERED.search(told.text[: chosen.start()])
    if in_name and len(plain) == 1:
        return
    unit, size = _SIZES[_UNITS[chosen[2]]] if chosen[2] in _UNITS else ("", 1.0)
    told.value, told.unit = float(chosen[1]) * size, unit
    end = chosen.end() if chosen[2] in _UNITS else chosen.end(1)
    told.text = f"{told.text[: chosen.start()]} {told.text[end:]}"
    if told.unit == "V":
        told.take(r"\bac\b")
    elif not told.unit and (named := told.take(r"\b(ohm|volt|amp)s?\b")):
        told.unit = _SIZES[_UNITS[named[1]]][0]


def _take_state(circuit: Circuit, told: SpokenLine) -> None:
    """Take what is said of switches and of the meter."""
    if told.take(r"\b(loz|lo-z|low impedance|low-z)\b"):
        told.meter = MeterMode.LO_Z
    if told.take(r"\b(megger|meggered|insulation tester|insulation test)\b"):
        told.meter = MeterMode.INSULATION
    for switch in circuit.held:
        if told.take(rf"\b(with )?(the )?{re.escape(switch.name.lower())} (pushed|held) in( by hand)?\b"):
            told.pushed.add(switch.id)
    for switch in circuit.by_hand:
        names = {
            switch.name.lower(),
            switch.id.replace("_", " "),
            *(("disconnect", "pullout") if switch.removes_carrier else ()),
        }
        named = "|".join(re.escape(name) for name in sorted(names, key=len, reverse=True))
        ways = {*_OPENED, switch.open.lower()}
        if told.take(rf"\b(?:with )?(?:the )?(?:{named}) (?:{'|'.join(sorted(ways, key=len, reverse=True))})\b"):
            told.opened.add(switch.id)
        else:
            ways = {*_CLOSED, switch.closed.lower()}
            told.take(rf"\b(?:with )?(?:the )?(?:{named}) (?:{'|'.join(sorted(ways, key=len, reverse=True))})\b")


def _meter_of(place: Place, told: SpokenLine) -> MeterMode:
    if not isinstance(place, Between):
        return MeterMode.HI_Z
    if told.unit == "ohm":
        return told.meter if told.meter is MeterMode.INSULATION else MeterMode.OHM
    return told.meter or MeterMode.HI_Z


@dataclass(frozen=True)
class _SpokenEnd:
    """A conductor that was said; on the load side of a contactor where it was said by a mark of that side."""

    lane: str
    at_load: bool = False


def _take_lanes(circuit: Circuit, told: SpokenLine) -> list[_SpokenEnd]:
    """Take the conductors in the order in which they were said."""
    lanes = {lane.lower(): lane for lane in circuit.lanes}
    marks = {lane.lower().replace("l", "t"): lane for lane in circuit.legs if lane.startswith("L")}
    ends: list[_SpokenEnd] = []
    if told.take(r"\b(leg to leg|line to line|l-l|phase to phase|hot to hot)\b"):
        ends = [_SpokenEnd(leg) for leg in circuit.legs if leg.startswith("L")]
        if len(ends) > 2:
            raise BadInput(say("tools.which_two_legs", legs=", ".join(end.lane for end in ends)), "line")
    if told.take(r"\b(line to neutral|hot to neutral|l-n)\b"):
        hots = [leg for leg in circuit.legs if leg.startswith("L")]
        if len(hots) > 1:
            raise BadInput(say("tools.which_leg_to_neutral", legs=", ".join(hots)), "line")
        ends = [_SpokenEnd(circuit.legs[0]), _SpokenEnd(NEUTRAL)]
    kept: list[str] = []
    pieces = re.split(r"([\s\-/,+&]+)", told.text)
    for i, word in enumerate(pieces):
        numbered = re.fullmatch(r"(?:leg|line|phase)?([123])", word)
        if word in lanes and not (len(word) == 1 and word == "c" and not kept):
            ends.append(_SpokenEnd(lanes[word]))
        elif word in marks and word not in lanes:
            ends.append(_SpokenEnd(marks[word], at_load=True))
        elif word in _GROUNDS:
            ends.append(_SpokenEnd(GROUND))
        elif word in _NEUTRALS and NEUTRAL in circuit.lanes:
            ends.append(_SpokenEnd(NEUTRAL))
        elif numbered and f"L{numbered[1]}" in circuit.lanes and _is_leg(circuit, pieces, i, kept):
            ends.append(_SpokenEnd(f"L{numbered[1]}"))
        else:
            kept.append(word)
    told.text = "".join(kept)
    return list(dict.fromkeys(ends))


def _is_leg(circuit: Circuit, pieces: Sequence[str], at: int, before: Sequence[str]) -> bool:
    """Whether a bare number is a leg: “leg 1”, “fuse 2”, “1 to 2”, “1-2”; not a digit among others, nor “limit 2”."""
    if _is_numbered(circuit, before, pieces[at][-1]):
        return False
    if len(pieces[at]) > 1:
        return True
    words_before = " ".join(piece for piece in before if piece.strip())
    near = "".join(pieces[max(at - 4, 0) : at + 5])
    pair = re.search(r"\b[123]\s*(?:-|/|\bto\b|\band\b)\s*[123]\b", near)
    return bool(_NUMBERED.search(f"{words_before} ") or pair)


def _is_numbered(circuit: Circuit, before: Sequence[str], number: str) -> bool:
    """Whether a number belongs to the name before it, as in “limit 2”."""
    name = next((word for word in reversed(before) if word.strip()), "")
    return any(part.name.lower() == f"{name} {number}" for part in circuit.parts)


def _place(circuit: Circuit, told: SpokenLine) -> Place:
    pair = re.search(r"\b(.+?\bat\b.+?) to (.+?\bat\b.+)$", told.text)
    if pair and not told.across:
        ends = [_end(circuit, told, pair[i]) for i in (1, 2)]
        return Between(a=ends[0], b=ends[1])
    ends_said = _take_lanes(circuit, told)
    lanes = list(dict.fromkeys(end.lane for end in ends_said))
    if told.across and told.unit == "A":
        raise BadInput(say("tools.amps_around_not_across"), "line")
    # L1 to T1 is a pole; so is what is said to be across one conductor of a part.
    if len(ends_said) == 2 and len(lanes) == 1:
        return _across_pole(circuit, told, lanes[0])
    if told.across and len(lanes) < 2:
        return _across(circuit, told, lanes)
    if not lanes:
        raise BadInput(say("tools.say_which_conductors_l1"), "line")
    if told.unit == "A" or (told.start and len(lanes) == 1):
        if told.unit == "V":
            raise BadInput(say("tools.start_is_amps"), "line")
        wires = [part for part in circuit.parts if part.entry.clampable]
        part = find_part(circuit, told, lanes, wires, near=True)
        return Around(leg=lanes[0], part=part.id, also=tuple(lanes[1:]), start=told.start)
    if len(lanes) > 2:
        raise BadInput(say("tools.which_two_conductors", lanes=", ".join(lanes)), "line")
    if len(lanes) == 1 and (told.unit == "" or lanes == [GROUND]):
        check_known(circuit, told, circuit.series)
        if lanes == [GROUND]:
            raise BadInput(say("tools.say_which_conductors_l1"), "line")
        raise BadInput(say("tools.volts_amps_end_number", lanes=lanes[0]), "line")
    if len(lanes) == 1:
        ends_said.append(_SpokenEnd(GROUND))
    a, b = ends_said[:2]
    if (at_load := _ends_of_load(circuit, told, [a.lane, b.lane])) is not None:
        return at_load
    return Between(a=_point(circuit, told, a, b), b=_point(circuit, told, b, a))


def _across_pole(circuit: Circuit, told: SpokenLine, lane: str) -> Between:
    """Volts across one pole of a contactor, said by the marks of its two sides."""
    poles = [part for part in circuit.series if part.entry.load_mark and lane in circuit.lanes_of(part)]
    part = find_part(circuit, told, [lane], poles, by_name=True)
    ahead = circuit.upstream_point(part, lane)
    if ahead is None:
        raise nothing_ahead(part)
    return Between(a=ahead, b=Point.at(lane, part.id))


def _ends_of_load(circuit: Circuit, told: SpokenLine, lanes: Sequence[str]) -> Between | None:
    """Where a load by its whole name is what is read at: the points that its leads are on."""
    words = told.words
    names = {part: part_names(part)["name"] for part in circuit.parts if part.load}
    named = [part for part, own_words in names.items() if words and set(words) in (own_words, own_words - {part.id})]
    ends = {point.lane: point for part in named for point in circuit.terminals(part)} | {GROUND: GROUND}
    return Between(a=ends[lanes[0]], b=ends[lanes[1]]) if named and set(lanes) <= set(ends) else None


def _end(circuit: Circuit, told: SpokenLine, text: str) -> Point:
    own_text = SpokenLine(text, meant=told.meant)
    ends = _take_lanes(circuit, own_text)
    if len(ends) != 1:
        raise BadInput(say("tools.say_one_conductor_where", text=text.strip()), "line")
    return _point(circuit, own_text, ends[0], ends[0])


def _point(circuit: Circuit, told: SpokenLine, end: _SpokenEnd, other: _SpokenEnd) -> Point:
    if end.lane == GROUND:
        return GROUND
    wanted_lanes = [each_end.lane for each_end in (end, other) if each_end.lane != GROUND]
    if other.at_load and not end.at_load and not told.words:
        # What is said beside a mark of the load side, and is none itself, is on the line side.
        contactors = [part for part in circuit.series if part.entry.load_mark and end.lane in circuit.lanes_of(part)]
        ahead = circuit.upstream_point(only_part(contactors, told), end.lane)
        if ahead is not None:
            return ahead
    part = find_part(circuit, told, wanted_lanes, [p for p in circuit.series if p.has_points], marked=end.at_load)
    return Point.at(end.lane, part.id)


def _across(circuit: Circuit, told: SpokenLine, lanes: Sequence[str]) -> Between:
    """Across a device on one leg, from the point ahead of it to the point behind; across a load or a coil, its ends."""
    carriers = [part for part in circuit.series if circuit.feed(part) is not None and part.has_points]
    loads = [part for part in circuit.parts if part.load is not None]
    part = find_part(circuit, told, list(lanes), [*carriers, *loads], by_name=True)
    if part in loads:
        return _across_load(circuit, part, lanes)
    hots = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
    if not lanes and len(hots) > 1:
        raise BadInput(say("tools.across_which_leg", name=part.name, hots=", ".join(hots)), "line")
    lane = lanes[0] if lanes else hots[0]
    ahead = circuit.upstream_point(part, lane)
    if ahead is None:
        raise nothing_ahead(part)
    return Between(a=ahead, b=Point.at(lane, part.id))


def _across_load(circuit: Circuit, load: Part, lanes: Sequence[str]) -> Between:
    """From one end of a load to the other."""
    ends = list(circuit.terminals(load))
    if lanes or len(ends) != 2:
        names = ", ".join(dict.fromkeys(point.lane for point in ends))
        raise BadInput(say("tools.between_which_ends", name=load.name, ends=names), "line")
    return Between(a=ends[0], b=ends[1])


def _without_number(circuit: Circuit, told: SpokenLine, said_id: str) -> Reading | Look:
    """What is seen, heard or told: something at work, or a sign."""
    if (look := _look(circuit, told, said_id)) is not None:
        check_look(circuit, look)
        return look
    for words, value in sorted(_DOES.items(), key=lambda one: -len(one[0])):
        if re.search(rf"\b{re.escape(words)}$", told.text):
            told.text = re.sub(rf"\b{re.escape(words)}$", "", told.text)
            lanes = [end.lane for end in _take_lanes(circuit, told)]
            part = find_part(circuit, told, lanes, circuit.watched, by_name=True)
            reading = Reading(
                id=said_id, measurement=Measurement(place=Watching(part=part.id)), value=value, unit="run"
            )
            check_reading(circuit, reading)
            return reading
    raise BadInput(say("tools.say_what_meter_shows"), "line")


def _look(circuit: Circuit, told: SpokenLine, said_id: str) -> Look | None:
    """A sign by one of the ways in which it is said, and where."""
    denied = re.findall(r"\b(no|not|isn't|nothing)\b", told.text)
    if len(denied) > 1:
        raise BadInput(say("tools.seen_or_not"), "line")
    is_seen = not denied
    ways = [(text, name) for name, sign in signs().items() for text in (sign.label.lower(), *sign.said)]
    for saying, name in sorted(ways, key=lambda one: -len(one[0])):
        if not re.search(rf"\b{re.escape(saying)}\b", told.text):
            continue
        sign = signs()[name]
        remainder = SpokenLine(re.sub(rf"\b({re.escape(saying)}|no|not)\b", " ", told.text), meant=told.meant)
        if sign.of is SignOf.CALL:
            check_known(circuit, remainder, circuit.series)
            return Look(id=said_id, sign=name, seen=is_seen)
        lanes = [end.lane for end in _take_lanes(circuit, remainder)]
        places = places_for(circuit, sign)
        if not remainder.words or not places:
            continue
        part = find_part(circuit, remainder, lanes, places, by_name=True)
        return Look(id=said_id, sign=name, part=part.id, leg=lanes[0] if lanes else None, seen=is_seen)
    return None
