"""Pictures of the strip and of the voltage drop along it."""

from collections.abc import Mapping

from reportlab.graphics.shapes import Circle, Drawing, Line, Rect, String
from reportlab.lib.colors import Color
from reportlab.platypus import Flowable

from zesty_copper.core.circuit.parts.catalogue import PartRole
from zesty_copper.core.circuit.point import GROUND
from zesty_copper.core.observations.strip import StripSection
from zesty_copper.core.ratings.sizing.staircase import Tread
from zesty_copper.files.pdf.paper import BOLD, COPPER, INK, LINE, SANS, SOFT, WIDTH
from zesty_copper.files.pdf.told import HandOver

__all__ = ["drop_drawing", "strip_drawing"]

ROW, LANE, NAMES = 17.0, 26.0, 190.0
MOST_ROWS = 34
BAR = 230.0


def strip_drawing(told: HandOver) -> Flowable | None:
    """Draw the section in which the fault was found, or the first: a lane for each conductor, power running down."""
    section = _section(told)
    rows = [row for row in section.rows if row.role is not PartRole.TRANSFORMER and not row.idle][:MOST_ROWS]
    if not rows:
        return None
    lanes = {lane: NAMES + 18 + i * LANE for i, lane in enumerate(text for text in section.lanes if text != GROUND)}
    height = ROW * (len(rows) + 1.4)
    drawing = Drawing(WIDTH, height)
    for lane, x in lanes.items():
        drawing.add(String(x, height - 10, lane, fontName=BOLD, fontSize=9, textAnchor="middle", fillColor=INK))
        reached = [i for i, row in enumerate(rows) if lane in row.points or lane in row.comes_from]
        if reached:
            first, last = height - ROW * (reached[0] + 1), height - ROW * (reached[-1] + 1.4)
            drawing.add(Line(x, first, x, last, strokeColor=COPPER, strokeWidth=5))
    right = max(lanes.values()) + 22
    for i, row in enumerate(rows):
        y = height - ROW * (i + 1.65)
        is_found = row.part == told.found
        drawing.add(Line(0, y - 5, WIDTH, y - 5, strokeColor=LINE, strokeWidth=0.4))
        name = f"{row.name}, {row.detail}" if row.detail else row.name
        drawing.add(String(0, y, name[:44], fontName=BOLD if is_found else SANS, fontSize=8.5, fillColor=INK))
        for lane in row.points:
            if lane in lanes:
                drawing.add(Circle(lanes[lane], y + 3, 2.6, fillColor=INK, strokeColor=None))
        if row.role is PartRole.SHUNT:
            joined = [lanes[lane] for lane in row.comes_from if lane in lanes]
            if joined:
                drawing.add(_box(min(joined) - 6, y - 2, max(joined) - min(joined) + 12, 10, INK))
        if is_found:
            words = "found here" if told.is_sure else "most likely here"
            drawing.add(String(right, y, words, fontName=BOLD, fontSize=9, fillColor=COPPER))
    return drawing


def _section(hand_over: HandOver) -> StripSection:
    holds = (
        section for section in hand_over.strip.sections if any(row.part == hand_over.found for row in section.rows)
    )
    return next(holds, hand_over.strip.sections[0])


def drop_drawing(told: HandOver) -> Flowable | None:
    """Draw what each part that was read across loses, beside what it should; none where nothing was."""
    treads = [tread for tread in told.treads if tread.measured_volts is not None]
    if not treads:
        return None
    names: Mapping[str, str] = {part.id: part.name for part in told.circuit.parts}
    most = max(max(each_tread.measured_volts or 0.0, each_tread.expected_volts) for each_tread in treads) or 1.0
    height = ROW * len(treads) + 14
    drawing = Drawing(WIDTH, height)
    for i, one in enumerate(treads):
        y = height - ROW * (i + 1)
        _bar(drawing, one, y, names, most)
    drawing.add(String(NAMES, 0, "dark: measured; outline: as new", fontName=SANS, fontSize=7.5, fillColor=SOFT))
    return drawing


def _bar(drawing: Drawing, tread: Tread, y: float, names: Mapping[str, str], most: float) -> None:
    volts = tread.measured_volts or 0.0
    where = names[tread.parts[-1]] if len(tread.parts) == 1 else f"{names[tread.parts[0]]} to {names[tread.parts[-1]]}"
    drawing.add(String(0, y, f"{tread.lane}, {where}"[:42], fontName=SANS, fontSize=8.5, fillColor=INK))
    drawing.add(_box(NAMES, y - 1, BAR * volts / most, 8, COPPER if tread.standing == "high" else SOFT))
    drawing.add(_box(NAMES, y - 3, max(BAR * tread.expected_volts / most, 0.5), 12, None))
    drawing.add(
        String(NAMES + BAR + 8, y, f"{volts:.2f} V, as new {tread.expected_volts:.2f} V", fontName=SANS, fontSize=8.5)
    )


def _box(x: float, y: float, width: float, height: float, fill: Color | None) -> Rect:
    """A filled box, or an outline."""
    box = Rect(x, y, width, height)
    box.fillColor, box.strokeColor = fill, None if fill else INK
    return box
