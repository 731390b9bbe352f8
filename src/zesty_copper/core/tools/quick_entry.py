"""The quick-entry line: one line of text for a reading or a look, read and printed.

    WHERE WHAT [loz | ins] [off:SWITCH[,SWITCH]] [in: | out: | lifted: | removed:NAME[,NAME]]

    whip L1-L2 243.1V                  volts between two conductors behind a part; G is ground
    fuse L2 across 19.6V               volts across a part on one conductor
    L2@line_lug L2@whip 3.2V           volts between any two points
    whip L1 18.2A                      the clamp around one conductor; L1+L2 around several
    fuse L1 across 0.3ohm off:disconnect
    whip L1-G OL off:disconnect        over the meter's limit; 4.7k and 2.2M are kilohms and megohms
    whip turns 1-2-3                   phase sequence: 1-2-3, 3-2-1 or none
    whip L1 beeps                      a non-contact tester: beeps or silent
    whip L1 68A start                  the highest amps of a start
    contactor L1 across 0.1V in:contactor      pushed in by hand; out: kept out by hand
    clip_load L1-G 4.7M off:disconnect lifted:L1@clip_load     a lead taken off ahead of a part
    compressor L1-G OL off:disconnect removed:compressor       every lead of a part off: its own leads to each other
    compressor runs                    still, runs, hums; of a contactor out, in, chatters
    clip_load L2 +35F                  degrees Fahrenheit above its coolest mate
    clip_load L2 sees mark             a look at a part, or `sees no mark`
    box:disconnect sees no mark        a whole box looked over
    call sees trips_at_once            a sign of the call as a whole

Parts, switches and signs are named by their ids. Case does not matter; a decimal comma is a point. What is not said of
switches is closed. What is printed is read as the same again. A line that is said rather than written, as “L1 to ground
at the disconnect 120”, is read by `spoken_line`.
"""

import re
from collections.abc import Iterator
from contextlib import suppress

from zesty_copper.core.circuit.hands import Hands
from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.point import GROUND, Point
from zesty_copper.core.errors import BadInput
from zesty_copper.core.faults.signs import Look, SignOf, check_look, places_for, signs
from zesty_copper.core.observations.kinds.amps import Around
from zesty_copper.core.observations.kinds.between import Between
from zesty_copper.core.observations.measurement import Measurement, Reading, check_reading
from zesty_copper.core.observations.modes import DEAD_MODES, LIMIT_OHM, MeterMode
from zesty_copper.core.observations.registry import OBSERVATIONS, Place
from zesty_copper.core.observations.written import lane_of
from zesty_copper.core.tools.spoken_line import check_number, nothing_ahead, read_spoken
from zesty_copper.core.words import say

__all__ = ["completions", "line_of", "lines_meant", "read_line"]

_NUMBER = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(k|m)?(v|a|ohm|f)?$")
_SIZES = {"": 1.0, "k": 1e3, "m": 1e6}
ASKED = say("tools.say_where_what_whip")
_CALL = "call"
_BOX = "box:"
_SEES = "sees"
_START = "start"
_HANDS = {"in:": "pushed_in", "out:": "held_out", "lifted:": "lifted", "removed:": "removed"}
_LISTS = ("off:", *_HANDS)
"""Beginnings of words that list names; a comma in them is no decimal comma."""


def read_line(circuit: Circuit, text: str, said_id: str) -> Reading | Look:
    """Read one line.

    Raises
    ------
    BadInput
        If it is no reading or look of this circuit; one sentence says what to do.
    """
    check_number(text)
    try:
        return _read_written(circuit, text, said_id)
    except BadInput as written:
        try:
            return read_spoken(circuit, text, said_id)
        except BadInput as spoken:
            # Marks that nobody says belong to the written form, and so does what is wrong with them.
            raise (written if re.search(r"[@:]|\b(sees|turns)\b", text) else spoken) from None


def lines_meant(circuit: Circuit, text: str, why: BadInput) -> tuple[str, ...]:
    """Return whole lines that a line which was refused may mean, each of which is read as one thing.

    Parameters
    ----------
    why
        How it was refused; its details say which parts fit, or what a word may stand for.
    """
    lines: list[str] = []
    parts, instead = why.details.get("parts", []), why.details.get("instead", {})
    assert isinstance(parts, list)
    assert isinstance(instead, dict)
    for part in parts:
        with suppress(BadInput):
            lines.append(line_of(circuit, read_spoken(circuit, text, "meant", frozenset({part}))))
    for word, alternatives in instead.items():
        for alternative in alternatives:
            meant = re.sub(rf"\b{re.escape(word)}\b", alternative, text.lower())
            try:
                lines.append(line_of(circuit, read_line(circuit, meant, "meant")))
            except BadInput as asked:
                # What is meant by the word may leave another question.
                lines.extend(() if "instead" in asked.details else lines_meant(circuit, meant, asked))
    return tuple(dict.fromkeys(lines))


def _read_written(circuit: Circuit, text: str, said_id: str) -> Reading | Look:
    """Read a line as it is printed."""
    words = text.strip().replace(",", ".").split()
    words = [word.replace(".", ",") if word.lower().startswith(_LISTS) else word for word in words]
    if not words:
        raise BadInput(ASKED, "line")
    if any(word.lower() == _SEES for word in words):
        look = _look(circuit, [word.lower() for word in words], words, said_id)
        check_look(circuit, look)
        return look
    start = words[-1].lower() == _START
    open_switches, hands, meter, words = _tail(circuit, words[:-1] if start else words)
    place, value = _place_and_value(circuit, words, meter)
    if start:
        if not isinstance(place, Around):
            raise BadInput(say("tools.only_amps_are_read"), "line")
        place = place.model_copy(update={"start": True})
    mode = _meter(place, words[-1], meter)
    measurement = Measurement(place=place, meter=mode, open_switches=open_switches, hands=hands)
    reading = Reading(id=said_id, measurement=measurement, value=value, unit=measurement.unit)
    check_reading(circuit, reading)
    return reading


def line_of(circuit: Circuit, said: Reading | Look) -> str:
    """Print a reading or look as the line that `read_line` reads as the same."""
    if isinstance(said, Look):
        where = said.part or (_CALL if said.zone is None else f"{_BOX}{said.zone}")
        words = [where, said.leg or "", _SEES, "" if said.seen else "no", said.sign]
        return " ".join(word for word in words if word)
    measurement = said.measurement
    kind = measurement.observation
    words = [*kind.written_place(circuit, measurement.place), kind.written_value(circuit, said)]
    words += {MeterMode.LO_Z: ["loz"], MeterMode.INSULATION: ["ins"]}.get(measurement.meter, [])
    if measurement.open_switches:
        words.append("off:" + ",".join(sorted(measurement.open_switches)))
    for head, field in _HANDS.items():
        if names := sorted(getattr(measurement.hands, field)):
            words.append(head + ",".join(names))
    return " ".join([*words, *((_START,) if not said.is_steady else ())])


def completions(circuit: Circuit, text: str) -> tuple[str, ...]:
    """Return what the word being typed may become, at most a dozen."""
    done, _, last = text.rpartition(" ")
    before = done.lower().split()
    return tuple(word for word in _next_words(circuit, before) if word.lower().startswith(last.lower()))[:12]


def _next_words(circuit: Circuit, before: list[str]) -> Iterator[str]:
    if not before:
        yield from (part.id for part in circuit.parts)
        yield from (*(f"{_BOX}{zone}" for zone in Zone), _CALL)
        return
    if _SEES in before:
        yield "no"
        part = next((p for p in circuit.parts if p.id == before[0]), None)
        for name, sign in signs().items():
            if before[0] == _CALL:
                fits = sign.of is SignOf.CALL
            else:
                fits = sign.of is not SignOf.CALL and (part is None or part in places_for(circuit, sign))
            if fits:
                yield name
        return
    part = next((p for p in circuit.parts if p.id == before[0]), None)
    kind_words = (
        [w for kind in OBSERVATIONS for w in kind.next_words(circuit, part, before[1:])] if part is not None else []
    )
    if part is not None and len(before) == 1:
        lanes = [lane for lane in circuit.lanes_of(part) if lane != GROUND]
        yield from kind_words
        if part.has_points:
            yield from (f"{a}-{b}" for i, a in enumerate(lanes) for b in (*lanes[i + 1 :], GROUND))
        yield from lanes
        yield _SEES
        return
    if len(before) == 2 and part is not None and "-" not in before[1]:
        yield from (*kind_words, "across", _SEES)
        return
    yield from ("loz", "ins", _START)
    yield from (f"off:{switch.id}" for switch in circuit.by_hand)
    yield from (f"{head}{s.id}" for head in ("in:", "out:") for s in circuit.held)
    yield from (f"removed:{load.id}" for load in circuit.loads)


def _tail(circuit: Circuit, words: list[str]) -> tuple[frozenset[str], Hands, MeterMode | None, list[str]]:
    """Take switches, what hands do, and the meter from the end of a line."""
    opened: set[str] = set()
    hands: dict[str, frozenset[str]] = {}
    meter = None
    place_words = []
    for word in words:
        low = word.lower()
        if low.startswith("off:"):
            opened |= {switch for switch in low.removeprefix("off:").split(",") if switch}
        elif low in ("loz", "ins"):
            meter = MeterMode.LO_Z if low == "loz" else MeterMode.INSULATION
        elif low.startswith(tuple(_HANDS)):
            head, _, names = low.partition(":")
            field = _HANDS[f"{head}:"]
            listed = [_named(name) for name in names.split(",") if name]
            hands[field] = hands.get(field, frozenset()) | frozenset(listed)
        else:
            place_words.append(word)
    for switch in sorted(opened - {each_switch.id for each_switch in circuit.by_hand}):
        switch_names = ", ".join(each_switch.id for each_switch in circuit.by_hand)
        raise BadInput(say("tools.there_no_switch_open", switch=switch, known=switch_names), "line")
    if len(place_words) < 2:
        raise BadInput(ASKED, "line")
    return frozenset(opened), Hands.model_validate(hands), meter, place_words


def _named(word: str) -> str:
    """Return a point with its conductor in capitals, or an id as it is."""
    point = Point(word)
    return word if point.part_id is None else Point.at(point.lane.upper(), point.part_id)


def _place_and_value(circuit: Circuit, words: list[str], meter: MeterMode | None) -> tuple[Place, float]:
    last = words[-1].lower()
    if any(Point(word).part_id is not None for word in words[:2]):
        if len(words) != 3:
            raise BadInput(say("tools.between_two_points_say"), "line")
        a, b = (_point(circuit, word) for word in words[:2])
        return Between(a=a, b=b), _number(last, meter)[0]
    part = _part(circuit, words[0])
    for kind in OBSERVATIONS:
        place_and_value: tuple[Place, float] | None = kind.read_written(circuit, part, words[1:])
        if place_and_value is not None:
            return place_and_value
    lane_word = words[1].upper()
    if len(words) == 4 and words[2].lower() == "across":
        lane = lane_of(circuit, part, lane_word)
        ahead = circuit.upstream_point(part, lane)
        if ahead is None:
            raise nothing_ahead(part)
        return Between(a=ahead, b=Point.at(lane, part.id)), _number(last, meter)[0]
    if len(words) != 3:
        raise BadInput(say("tools.more_than_one_place"), "line")
    value, unit = _number(last, meter)
    if "-" in lane_word:
        pair = lane_word.split("-", 1)
        ends = [GROUND if lane == GROUND else Point.at(lane_of(circuit, part, lane), part.id) for lane in pair]
        return Between(a=ends[0], b=ends[1]), value
    first, *further_lanes = lane_word.split("+")
    lanes = [lane_of(circuit, part, lane) for lane in (first, *further_lanes)]
    if unit not in ("a", ""):
        raise BadInput(say("tools.around_one_conductor_amps", first=first), "line")
    return Around(leg=lanes[0], part=part.id, also=tuple(lanes[1:])), value


def _meter(place: Place, last: str, meter: MeterMode | None) -> MeterMode:
    """Return the meter's mode: ohms where the number says so."""
    if not isinstance(place, Between):
        return MeterMode.HI_Z
    match = _NUMBER.match(last.lower().replace("ω", "ohm"))
    in_ohms = last.lower() == "ol" or (match is not None and (match[3] == "ohm" or (match[2] and match[3] is None)))
    if in_ohms:
        return MeterMode.INSULATION if meter is MeterMode.INSULATION else MeterMode.OHM
    if meter in DEAD_MODES:
        return MeterMode.INSULATION
    return meter or MeterMode.HI_Z


def _number(word: str, meter: MeterMode | None) -> tuple[float, str]:
    if word == "ol":
        return LIMIT_OHM[MeterMode.INSULATION if meter is MeterMode.INSULATION else MeterMode.OHM], "ohm"
    match = _NUMBER.match(word.replace("ω", "ohm"))
    if match is None:
        raise BadInput(say("tools.no_reading_end_line", word=word), "line")
    return float(match[1]) * _SIZES[match[2] or ""], match[3] or ("ohm" if match[2] else "")


def _part(circuit: Circuit, word: str) -> Part:
    for part in circuit.parts:
        if part.id == word.lower():
            return part
    raise BadInput(say("tools.there_no_part_begin", word=word, id=circuit.series[-1].id), "line")


def _point(circuit: Circuit, word: str) -> Point:
    if word.upper() == GROUND:
        return GROUND
    typed = Point(word)
    point = Point.at(typed.lane.upper(), (typed.part_id or "").lower())
    try:
        circuit.split_point(point)
    except BadInput as error:
        raise BadInput(error.message, "line") from None
    return point


def _look(circuit: Circuit, low: list[str], words: list[str], said_id: str) -> Look:
    at = low.index(_SEES)
    where, what = low[:at], low[at + 1 :]
    seen = not (what and what[0] == "no")
    what = what if seen else what[1:]
    if len(what) != 1 or not 1 <= len(where) <= 2:
        raise BadInput(say("tools.say_look_clip_load"), "line")
    if what[0] not in signs():
        raise BadInput(say("tools.there_no_sign_say", what=what[0]), "line")
    if where[0] == _CALL and len(where) == 1:
        return Look(id=said_id, sign=what[0], seen=seen)
    if where[0].startswith(_BOX) and len(where) == 1:
        boxes = [str(zone) for zone in Zone]
        if where[0].removeprefix(_BOX) not in boxes:
            raise BadInput(say("tools.there_no_such_box", boxes=", ".join(_BOX + box for box in boxes)), "line")
        return Look(id=said_id, sign=what[0], zone=Zone(where[0].removeprefix(_BOX)), seen=seen)
    part = _part(circuit, words[0])
    leg = lane_of(circuit, part, words[1].upper()) if len(where) == 2 else None
    return Look(id=said_id, sign=what[0], part=part.id, leg=leg, seen=seen)
