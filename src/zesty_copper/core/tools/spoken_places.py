"""Which part of a circuit some words name: all of them, by the names printed on the strip, in any order."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from difflib import get_close_matches

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.circuit.part import Part, Zone
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.errors import BadInput
from zesty_copper.core.observations.modes import MeterMode
from zesty_copper.core.words import say

__all__ = ["SpokenLine", "check_known", "find_part", "only_part", "part_names"]

_ALIKE = {
    "wire": "wires", "leads": "wires", "lead": "wires", "terminals": "terminal", "term": "terminal", "lugs": "lug",
    "cond": "compressor", "comp": "compressor", "xfmr": "transformer", "tstat": "thermostat", "stat": "thermostat",
    "fuses": "fuse", "holder": "clip", "clips": "clip", "cb": "breaker", "disco": "disconnect", "pullout": "pull",
    "supplyside": "line", "lineside": "line", "loadside": "load", "upper": "line", "lower": "load", "top": "line",
    "bottom": "load",
}  # fmt: skip
_IDLE_WORDS = frozenset(
    [
        *(
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
        ),
        *(
            "reads",
            "read",
            "reading",
            "shows",
            "showing",
            "show",
            "there",
            "measured",
            "meter",
            "we",
            "got",
            "get",
            "i",
        ),
        *("have", "only", "about", "see", "sees", "saw", "looks", "look", "across", "between", "volts", "amps", "s"),
        *("side", "end", "calling", "phase", "hot", "hots", "leg", "legs", "drop", "voltage"),
    ]
)
"""Words that say nothing about where a reading is, nor in which state."""
_STATES = frozenset(["pulled", "off", "out", "open", "opened", "lifted", "unplugged", "disconnected", "tripped"])
"""What a switch or a lead may be: never a misspelled name."""
_SIDES = frozenset({"line", "load"})


@dataclass
class SpokenLine:
    """What is left of a line, and what was taken from it."""

    text: str
    value: float | None = None
    unit: str = ""
    meter: MeterMode | None = None
    opened: set[str] = field(default_factory=set[str])
    pushed: set[str] = field(default_factory=set[str])
    across: bool = False
    start: bool = False
    meant: frozenset[str] = frozenset()

    def take(self, pattern: str) -> re.Match[str] | None:
        """Take the first place that fits a pattern out of the line."""
        match = re.search(pattern, self.text)
        if match:
            self.text = f"{self.text[: match.start()]} {self.text[match.end() :]}"
        return match

    @property
    def words(self) -> list[str]:
        """What is left, word by word, as parts are named."""
        tokens = re.findall(r"[a-z][a-z0-9_]*|\d+", self.text.replace("pull-out", "pullout"))
        return [_ALIKE.get(word, word) for word in tokens if word not in _IDLE_WORDS]


def part_names(part: Part) -> dict[str, set[str]]:
    """Words by which a part, and the point behind it, is known."""

    def words(text: str) -> set[str]:
        tokens = re.findall(r"[a-z]+\d*|\d+", text.lower().replace("pull-out", "pullout").replace("’s", ""))
        return {_ALIKE.get(word, word) for word in tokens if word not in _IDLE_WORDS}

    name = words(part.name) | words(part.id)
    return {
        "name": name,
        "point": words(part.point_name) if part.has_points else set[str](),
        "box": words(part.device) | {str(part.zone)},
    }


def check_known(circuit: Circuit, told: SpokenLine, fitting: Sequence[Part]) -> list[str]:
    """Return the words that say where; BadInput for one that is the name of nothing here, with what is nearest."""
    known_words = {word for part in circuit.parts for name in part_names(part).values() for word in name}
    numbers = [word for word in told.words if word.isdigit()]
    if len(numbers) > 1:
        raise BadInput(say("tools.two_numbers", word=numbers[0]), "line")
    for word in told.words:
        if word in known_words:
            continue
        if word.isdigit():
            raise BadInput(say("tools.two_numbers", word=word), "line")
        if word in _STATES:
            moved = {f"{switch.name} {switch.open}" for switch in circuit.by_hand}
            raise BadInput(
                say("tools.which_is_in_that_state", word=word, switches=", ".join(sorted(moved))),
                "line",
                instead={word: sorted(moved)},
            )
        close = get_close_matches(word, sorted(known_words), 3, 0.75)
        if close:
            raise BadInput(say("tools.did_you_mean", word=word, close=" / ".join(close)), "line", instead={word: close})
        named = ", ".join(part.name for part in fitting[-4:])
        raise BadInput(say("tools.no_part_word_known", word=word, named=named), "line")
    return told.words


def find_part(
    circuit: Circuit,
    told: SpokenLine,
    lanes: Sequence[str],
    among: Iterable[Part],
    *,
    marked: bool = False,
    by_name: bool = False,
    near: bool = False,
) -> Part:
    """Find the part that the words left name.

    Parameters
    ----------
    lanes
        Conductors that it must carry.
    marked
        Whether a conductor was said by a mark that only a contactor's load side has.
    by_name
        Whether the part itself is meant, not the point behind it.
    near
        Whether a wire that carries what was named, and no more, will do where that is not among them.
    """
    fitting = [part for part in among if set(lanes) <= {*circuit.lanes_of(part), GROUND}]
    words = check_known(circuit, told, fitting)
    if marked:
        contactors = [part for part in fitting if part.entry.load_mark]
        if contactors and (not words or len(contactors) == 1):
            return only_part(contactors, told)
    if not words and len(fitting) == 1:
        return fitting[0]
    if not words:
        raise BadInput(say("tools.say_where_example", fitting=", ".join(part.name for part in fitting[-4:])), "line")
    wanted_words = set(words)
    fits = {part: _fit(part, wanted_words, by_name=by_name) for part in fitting}
    best_fit = max(fits.values(), default=0.0)
    if best_fit <= 0 and near:
        return _wire_of(circuit, told, wanted_words, fitting)
    if best_fit <= 0:
        phrase = " ".join(words)
        raise BadInput(say("tools.there_no_place_say", said=phrase, what=" and ".join(lanes) or "that"), "line")
    # A side alone is a side of many things.
    least = 0.0 if wanted_words <= _SIDES else best_fit - 1e-9
    best = only_part([part for part, fit in fits.items() if fit > least], told)
    is_disconnect = best.zone is Zone.DISCONNECT and best.entry.is_switch
    if (best.entry.load_mark or is_disconnect) and not marked and not by_name and "load" not in wanted_words:
        # L1, L2 and L3 are the marks of a line side, and it is there that one measures first.
        feed = circuit.feed(best)
        return feed if feed in fitting else best
    return best


def only_part(fitting: Sequence[Part], told: SpokenLine) -> Part:
    """The one part that fits, or the one that was said to be meant; BadInput where several do."""
    chosen = [part for part in fitting if part.id in told.meant] or list(fitting)
    if len(chosen) > 1:
        names = ", ".join((part.point_name if part.has_points else part.name) for part in chosen[:6])
        raise BadInput(say("tools.which_of_these", names=names), "line", parts=[part.id for part in chosen[:6]])
    return chosen[0]


def _wire_of(circuit: Circuit, told: SpokenLine, wanted: set[str], wires: Sequence[Part]) -> Part:
    """The wire or lead that carries what some part carries, and nothing else: there its amps are read."""
    fits = {part: _fit(part, wanted, by_name=True) for part in circuit.parts}
    best_fit = max(fits.values())
    if best_fit <= 0:
        raise BadInput(say("tools.there_no_place_say", said=" ".join(told.words), what="amps"), "line")
    named = only_part([part for part, fit in fits.items() if fit >= best_fit - 1e-9], told)
    behind = _loads_behind(circuit, named)
    alike = [wire for wire in wires if behind and _loads_behind(circuit, wire) == behind]
    if alike:
        # The nearest of them: of wires in one line, the last.
        line = circuit.path(named)
        return max(alike, key=lambda wire: (wire in line, line.index(wire) if wire in line else 0))
    places = [wire for wire in wires if _loads_behind(circuit, wire) & behind]
    names = ", ".join(wire.name for wire in places)
    raise BadInput(
        say("tools.no_wire_alone", name=named.name, places=names), "line", parts=[wire.id for wire in places[:6]]
    )


def _loads_behind(circuit: Circuit, part: Part) -> frozenset[str]:
    """Ids of the loads that a part carries; of a load its own."""
    return frozenset(load.id for load in circuit.loads if part == load or part in circuit.path(load))


def _fit(part: Part, wanted: set[str], *, by_name: bool) -> float:
    """How well a part fits some words: all of them must be among its names."""
    names = part_names(part)
    everything = names["name"] | names["box"] | (set() if by_name else names["point"])
    if not wanted <= everything:
        return 0.0
    scores = [len(wanted & names["name"]) / len(wanted | names["name"])]
    if not by_name and names["point"]:
        scores.append(1.1 * len(wanted & names["point"]) / len(wanted | names["point"]))
    return max(scores) + 0.01
