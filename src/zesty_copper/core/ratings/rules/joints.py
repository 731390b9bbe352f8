"""Rules about terminals and splices: metals, range, cover, torque, and strands that are gone."""

from collections.abc import Iterator

from zesty_copper.core.circuit.conductor import Metal, gauge_words
from zesty_copper.core.ratings.inputs.sheet import Cover, Sheet
from zesty_copper.core.ratings.rules.finding import Finding, Relation, cannot_tell, judged, one_step, stated
from zesty_copper.core.ratings.worked import Worked, computed, given, number

__all__ = ["joint_metals", "joint_range", "lost_section", "splice_cover", "torque"]

TORQUE_SLACK = 0.1
"""Common practice, no source: a torque tool is taken to be right to a tenth."""


def joint_metals(sheet: Sheet) -> Iterator[Finding]:
    """Judge the wires' metals against the marks, and against each other where they touch."""
    for joint in sheet.joints:
        if not joint.metals:
            continue
        if len(set(joint.metals)) > 1 and joint.is_splice and not joint.marked_for_mixing:
            words = "Copper and aluminium touch in a connector that is not listed for both together."
            yield stated("joint_metals", sheet.edition, joint.name, words, is_met=False, part=joint.part)
            continue
        if not joint.marked_for and Metal.ALUMINIUM not in joint.metals:
            words = "Copper on a terminal without a mark, which is for copper."
            yield stated("joint_metals", sheet.edition, joint.name, words, is_met=True, part=joint.part)
            continue
        marked = joint.marked_for or (Metal.COPPER,)
        strangers = [metal for metal in joint.metals if metal not in marked]
        words = f"{' and '.join(joint.metals)} on a terminal for {' and '.join(marked)}.".capitalize()
        yield stated("joint_metals", sheet.edition, joint.name, words, is_met=not strangers, part=joint.part)


def joint_range(sheet: Sheet) -> Iterator[Finding]:
    """Judge sizes and number of the wires against what the terminal or connector is marked for."""
    for joint in sheet.joints:
        if not joint.wires or (joint.least_awg is None and joint.most_awg is None and joint.most_wires is None):
            continue
        sizes = [wires.size_awg for wires in joint.wires]
        count = sum(wires.count for wires in joint.wires)
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
        words = f"{'; '.join(troubles) or 'Sizes and number are within its marks'}."
        yield stated("joint_range", sheet.edition, joint.name, words, is_met=not troubles, part=joint.part)


def splice_cover(sheet: Sheet) -> Iterator[Finding]:
    """Judge the insulation of splices: equal to the conductors' own."""
    for joint in sheet.joints:
        if not joint.is_splice:
            continue
        if joint.cover is None:
            yield cannot_tell("splice_cover", sheet.edition, joint.name, "what covers it", part=joint.part)
            continue
        fits = joint.cover in (Cover.LISTED, Cover.RUBBER_UNDER_VINYL)
        words = f"Covered by: {joint.cover}."
        yield stated("splice_cover", sheet.edition, joint.name, words, is_met=fits, part=joint.part)


def torque(sheet: Sheet) -> Iterator[Finding]:
    """Judge the torque used against the label's."""
    for joint in sheet.joints:
        if joint.used_lbf_in is None:
            continue
        if joint.label_lbf_in is None:
            missing = "the label's torque (the tables hold what to use where there is none)"
            yield cannot_tell("torque", sheet.edition, joint.name, missing, part=joint.part)
            continue
        label, used = joint.label_lbf_in, joint.used_lbf_in
        found = one_step(given("torque used", used, "lbf·in"))
        for share, relation in ((1 - TORQUE_SLACK, Relation.AT_LEAST), (1 + TORQUE_SLACK, Relation.AT_MOST)):
            text = f"{number(share)} × {number(label)}"
            need = one_step(computed("label, to a tenth", text, share * label, "lbf·in"))
            words = f"{number(used)} lbf·in used, {number(label)} lbf·in on the label."
            yield judged(
                "torque",
                sheet.edition,
                joint.name,
                words,
                found=found,
                required=need,
                relation=relation,
                part=joint.part,
            )


def lost_section(sheet: Sheet) -> Iterator[Finding]:
    """Judge whether all strands are in the terminal; with the watts that the rest burns more."""
    for joint in sheet.joints:
        if joint.strands is None or joint.strands_left is None:
            continue
        left, whole = joint.strands_left, joint.strands
        share = left / whole
        found = Worked(
            steps=(computed("section left", f"100 × {left} ÷ {whole}", 100 * share, "%"),),
        )
        need = one_step(given("all of it", 100.0, "%"))
        words = f"{left} of {whole} strands are in it."
        if 0 < left < whole:
            words += f" That length burns {whole / left:.2g} times the watts."
        yield judged(
            "lost_section",
            sheet.edition,
            joint.name,
            words,
            found=found,
            required=need,
            relation=Relation.AT_LEAST,
            part=joint.part,
        )
