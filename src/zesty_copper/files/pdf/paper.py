"""The paper: fonts, styles, head and foot of each page, and how text is set without losing a letter."""

from collections.abc import Callable, Sequence
from functools import cache
from importlib.resources import files
from io import BytesIO
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

import reportlab
from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import inch
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, PageTemplate, Paragraph, Table, TableStyle

__all__ = ["COPPER", "INK", "LINE", "SAND", "SOFT", "STYLES", "WIDTH", "pages", "rows", "says", "text"]

INK, SOFT, LINE, SAND, COPPER = (HexColor(one) for one in ("#211b14", "#5f5344", "#d9cbb6", "#f3eadb", "#b4622b"))
MARGIN, HEAD = 0.7 * inch, 0.45 * inch
WIDTH = letter[0] - 2 * MARGIN
SANS, BOLD, SIGNS = "Sans", "Sans-Bold", "Signs"
"""The face of the pages, and one that has the signs which it lacks: Ω, ≤, √."""


@cache
def _fonts() -> frozenset[int]:
    """Make the fonts known; gives the signs that the face of the pages has."""
    folder = files(__package__) / "fonts"
    signs = Path(reportlab.__file__).parent / "fonts"
    faces = {
        SANS: str(folder / "AtkinsonHyperlegibleNext-Regular.ttf"),
        BOLD: str(folder / "AtkinsonHyperlegibleNext-Bold.ttf"),
        SIGNS: str(signs / "Vera.ttf"),
    }
    # Photos go in as they are: written as text they would take a quarter more room, and most of the time.
    rl_config.useA85 = 0
    for name, file in faces.items():
        pdfmetrics.registerFont(TTFont(name, file))
    pdfmetrics.registerFontFamily(SANS, normal=SANS, bold=BOLD, italic=SANS, boldItalic=BOLD)
    face = pdfmetrics.getFont(SANS)
    assert isinstance(face, TTFont)  # it was registered just now
    return frozenset(face.face.charToGlyph)


def _style(size: float, *, bold: bool = False, after: float = 4, **more: Any) -> ParagraphStyle:
    _fonts()
    name = BOLD if bold else SANS
    style: dict[str, Any] = {"textColor": INK, "fontSize": size, "leading": 1.28 * size, "spaceAfter": after} | more
    return ParagraphStyle(f"{name} {size} {sorted(more)}", fontName=name, **style)


STYLES = {
    "title": _style(20, bold=True, after=2),
    "head": _style(12.5, bold=True, after=3, spaceBefore=11, keepWithNext=1),
    "body": _style(10.5),
    "small": _style(8.5, textColor=SOFT),
    "cell": _style(9, after=0),
    "cell_head": _style(8.5, bold=True, after=0, textColor=SOFT),
    "big": _style(13, bold=True, after=4),
}


def text(said: str) -> str:
    """Escape what was said, so that nothing in it is markup, and set signs that the face lacks in one that has them."""
    font_names = _fonts()
    return "".join(
        escape(sign) if ord(sign) in font_names or sign.isspace() else f'<font name="{SIGNS}">{escape(sign)}</font>'
        for sign in said
    )


def says(said: str, style: str = "body", *, bullet: bool = False) -> Paragraph:
    """A paragraph of plain text."""
    return Paragraph(text(said), STYLES[style], bulletText="•" if bullet else None)


def rows(head: Sequence[str], body: Sequence[Sequence[str]], shares: Sequence[float]) -> Table:
    """A table whose cells wrap, its head repeated on each page.

    Parameters
    ----------
    shares
        Of the page's width, one for each column.
    """
    cells = [
        [says(each_text, "cell_head") for each_text in head],
        *([says(each_text, "cell") for each_text in row] for row in body),
    ]
    table = Table(cells, colWidths=[share * WIDTH for share in shares], repeatRows=1, hAlign="LEFT")
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.5, LINE),
                ("BACKGROUND", (0, 0), (-1, 0), SAND),
                ("LEFTPADDING", (0, 0), (-1, -1), 4),
                ("RIGHTPADDING", (0, 0), (-1, -1), 4),
                ("TOPPADDING", (0, 0), (-1, -1), 2.5),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
            ]
        )
    )
    return table


def pages(title: str, foot: str, story: Sequence[Flowable]) -> bytes:
    """Set a story on pages, each with its title, a foot and its number."""
    buffer = BytesIO()
    document = BaseDocTemplate(
        buffer,
        pagesize=letter,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN + HEAD,
        bottomMargin=MARGIN,
        title=title,
        author="Zesty Copper",
    )
    frame = Frame(MARGIN, MARGIN, WIDTH, letter[1] - 2 * MARGIN - HEAD, leftPadding=0, rightPadding=0)
    document.addPageTemplates(PageTemplate(frames=[frame], onPage=_around(title, foot)))
    document.build(list(story))
    return buffer.getvalue()


def _around(title: str, foot: str) -> Callable[[Canvas, Any], None]:
    def draw(canvas: Canvas, _document: Any) -> None:
        top = letter[1] - MARGIN
        canvas.saveState()
        canvas.setFillColor(COPPER)
        canvas.rect(MARGIN, top - 4, WIDTH, 4, stroke=0, fill=1)
        _line(canvas, title, top + 5)
        _line(canvas, f"{foot} · page {canvas.getPageNumber()}", MARGIN - 18)
        canvas.restoreState()

    return draw


def _line(canvas: Canvas, said: str, at: float) -> None:
    line = Paragraph(text(said), STYLES["small"])
    line.wrap(WIDTH, HEAD)
    line.drawOn(canvas, MARGIN, at)
