"""Rules about leads inside equipment: size, jacket, crimp, terminal, and what is left of the strands."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.conductor import gauge_words
from zesty_copper.core.ratings.inputs.sheet import Sheet, SmallWire
from zesty_copper.core.ratings.inputs.tables import exactly, table
from zesty_copper.core.ratings.rules.finding import Finding, Ruling
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["crimp_barrel", "lead_amps", "lead_as_before", "lead_strands", "terminal_fits"]

WIDTH_SLACK_IN = 0.01
"""Tabs and the spades for them are made in 0.110, 0.187, 0.205 and 0.250 in; common practice, no source."""


def _on(rule: str, sheet: Sheet, wire: SmallWire) -> Ruling:
    return Ruling(rule, sheet.edition, wire.name)


def lead_amps(sheet: Sheet) -> Iterator[Finding]:
    """Judge a lead's amps by what small wire in equipment may carry (NEC 402.5, as a guide)."""
    for wire in sheet.small_wires:
        ruling = _on("lead_amps", sheet, wire)
        if wire.amps is None:
            continue
        most = exactly("fixture_wire", "amps", wire.size_awg)
        if most is None:
            yield ruling.wants("a table for such a size: the maker's own lead, or its like, decides")
            continue
        words = say(
            "ratings.lead_carries", number=number(wire.amps), size=gauge_words(wire.size_awg), number_2=number(most)
        )
        yield ruling.at_most(words, given("amps in it", wire.amps, "A"), given("may carry", most, "A"))


def lead_as_before(sheet: Sheet) -> Iterator[Finding]:
    """Judge a new lead against the maker's: not thinner, jacket not cooler (NEC 110.3(B))."""
    for wire in sheet.small_wires:
        ruling = _on("lead_as_before", sheet, wire)
        if wire.was_awg is not None:
            fits = wire.size_awg <= wire.was_awg
            words = say("ratings.lead_size_before", size=gauge_words(wire.size_awg), size_2=gauge_words(wire.was_awg))
            yield ruling.stated(words, is_met=fits)
        if wire.was_jacket_c is not None:
            if wire.jacket_c is None:
                yield ruling.wants("the temperature on its jacket")
                continue
            words = say(
                "ratings.jacket_against_before", number=number(wire.jacket_c), number_2=number(wire.was_jacket_c)
            )
            step = given("jacket", wire.jacket_c, "°C")
            yield ruling.at_least(words, step, given("jacket that was there", wire.was_jacket_c, "°C"))


def crimp_barrel(sheet: Sheet) -> Iterator[Finding]:
    """Judge a crimp terminal's sleeve by its color against the wire in it."""
    for wire in sheet.small_wires:
        if wire.barrel is None:
            continue
        row = next(row for row in table("crimp_barrels").rows if row[0] == wire.barrel)
        thickest, thinnest = int(float(row[1])), int(float(row[2]))
        fits = thickest <= wire.size_awg <= thinnest
        words = say(
            "ratings.barrel_for",
            barrel=wire.barrel,
            thinnest=thinnest,
            thickest=thickest,
            size=gauge_words(wire.size_awg),
        )
        yield _on("crimp_barrel", sheet, wire).stated(words, is_met=fits)


def terminal_fits(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether spade and tab, ring and stud are of one size, and nothing was cut to fit."""
    for wire in sheet.small_wires:
        ruling = _on("terminal_fits", sheet, wire)
        if wire.fork_trimmed:
            yield ruling.stated(say("ratings.fork_trimmed"), is_met=False)
        if wire.tab_in is not None and wire.spade_in is not None:
            fits = abs(wire.tab_in - wire.spade_in) <= WIDTH_SLACK_IN
            words = say("ratings.spade_for_tab", number=number(wire.spade_in), number_2=number(wire.tab_in))
            yield ruling.stated(words, is_met=fits)
        if wire.stud is not None and wire.ring is not None:
            words = say("ratings.ring_for_stud", ring=wire.ring, stud=wire.stud)
            yield ruling.stated(words, is_met=_size(wire.ring) == _size(wire.stud))


def _size(told: str) -> str:
    return told.strip().lstrip("#").rstrip('"').replace(" ", "")


def lead_strands(sheet: Sheet) -> Iterator[Finding]:
    """Judge what is left of a lead's strands in its terminal: all of them (NEC 110.14(A))."""
    for wire in sheet.small_wires:
        if wire.strands is None or wire.strands_left is None:
            continue
        percent_left = 100 * wire.strands_left / wire.strands
        text = f"100 × {wire.strands_left} ÷ {wire.strands}"
        left_share = Worked(steps=(computed("strands left", text, percent_left, "%"),))
        words = say("ratings.strands_in_terminal", left=wire.strands_left, whole=wire.strands)
        yield _on("lead_strands", sheet, wire).at_least(words, left_share, given("asked", 100, "%"))
