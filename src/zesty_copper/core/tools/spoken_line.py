"""A reading or a look as it would be said on the phone: “L1 to ground at the disconnect 120”, “fuse L2 blown”.

What is said is taken apart in one order: the number with its unit, the state of switches, conductors, and then where it
is, by the names printed on the strip, in any order. What is not understood is named; nothing is guessed silently, since
the page says back what it understood before it is recorded.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches

from zesty_copper.core.circuit.model import GROUND, NEUTRAL, Circuit, Part, Zone
from zesty_copper.core.circuit.reading.hands import Hands
from zesty_copper.core.circuit.reading.measurement import (
    OHM_LIMIT,
    Around,
    Between,
    Measurement,
    MeterMode,
    Place,
    Reading,
    Watching,
    check_reading,
)
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look, SignOf, check_look, places_for, signs
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
_ALIKE = {
    "wire": "wires", "leads": "wires", "lead": "wires", "terminals": "terminal", "term": "terminal", "lugs": "lug",
    "cond": "compressor", "comp": "compressor", "xfmr": "transformer", "tstat": "thermostat", "stat": "thermostat",
    "fuses": "fuse", "holder": "clip", "clips": "clip", "cb": "breaker", "disco": "disconnect", "pullout": "pull",
    "supplyside": "line", "lineside": "line", "loadside": "load", "upper": "line", "lower": "load", "top": "line",
    "bottom": "load",
}  # fmt: skip
_IDLE_WORDS = frozenset(
    [
        "a",
        "an",
        "the",
        "at",
        "on",
        "of",
        "to",
        "from",
        "and",
        "with",
        "in",
        "is",
        "it",
        "its",
        "are",
        "was",
        "were",
        "reads",
        "read",
        "reading",
        "shows",
        "showing",
        "show",
        "there",
        "volts",
        "amps",
        "side",
        "end",
        "unit",
        "calling",
        "we",
        "got",
        "get",
        "have",
        "i",
        "only",
        "about",
        "see",
        "sees",
        "saw",
        "looks",
        "look",
        "across",
        "between",
        "measured",
        "meter",
        "both",
        "phase",
        "hot",
        "hots",
        "leg",
        "legs",
        "drop",
        "voltage",
        "s",
    ]
)
_NUMBERED = re.compile(r"\b(leg|fuse|element|limit|sequencer|bank|clip|pole) $")
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


@dataclass
class _Told:
    """What is left of a line, and what was taken from it."""

    text: str
    value: float | None = None
    unit: str = ""
    meter: MeterMode | None = None
    opened: set[str] = field(default_factory=set[str])
    pushed: set[str] = field(default_factory=set[str])
    across: bool = False
    start: bool = False

    def take(self, pattern: str) -> re.Match[str] | None:
        """Take the first place that fits a pattern out of the line."""
        found = re.search(pattern, self.text)
        if found:
            self.text = f"{self.text[: found.start()]} {self.text[found.end() :]}"
        return found

    @property
    def words(self) -> list[str]:
        """What is left, word by word, as parts are named."""
        left = re.findall(r"[a-z][a-z0-9_]*|\d+", self.text.replace("pull-out", "pullout"))
        return [_ALIKE.get(word, word) for word in left if word not in _IDLE_WORDS]


def nothing_ahead(part: Part) -> BadInput:
    """What to say of a part with nothing ahead of it to read across."""
    return BadInput(say("tools.nothing_lies_ahead_read", name=part.name), "line")


def read_spoken(circuit: Circuit, text: str, said_id: str) -> Reading | Look:
    """Read a line as it is said.

    Raises
    ------
    BadInput
        If something in it is not understood; one sentence names it, and what is nearest.
    """
    check_number(text)
    told = _Told(_plain(text))
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


def _take_number(told: _Told) -> None:
    """Take the number: the one that carries a unit, else the last that is no conductor's."""
    if told.take(r"\b(ol|open line|infinite|infinity)\b"):
        told.value, told.unit = OHM_LIMIT, "ohm"
        return
    found = list(_NUMBER.finditer(told.text))
    with_unit = [one for one in found if one[2] in _UNITS]
    plain = [one for one in found if one[2] not in _UNITS]
    chosen = with_unit[-1] if with_unit else plain[-1] if plain else None
    if chosen is None:
        return
    in_name = not with_unit and re.search(
        r"\b(leg|fuse|element|limit|sequencer|bank|clip|pole) $", told.text[: chosen.start()]
    )
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


def _take_state(circuit: Circuit, told: _Told) -> None:
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


def _meter_of(place: Place, told: _Told) -> MeterMode:
    if not isinstance(place, Between):
        return MeterMode.HI_Z
    if told.unit == "ohm":
        return told.meter if told.meter is MeterMode.INSULATION else MeterMode.OHM
    return told.meter or MeterMode.HI_Z


def _take_lanes(circuit: Circuit, told: _Told) -> tuple[list[str], bool]:
    """Take the conductors in the order in which they were said; and whether by the marks of a contactor's load side."""
    lanes = {lane.lower(): lane for lane in circuit.lanes}
    marks = {lane.lower().replace("l", "t"): lane for lane in circuit.legs if lane.startswith("L")}
    found: list[str] = []
    marked = False
    if told.take(r"\b(leg to leg|line to line|l-l|phase to phase|hot to hot)\b"):
        found = [leg for leg in circuit.legs if leg.startswith("L")][:2]
    if told.take(r"\b(line to neutral|hot to neutral|l-n)\b"):
        found = [circuit.legs[0], NEUTRAL]
    kept: list[str] = []
    for word in re.split(r"([\s\-/,+&]+)", told.text):
        numbered = re.fullmatch(r"(?:leg|line|phase)?([123])", word)
        if word in lanes and not (len(word) == 1 and word == "c" and not kept):
            found.append(lanes[word])
        elif word in marks and word not in lanes:
            found.append(marks[word])
            marked = True
        elif word in _GROUNDS:
            found.append(GROUND)
        elif word in _NEUTRALS and NEUTRAL in circuit.lanes:
            found.append(NEUTRAL)
        elif numbered and f"L{numbered[1]}" in circuit.lanes and not _is_numbered(circuit, kept, word):
            found.append(f"L{numbered[1]}")
        else:
            kept.append(word)
    told.text = "".join(kept)
    return list(dict.fromkeys(found)), marked


def _is_numbered(circuit: Circuit, before: Sequence[str], number: str) -> bool:
    """Whether a number belongs to the name before it, as in “limit 2”."""
    name = next((word for word in reversed(before) if word.strip()), "")
    return any(part.name.lower() == f"{name} {number}" for part in circuit.parts)


def _place(circuit: Circuit, told: _Told) -> Place:
    pair = re.search(r"\b(.+?\bat\b.+?) to (.+?\bat\b.+)$", told.text)
    if pair and not told.across:
        ends = [_end(circuit, pair[i]) for i in (1, 2)]
        return Between(a=ends[0], b=ends[1])
    lanes, marked = _take_lanes(circuit, told)
    if told.across:
        return _across(circuit, told, lanes)
    if not lanes:
        raise BadInput(say("tools.say_which_conductors_l1"), "line")
    if told.unit == "A" or (told.start and len(lanes) == 1):
        part = _find(circuit, told.words, lanes, [p for p in circuit.parts if p.entry.clampable], near=True)
        return Around(leg=lanes[0], part=part.id, also=tuple(lanes[1:]), start=told.start)
    if len(lanes) == 1 and told.unit == "":
        _known(circuit, told.words, circuit.series)
        raise BadInput(say("tools.volts_amps_end_number", lanes=lanes[0]), "line")
    if len(lanes) == 1:
        lanes.append(GROUND)
    a, b = lanes[:2]
    if (at_load := _ends_of_load(circuit, told.words, lanes)) is not None:
        return at_load
    return Between(a=_point(circuit, told, a, b, marked=marked), b=_point(circuit, told, b, a, marked=marked))


def _ends_of_load(circuit: Circuit, words: Sequence[str], lanes: Sequence[str]) -> Between | None:
    """Where a load by its whole name is what is read at: the points that its leads are on."""
    named = [p for p in circuit.loads if set(words) in (_names(p)["name"], _names(p)["name"] - {p.id}) and words]
    ends = {point.partition("@")[0]: point for part in named for point in circuit.terminals(part)} | {GROUND: GROUND}
    return Between(a=ends[lanes[0]], b=ends[lanes[1]]) if named and set(lanes) <= set(ends) else None


def _end(circuit: Circuit, text: str) -> str:
    told = _Told(text)
    lanes, marked = _take_lanes(circuit, told)
    if len(lanes) != 1:
        raise BadInput(say("tools.say_one_conductor_where", text=text.strip()), "line")
    return _point(circuit, told, lanes[0], lanes[0], marked=marked)


def _point(circuit: Circuit, told: _Told, lane: str, other: str, *, marked: bool) -> str:
    if lane == GROUND:
        return GROUND
    wanted = [one for one in (lane, other) if one != GROUND]
    part = _find(circuit, told.words, wanted, [p for p in circuit.series if p.has_points], marked=marked)
    return f"{lane}@{part.id}"


def _across(circuit: Circuit, told: _Told, lanes: Sequence[str]) -> Between:
    carriers = [part for part in circuit.series if circuit.feed(part) is not None and part.has_points]
    part = _find(circuit, told.words, list(lanes), carriers, by_name=True)
    hots = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
    if not lanes and len(hots) > 1:
        raise BadInput(say("tools.across_which_leg", name=part.name, hots=", ".join(hots)), "line")
    lane = lanes[0] if lanes else hots[0]
    ahead = circuit.upstream_point(part, lane)
    if ahead is None:
        raise nothing_ahead(part)
    return Between(a=ahead, b=f"{lane}@{part.id}")


def _names(part: Part) -> dict[str, set[str]]:
    """Words by which a part, and the point behind it, is known."""

    def words(text: str) -> set[str]:
        found = re.findall(r"[a-z]+|\d+", text.lower().replace("pull-out", "pullout").replace("’s", ""))
        return {_ALIKE.get(word, word) for word in found if word not in _IDLE_WORDS}

    name = words(part.name) | words(part.id)
    return {
        "name": name,
        "point": words(part.point_name) if part.has_points else set[str](),
        "box": words(part.device) | {str(part.zone)},
    }


def _known(circuit: Circuit, words: Sequence[str], fitting: Sequence[Part]) -> list[str]:
    """Return words as parts are named by them, the nearest where one is misspelled; BadInput for one that is none."""
    known = {word for part in circuit.parts for some in _names(part).values() for word in some}
    meant: list[str] = []
    for word in words:
        close = [word] if word in known else get_close_matches(word, sorted(known), 1, 0.75)
        if not close:
            named = ", ".join(part.name for part in fitting[-4:])
            raise BadInput(say("tools.no_part_word_known", word=word, named=named), "line")
        meant.append(close[0])
    return meant


def _find(
    circuit: Circuit,
    words: Sequence[str],
    lanes: Sequence[str],
    among: Iterable[Part],
    *,
    marked: bool = False,
    by_name: bool = False,
    near: bool = False,
) -> Part:
    """Find the part that some words name.

    Parameters
    ----------
    lanes
        Conductors that it must carry.
    marked
        Whether a conductor was said by a mark that only a contactor's load side has.
    by_name
        Whether the part itself is meant, not the point behind it.
    near
        Whether the nearest of these will do where the part itself is not among them.
    """
    fitting = [part for part in among if set(lanes) <= {*circuit.lanes_of(part), GROUND}]
    meant = _known(circuit, words, fitting)
    if marked:
        contactors = [part for part in fitting if part.entry.load_mark]
        if len(contactors) == 1 or (contactors and not meant):
            return contactors[0]
    if not meant and len(fitting) == 1:
        return fitting[0]
    if not meant:
        raise BadInput(say("tools.say_where_example", fitting=", ".join(part.name for part in fitting[-4:])), "line")
    wanted = set(meant)
    ranked = sorted(fitting, key=lambda part: -_fit(part, wanted, by_name=by_name))
    if not ranked or _fit(ranked[0], wanted, by_name=by_name) <= 0:
        others = sorted(circuit.parts, key=lambda part: -_fit(part, wanted, by_name=by_name))
        meant_part = others[0]
        if near and _fit(meant_part, wanted, by_name=by_name) > 0 and fitting:
            # A clamp goes around the wire next to what was named.
            line = circuit.path(meant_part)
            return max(fitting, key=lambda p: (p in line, line.index(p) if p in line else 0))
        said = " ".join(meant)
        raise BadInput(say("tools.there_no_place_say", said=said, what=" and ".join(lanes) or "that"), "line")
    best = ranked[0]
    is_disconnect = best.zone is Zone.DISCONNECT and best.entry.is_switch
    if (best.entry.load_mark or is_disconnect) and not marked and not by_name and "load" not in wanted:
        # L1, L2 and L3 are the marks of a line side, and it is there that one measures first.
        feed = circuit.feed(best)
        return feed if feed in fitting else best
    return best


def _fit(part: Part, wanted: set[str], *, by_name: bool) -> float:
    """How well a part fits some words: all of them must be among its names."""
    names = _names(part)
    everything = names["name"] | names["point"] | names["box"]
    if not wanted <= everything:
        return 0.0
    scores = [len(wanted & names["name"]) / len(wanted | names["name"])]
    if not by_name and names["point"]:
        scores.append(1.1 * len(wanted & names["point"]) / len(wanted | names["point"]))
    return max(scores) + 0.01


def _without_number(circuit: Circuit, told: _Told, said_id: str) -> Reading | Look:
    """What is seen, heard or told: something at work, or a sign."""
    if (look := _look(circuit, told, said_id)) is not None:
        check_look(circuit, look)
        return look
    for words, value in sorted(_DOES.items(), key=lambda one: -len(one[0])):
        if re.search(rf"\b{re.escape(words)}$", told.text):
            told.text = re.sub(rf"\b{re.escape(words)}$", "", told.text)
            lanes, _ = _take_lanes(circuit, told)
            part = _find(circuit, told.words, lanes, circuit.watched, by_name=True)
            reading = Reading(
                id=said_id, measurement=Measurement(place=Watching(part=part.id)), value=value, unit="run"
            )
            check_reading(circuit, reading)
            return reading
    raise BadInput(say("tools.say_what_meter_shows"), "line")


def _look(circuit: Circuit, told: _Told, said_id: str) -> Look | None:
    """A sign by one of the ways in which it is said, and where."""
    seen = not re.search(r"\b(no|not|isn't|nothing)\b", told.text)
    ways = [(way, name) for name, sign in signs().items() for way in (sign.label.lower(), *sign.said)]
    for way, name in sorted(ways, key=lambda one: -len(one[0])):
        if not re.search(rf"\b{re.escape(way)}\b", told.text):
            continue
        sign = signs()[name]
        rest = _Told(re.sub(rf"\b({re.escape(way)}|no|not)\b", " ", told.text))
        if sign.of is SignOf.CALL:
            return Look(id=said_id, sign=name, seen=seen)
        lanes, _ = _take_lanes(circuit, rest)
        places = places_for(circuit, sign)
        if not rest.words or not places:
            continue
        part = _find(circuit, rest.words, lanes, places, by_name=True)
        return Look(id=said_id, sign=name, part=part.id, leg=lanes[0] if lanes else None, seen=seen)
    return None
