"""The workbook of a pack: a sheet of contents, and one a view with its table live and its picture beside it."""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Sequence

import xlsxwriter

from marvex.pack.pack_file import Pack
from marvex.pack.piece import Piece
from marvex.pack.sheet_script import Replayed
from marvex.tables.workbook import MADE, SOFT, TYPE

CONTENTS = "Contents"
LONGEST = 31  # letters that the name of a sheet may have
PICTURE_SCALE = 0.55
GAP = 2  # columns between a table and its picture
_FORBIDDEN = re.compile(r"[\[\]:*?/\\']")


def pack_workbook(pack: Pack, pieces: Sequence[Piece]) -> bytes:
    """The workbook; its changes, ratios, totals and bands are formulas, and what is text stays text."""
    content = io.BytesIO()
    book = xlsxwriter.Workbook(content, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    book.set_properties({"title": pack.title or pack.name, "created": MADE})
    names = _sheet_names(pieces)
    _write_contents(book, pack, pieces, names)
    replayed = Replayed(book)
    for piece, name in zip(pieces, names, strict=True):
        sheet = book.add_worksheet(name)
        replayed.write(sheet, piece.sheet)
        if piece.png:
            column = len(piece.table["headings"]) + GAP
            picture = {
                "image_data": io.BytesIO(base64.b64decode(piece.png)),
                "x_scale": PICTURE_SCALE,
                "y_scale": PICTURE_SCALE,
                "description": f"{piece.title}. {piece.description}"[:2000],
            }
            sheet.insert_image(1, column, f"{piece.name}.png", picture)
    book.close()
    return content.getvalue()


def _write_contents(book: xlsxwriter.Workbook, pack: Pack, pieces: Sequence[Piece], names: Sequence[str]) -> None:
    sheet = book.add_worksheet(CONTENTS)
    plain, soft = book.add_format(TYPE), book.add_format({**TYPE, "font_color": SOFT})
    link = book.add_format({**TYPE, "underline": 1})
    sheet.write_string(0, 0, pack.title or pack.name, book.add_format({**TYPE, "bold": True, "font_size": 16}))
    for place, (piece, name) in enumerate(zip(pieces, names, strict=True), 2):
        sheet.write_url(place, 0, f"internal:'{name}'!A1", link, name)
        sheet.write_string(place, 1, piece.title, plain)
        sheet.write_string(place, 2, piece.band, plain)
        sheet.write_string(place, 3, piece.subtitle, soft)
    sheet.set_column(0, 0, 30)
    sheet.set_column(1, 1, 78)
    sheet.set_column(2, 2, 20)
    sheet.set_column(3, 3, 60)
    sheet.hide_gridlines(2)
    sheet.set_landscape()
    sheet.set_paper(9)
    sheet.fit_to_pages(1, 0)


def _sheet_names(pieces: Sequence[Piece]) -> list[str]:
    """A name for each sheet: that of its view, cut to what a workbook takes, and different from all others."""
    found = [CONTENTS.casefold(), "history"]  # the second is a spreadsheet's own
    names = []
    for piece in pieces:
        name, number = _FORBIDDEN.sub(" ", piece.name)[:LONGEST].strip(), 2
        while name.casefold() in found:
            name, number = f"{piece.name[: LONGEST - 4]} {number}", number + 1
        found.append(name.casefold())
        names.append(name)
    return names
