"""The label sheet of a panel: its spaces as they lie, what sits in each, and what hangs on it."""

from collections.abc import Mapping, Sequence

from reportlab.platypus import Flowable, Spacer, Table, TableStyle

from zesty_copper.core.circuit.systems import supplies
from zesty_copper.core.tools.feeds import Feeds
from zesty_copper.core.tools.panel import Panel, space_of
from zesty_copper.core.tools.panel_map import BreakerInPanel, PanelAnswer, SpaceShown
from zesty_copper.files.pdf.paper import LINE, SAND, WIDTH, pages, says

__all__ = ["panel_label_pdf"]

FOOT = "Found by switching where it says so; the rest as it was labeled. Prove dead before hands go in."
NUMBER, LEG = 0.06, 0.06
CLAIMED = "labeled, not proved"


def panel_label_pdf(site_name: str, feeds: Feeds, panel: Panel, answer: PanelAnswer, day: str) -> bytes:
    """Set one panel's label sheet."""
    amps = {switch.id: switch.amps for switch in feeds.switches}
    breakers = {breaker.switch: breaker for breaker in answer.breakers}
    names = {each_switch.id: each_switch.name for each_switch in feeds.switches}
    story: list[Flowable] = [
        says(panel.name, "title"),
        says(f"{site_name} · {supplies()[panel.system].label} · {panel.spaces} spaces · {day}", "small"),
        Spacer(1, 6),
        _table(answer.spaces, breakers, names, amps),
    ]
    wrong = [
        f"{names[each_breaker.switch]}: {each_breaker.words} {each_breaker.move}".strip()
        for each_breaker in answer.breakers
        if each_breaker.standing != "right"
    ]
    if wrong or answer.warnings:
        story.append(says("To be put right", "head"))
        story += [says(words, bullet=True) for words in (*wrong, *answer.warnings)]
    return pages(f"{panel.name}, {site_name}", FOOT, story)


def _table(
    spaces: Sequence[SpaceShown],
    breakers: Mapping[str, BreakerInPanel],
    names: Mapping[str, str],
    amps: Mapping[str, float | None],
) -> Table:
    """Two columns of spaces with their numbers and legs between them, as one stands before the panel."""
    at = {(space.row, space.side): space for space in spaces}
    cells = []
    for row in range(len(spaces) // 2):
        space_shown, right = at[row, 0], at[row, 1]
        cells.append(
            [
                _cell(space_shown, breakers, names, amps),
                says(str(space_shown.space), "cell_head"),
                says(space_shown.leg, "cell"),
                says(str(right.space), "cell_head"),
                _cell(right, breakers, names, amps),
            ]
        )
    wide = (1 - 2 * NUMBER - LEG) / 2
    table = Table(cells, colWidths=[share * WIDTH for share in (wide, NUMBER, LEG, NUMBER, wide)])
    table.setStyle(
        TableStyle(
            [
                ("GRID", (0, 0), (-1, -1), 0.5, LINE),
                ("BACKGROUND", (1, 0), (3, -1), SAND),
                ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ]
        )
    )
    return table


def _cell(
    space: SpaceShown,
    breakers: Mapping[str, BreakerInPanel],
    names: Mapping[str, str],
    amps: Mapping[str, float | None],
) -> Flowable:
    lines = []
    for switch in space.switches:
        breaker = breakers[switch]
        poles = [pole for pole in breaker.poles if space_of(pole) == space.space]
        half = "".join(pole[-1] for pole in poles if pole[-1] in "AB")
        rating = f"{amps[switch]:g} A" if amps[switch] else ""
        hangs = breaker.feeds if breaker.is_found or not breaker.feeds else f"{breaker.feeds} ({CLAIMED})"
        lines.append(" · ".join(part for part in (half, hangs or names[switch], rating) if part))
    return says("; ".join(dict.fromkeys(lines)), "cell")
