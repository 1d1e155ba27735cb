"""Whether a workbook can be read within bounds: its parser cannot be interrupted, and takes all that it is given."""

from __future__ import annotations

import re
import zipfile
import zlib
from pathlib import Path
from xml.parsers import expat

from marvex.core.errors import Mistake
from marvex.sources.readers.grid import place_of

MOST_UNPACKED = 1_500_000_000  # bytes of all parts together
MOST_CELLS = 100_000_000  # of the rectangle from the first cell to the last, empty ones among them
LONGEST = 1_000_000  # bytes of one cell: a spreadsheet has 32,767 letters at most
MOST_COLUMNS_OF_TWO = 702  # up to ZZ

_SHEET = re.compile(r"xl/worksheets/[^/]+\.xml")
_FAR = re.compile(rb"""r=["'][A-Z]{3}\d""")
# Beyond what a sheet has: 16,384 columns, up to XFD, and 1,048,576 rows.
_NO_PLACE = re.compile(rb"""r=["'](?:[A-Z]*\d{8}|[A-Z]{4}|[A-Z]+["'])""")
_COLUMN = re.compile(rb"""<c\b[^>]*?\br=["']([A-Z]+)\d""")
_ROW = re.compile(rb"""<row\b[^>]*?\br=["'](\d+)["']""")


def check_workbook(path: Path, name: str) -> int:
    """How many bytes a workbook has unpacked.

    Raises Mistake where it is damaged, or larger than a table can sensibly be.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            size = sum(one.file_size for one in archive.infolist())
            if size > MOST_UNPACKED:
                raise _too_large(name, f"unpacked it has more than {MOST_UNPACKED // 10**6:,} MB")
            for part in archive.namelist():
                if part == "content.xml" or _SHEET.fullmatch(part) or part == "xl/sharedStrings.xml":
                    _check_part(archive.read(part), part, name)
            return size
    except (
        zipfile.BadZipFile,
        zlib.error,
        EOFError,
        OSError,
        expat.ExpatError,
        LookupError,
        RuntimeError,
        ValueError,
    ) as problem:
        raise Mistake(f"{name} cannot be read: it is damaged, or no workbook", "Save it again.") from problem


def _check_part(content: bytes, part: str, name: str) -> None:
    for start in range(0, len(content) - LONGEST, LONGEST):
        if content.find(b"<", start, start + LONGEST) < 0:
            raise _too_large(name, f"a cell has more than {LONGEST:,} letters")
    if b"<!DOCTYPE" in content[:2_000]:
        raise Mistake(f"{name} declares a document type, as no workbook does", "Save it again.")
    if part == "content.xml":  # whose parser never comes to the end of one that is cut
        expat.ParserCreate().Parse(content, True)
    elif part.startswith("xl/worksheets/"):
        if _NO_PLACE.search(content):
            raise Mistake(f"{name} is damaged: a cell is where no sheet has one", "Save it again.")
        rows = _rows(content)
        columns = MOST_COLUMNS_OF_TWO
        if _FAR.search(content) or rows * columns > MOST_CELLS:
            columns = 1 + max((place_of(one.decode()) for one in set(_COLUMN.findall(content))), default=0)
        if rows * columns > MOST_CELLS:
            raise _too_large(name, f"its cells reach over {rows:,} rows and {columns:,} columns")


def _rows(content: bytes) -> int:
    """How many rows lie from the first to the last that a sheet names."""
    first, last = _ROW.search(content), _ROW.search(content, max(0, content.rfind(b"<row")))
    return int(last[1]) - int(first[1]) + 1 if first and last else 0


def _too_large(name: str, why: str) -> Mistake:
    return Mistake(f"{name} is too large for a sheet: {why}", "Clear the stray cells, or save the table as CSV.")
