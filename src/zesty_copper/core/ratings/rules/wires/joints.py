"""Rules about terminals and splices: metals, range, cover, torque, and strands that are gone."""

from collections.abc import Iterator

from zesty_copper.core.circuit.parts.conductor import Metal, gauge_words
from zesty_copper.core.ratings.inputs.sheet import Cover, Sheet
from zesty_copper.core.ratings.rules.finding import Finding, Relation, Ruling
from zesty_copper.core.ratings.worked import Worked, computed, given, number
from zesty_copper.core.words import say

__all__ = ["joint_metals", "joint_range", "lost_section", "splice_cover", "torque"]

TORQUE_SLACK = 0.1
"""Common practice, no source: a torque tool is taken to be right to a tenth."""


def joint_metals(sheet: Sheet) -> Iterator[Finding]:
    """Judge the wires' metals against the marks, and against each other where they touch."""
    for joint in sheet.joints:
        ruling = Ruling.on("joint_metals", sheet, joint)
        if not joint.metals:
            continue
        if len(set(joint.metals)) > 1 and not joint.marked_for_mixing:
            # A mark for either metal is none for both under one screw (NEC 110.14).
            words = say("ratings.both_metals_on_one")
            if joint.is_splice:
                words = say("ratings.copper_aluminum_touch_connector")
            yield ruling.stated(words, is_met=False)
            continue
        if not joint.marked_for and Metal.ALUMINIUM not in joint.metals:
            words = say("ratings.copper_terminal_without_mark")
            yield ruling.stated(words, is_met=True)
            continue
        marked = joint.marked_for or (Metal.COPPER,)
        strangers = [metal for metal in joint.metals if metal not in marked]
        words = say(
            "ratings.metal_on_terminal", metals=" and ".join(joint.metals), marked=" and ".join(marked)
        ).capitalize()
        yield ruling.stated(words, is_met=not strangers)


def joint_range(sheet: Sheet) -> Iterator[Finding]:
    """Judge sizes and number of the wires against what the terminal or connector is marked for."""
    for joint in sheet.joints:
        ruling = Ruling.on("joint_range", sheet, joint)
        count = sum(wires.count for wires in joint.wires)
        is_said = not (joint.least_awg is None and joint.most_awg is None and joint.most_wires is None)
        if not joint.wires or (count < 2 and not is_said):
            continue
        sizes = [wires.size_awg for wires in joint.wires]
        # A thicker wire has the smaller gauge number.
        thin = joint.least_awg is not None and max(sizes) > joint.least_awg
        thick = joint.most_awg is not None and min(sizes) < joint.most_awg
        many = joint.most_wires is not None and count > joint.most_wires
        troubles = [
            words
            for words, is_so in (
                (f"{gauge_words(max(sizes))} is thinner than it takes", thin),
                (f"{gauge_words(min(sizes))} is thicker than it takes", thick),
                (f"{count} wires are more than the {joint.most_wires} it takes", many),
            )
            if is_so
        ]
        # One wire under a screw unless it is marked for more (NEC 110.14(A)).
        if not troubles and count > 1 and joint.most_wires is None:
            yield ruling.wants("how many wires it is marked for")
            continue
        words = f"{'; '.join(troubles) or 'Sizes and number are within its marks'}."
        yield ruling.stated(words, is_met=not troubles)


def splice_cover(sheet: Sheet) -> Iterator[Finding]:
    """Judge the insulation of splices: equal to the conductors' own."""
    for joint in sheet.joints:
        ruling = Ruling.on("splice_cover", sheet, joint)
        if not joint.is_splice:
            continue
        if joint.cover is None:
            yield ruling.wants("what covers it")
            continue
        fits = joint.cover in (Cover.LISTED, Cover.RUBBER_UNDER_VINYL)
        words = f"Covered by: {joint.cover}."
        yield ruling.stated(words, is_met=fits)


def torque(sheet: Sheet) -> Iterator[Finding]:
    """Judge the torque used against the label's."""
    for joint in sheet.joints:
        ruling = Ruling.on("torque", sheet, joint)
        if joint.used_lbf_in is None:
            continue
        if joint.label_lbf_in is None:
            missing = "the label's torque (the tables hold what to use where there is none)"
            yield ruling.wants(missing)
            continue
        label, used = joint.label_lbf_in, joint.used_lbf_in
        step = given("torque used", used, "lbf·in")
        for share, relation in ((1 - TORQUE_SLACK, Relation.AT_LEAST), (1 + TORQUE_SLACK, Relation.AT_MOST)):
            text = f"{number(share)} × {number(label)}"
            need = computed("label, to a tenth", text, share * label, "lbf·in")
            words = say("ratings.lbf_used_lbf_label", number=number(used), number_2=number(label))
            yield ruling.compared(words, step, relation, need)


def lost_section(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether all strands are in the terminal; with the watts that the rest burns more."""
    for joint in sheet.joints:
        ruling = Ruling.on("lost_section", sheet, joint)
        if joint.strands is None or joint.strands_left is None:
            continue
        strands_left, whole = joint.strands_left, joint.strands
        share = strands_left / whole
        left_share = Worked(
            steps=(computed("section left", f"100 × {strands_left} ÷ {whole}", 100 * share, "%"),),
        )
        need = given("all of it", 100.0, "%")
        words = say("ratings.strands_in_terminal", left=strands_left, whole=whole)
        if 0 < strands_left < whole:
            words += say("ratings.length_burns_times_watts", whole=whole / strands_left)
        yield ruling.at_least(words, left_share, need)
