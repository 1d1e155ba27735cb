"""The document of a pack: a page of findings, then a page a view, its picture in lines and its commentary below."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, cast

from pypdf import PageObject, PdfReader, PdfWriter
from pypdf.generic import (
    ArrayObject,
    DecodedStreamObject,
    DictionaryObject,
    FloatObject,
    NameObject,
    StreamObject,
    TextStringObject,
)

from marvex.app.styling import styled
from marvex.core.values import dataclass
from marvex.pack.pack_file import Pack
from marvex.pack.piece import Piece, ranked
from marvex.views.drawing.canvas import Canvas
from marvex.views.drawing.saving import Saved, pages_of
from marvex.views.drawing.style import Style
from marvex.views.drawing.text_metrics import POINTS_PER_PIXEL, measured, typeface

SIZE = (1169, 827)  # A4 across, in pixels of a hundred an inch
MARGIN, LEADING = 60.0, 1.42
TITLE, HEADING, BODY, SMALL = 28.0, 20.0, 15.0, 12.0
INNER, TOP = 46.0, 22.0  # the margin within a picture, and above it
ROWS_ON_A_PAGE = 24


PICTURE = "/Picture"  # what a page calls the picture that is laid into it


@dataclass(slots=True, kw_only=True, eq=False)
class _Sheet:
    """A page while it is being set."""

    canvas: Canvas
    y: float = MARGIN
    bookmark: str = ""
    picture: tuple[PageObject, tuple[float, float, float]] | None = None  # to be laid into it; scale, left and bottom

    def write(self, text: str, size: float, colour: str, *, bold: bool = False, indent: float = 0.0) -> None:
        """Text in as many lines as it needs."""
        for line in _lines(text, SIZE[0] - 2 * MARGIN - indent, size, bold):
            self.y += size * LEADING
            self.canvas.text(line, MARGIN + indent, self.y, size, colour, bold=bold)

    @property
    def room(self) -> float:
        return SIZE[1] - MARGIN - self.y


def document(pack: Pack, period: str, pieces: Sequence[Piece]) -> Saved:
    """The document as PDF; the same pieces give the same bytes."""
    style = styled(pack.style)
    writer = PdfWriter()
    with typeface(style.fonts):
        sheets = _findings(pack, period, pieces, style)
        for piece in pieces:
            sheets += _of_view(piece, style)
        for number, sheet in enumerate(sheets, 1):
            text = f"{number} / {len(sheets)}"
            right = SIZE[0] - MARGIN - measured(text, SMALL).width
            sheet.canvas.text(text, right, SIZE[1] - MARGIN / 2, SMALL, style.soft)
        bare = pages_of([sheet.canvas for sheet in sheets])
        set_pages = PdfReader(io.BytesIO(bare.content)).pages
        for number, (sheet, page) in enumerate(zip(sheets, set_pages, strict=True)):
            added = writer.add_page(page)
            if sheet.picture is not None:
                _lay(writer, added, *sheet.picture)
            if sheet.bookmark:
                writer.add_outline_item(title=sheet.bookmark, page_number=number)
    writer.add_metadata({"/Title": pack.title or pack.name, "/Subject": period, "/Creator": "Marvex"})
    writer.root_object[NameObject("/Lang")] = TextStringObject(pack.language)
    writer.page_mode = "/UseOutlines"
    writer.compress_identical_objects()
    content = io.BytesIO()
    writer.write(content)
    return replace(bare, content=content.getvalue())


def _lay(writer: PdfWriter, page: PageObject, picture: PageObject, place: tuple[float, float, float]) -> None:
    """Lays a picture into a page whole, as a form of its own, without taking it apart."""
    scale, left, bottom = place
    plain, drawing = DecodedStreamObject(), DecodedStreamObject()
    plain.set_data(cast(StreamObject, picture["/Contents"]).get_data())
    form = plain.flate_encode()
    form[NameObject("/Type")], form[NameObject("/Subtype")] = NameObject("/XObject"), NameObject("/Form")
    form[NameObject("/BBox")] = ArrayObject(FloatObject(side) for side in picture.mediabox)
    form[NameObject("/Resources")] = picture["/Resources"].clone(writer)
    drawing.set_data(f"q {scale:.6f} 0 0 {scale:.6f} {left:.3f} {bottom:.3f} cm {PICTURE} Do Q".encode())
    # The pages share their resources, of which each has its own picture.
    resources = DictionaryObject(cast(DictionaryObject, page["/Resources"]))
    resources[NameObject("/XObject")] = DictionaryObject({NameObject(PICTURE): writer._add_object(form)})
    page[NameObject("/Resources")] = resources
    page[NameObject("/Contents")] = ArrayObject([page.raw_get("/Contents"), writer._add_object(drawing)])


def _findings(pack: Pack, period: str, pieces: Sequence[Piece], style: Style) -> list[_Sheet]:
    """The first page, or as many as the findings need."""
    sheets = [_new(style)]
    sheets[0].bookmark = pack.title or "Findings"
    sheets[0].write(pack.title or pack.name, TITLE, style.ink, bold=True)
    sheets[0].write(period, BODY, style.soft)
    sheets[0].y += BODY

    def entry(text: str, small: str) -> None:
        if sheets[-1].room < 3 * BODY * LEADING:
            sheets.append(_new(style))
        sheets[-1].write(text, BODY, style.ink)
        if small:
            sheets[-1].write(small, SMALL, style.soft)
        sheets[-1].y += BODY * 0.5

    for place, piece in enumerate(ranked(pieces), 1):
        entry(f"{place}.  {piece.title}", ", ".join(part for part in (piece.band, piece.subtitle) if part))
    restated = [text for one in pieces for text in (*one.restated, *one.rebanded)]
    doubts = [doubt for one in pieces for doubt in one.since_doubts]
    for title, told in (
        ("In doubt", [doubt for one in pieces for doubt in one.doubts]),
        ("Met a band that fails", [f"{one.title}: {', '.join(one.failing)}" for one in pieces if one.failing]),
        ("Restated since the last edition" if restated else "Since the last edition", [*doubts, *restated]),
    ):
        if told:
            sheets[-1].y += BODY
            sheets[-1].write(title, HEADING, style.ink, bold=True)
            for text in dict.fromkeys(told):
                entry(text, "")
    return sheets


def _of_view(piece: Piece, style: Style) -> list[_Sheet]:
    """A view's page: its picture with the commentary below, or its words and its table."""
    sheet = _new(style)
    sheet.bookmark = piece.title
    if piece.pdf:
        (picture,) = PdfReader(io.BytesIO(base64.b64decode(piece.pdf))).pages
        words = piece.told_beside[:3]
        own = [float(one) / POINTS_PER_PIXEL for one in (picture.mediabox.width, picture.mediabox.height)]
        height = SIZE[1] - MARGIN - (BODY * LEADING * len(words) + TOP if words else TOP)
        scale = min((SIZE[0] - 2 * MARGIN) / (own[0] - 2 * INNER), height / own[1])
        # What is in the picture begins where the words below it do.
        left = MARGIN - INNER * scale
        top = SIZE[1] - TOP - own[1] * scale
        sheet.y = TOP + own[1] * scale
        for sentence in words:
            if sheet.room < BODY * LEADING:
                break
            sheet.write(sentence, BODY, style.ink)
        sheet.picture = picture, (scale, left * POINTS_PER_PIXEL, top * POINTS_PER_PIXEL)
        return [sheet]
    return _of_words(piece, sheet, style)


def _of_words(piece: Piece, sheet: _Sheet, style: Style) -> list[_Sheet]:
    """The pages of a table or a commentary."""
    sheets = [sheet]
    sheet.write(piece.title, HEADING, style.ink, bold=True)
    sheet.write(piece.subtitle, BODY, style.soft)
    sheet.y += BODY
    if piece.draw == "commentary":
        for text in (*piece.sentences[1:], *(f"Caution: {one}." for one in piece.cautions)):
            if sheets[-1].room < 4 * BODY * LEADING:
                sheets.append(_new(style))
            sheets[-1].write(text, BODY, style.ink)
            sheets[-1].y += BODY * 0.45
    else:
        rows = piece.table["rows"]
        for start in range(0, max(1, len(rows)), ROWS_ON_A_PAGE):
            if start:
                sheets.append(_new(style))
            _write_table(sheets[-1], piece.table, rows[start : start + ROWS_ON_A_PAGE], style)
    lines = [*piece.notes, piece.foot]
    sheets[-1].y = max(sheets[-1].y, SIZE[1] - MARGIN - (len(lines) + 2) * SMALL * LEADING)
    for line in lines:
        sheets[-1].write(line, SMALL, style.soft)
    return sheets


def _write_table(sheet: _Sheet, table: dict[str, Any], rows: Sequence[dict[str, Any]], style: Style) -> None:
    """Rows of a table in columns as wide as their cells need, the type smaller where they are too wide."""
    lines = [[cell["text"] for cell in row["cells"]] for row in rows]
    size = BODY
    while True:
        widths = [
            max(measured(text, size, True).width for text in (heading, *(line[place] for line in lines))) + size * 1.3
            for place, heading in enumerate(table["headings"])
        ]
        if sum(widths) <= SIZE[0] - 2 * MARGIN or size <= 8:
            break
        size -= 0.5
    lefts = [MARGIN + sum(widths[:place]) for place in range(len(widths))]
    is_left = [place < table["names"] or "tone" in rows[0]["cells"][place] for place in range(len(widths))]

    def line(texts: Sequence[str], cells: Sequence[dict[str, Any]] | None, *, bold: bool) -> None:
        sheet.y += size * 1.65
        for place, text in enumerate(texts):
            tone = cells[place].get("tone") if cells else None
            colour = next((style.texts[one] for one in style.texts if one.value == tone), style.ink)
            right = lefts[place] + widths[place] - size * 0.65 - measured(text, size, bold).width
            sheet.canvas.text(text, lefts[place] if is_left[place] else right, sheet.y, size, colour, bold=bold)

    line(table["headings"], None, bold=True)
    sheet.canvas.line(MARGIN, sheet.y + 6, MARGIN + sum(widths), sheet.y + 6, style.ink, 1.0)
    for row, texts in zip(rows, lines, strict=True):
        line(texts, row["cells"], bold=row["total"])


def _new(style: Style) -> _Sheet:
    return _Sheet(canvas=Canvas(*SIZE, style))


def _lines(text: str, width: float, size: float, bold: bool) -> list[str]:
    """Text cut between words into lines of a width."""
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if lines[-1] and measured(longer, size, bold).width > width:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
