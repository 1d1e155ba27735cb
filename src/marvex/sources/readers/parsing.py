"""Workbooks being parsed: before their cells are asked for, and a long sheet in parts, side by side.

The parser needs no Python, so it goes on while libraries are loaded, and on every core there is.
An .xlsx workbook is an archive of files of XML, in which the rows of a sheet stand one after the other
and say their numbers (ECMA-376, part 1, 18.3.1.73 and 80): some of its rows are a sheet as well. A sheet
that does not look just so is parsed whole.
"""

from __future__ import annotations

import io
import os
import re
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from functools import partial
from itertools import chain, islice
from pathlib import Path
from threading import Semaphore
from typing import Any, TypeAlias

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook

from marvex.sources.readers.error_cells import Errors, error_cells, may_hold_errors
from marvex.sources.readers.work import Work

LONG = 200_000  # bytes: a shorter workbook is parsed before a thread has begun
WORTH_CUTTING = 1_000_000  # bytes of XML: a shorter sheet is parsed before it is cut
_SHEET = re.compile(r"xl/\w+sheets/[^/]+\.xml")
_SHARED = re.compile(r"(?:xl/)?(?:_rels/)?[^/]+")
_BEFORE_ROWS, _ROW, _AFTER_ROWS = b"<sheetData>", b'<row r="', b"</sheetData></worksheet>"

CORES = min(os.cpu_count() or 1, 8)
PARTS_A_CORE = 4  # so that the rows of one are few enough to stay at hand while they become columns
_cores = Semaphore(CORES)

Rows: TypeAlias = list[list[Any]]


class Sheet:
    """A parsed sheet, in one part or in several that follow each other.

    All its rows are as wide; the first is the sheet's row 1, empty or not. A merged cell's value stands in all
    rows that it covers down a column.

    Parameters
    ----------
    errors : what cells say that hold an error, by row and column.

    Raises ValueError where the parts do not follow each other.
    """

    def __init__(self, parts: Iterable[CalamineSheet], errors: Errors | None = None) -> None:
        self._errors = errors or {}
        self._parts = [(part, part.start, part.end) for part in parts if part.start and part.end]
        rows = [row for _, start, end in self._parts for row in (start[0], end[0] + 1)]
        if rows != sorted(rows):
            raise ValueError("rows are expected to stand in their order")
        self._width = max((end[1] + 1 for *_, end in self._parts), default=0)
        merged = [one for part, *_ in self._parts for one in part.merged_cell_ranges or ()]
        self._merged = [
            (top, bottom, left) for (top, left), (bottom, right) in merged if left == right and bottom > top
        ]

    def first(self, number: int) -> Rows:
        """The first rows."""
        if self._merged or self._errors:
            return self.rows()[:number]
        return list(islice(chain.from_iterable(self._of_parts(number)), number))

    def rows(self) -> Rows:
        """All rows."""
        rows = list(chain.from_iterable(self._of_parts()))
        for (row, column), text in self._errors.items():
            if row < len(rows) and column < self._width:
                rows[row][column] = text
        for top, bottom, column in self._merged:
            for below in rows[top + 1 : bottom + 1]:
                below[column] = rows[top][column]
        return rows

    def blocks(self) -> Iterator[Rows]:
        """All rows, a part at a time, so that never all of them are held."""
        return iter([self.rows()]) if self._merged or self._errors else self._of_parts()

    def _of_parts(self, most: int | None = None) -> Iterator[Rows]:
        """The rows of each part, of a long one the first so many, after the empty ones before it."""
        following = 0
        for part, (top, left), (bottom, right) in self._parts:
            if top > following:
                yield [[""] * self._width for _ in range(top - following)]
            before, after = [""] * left, [""] * (self._width - right - 1)
            cells = part.to_python(nrows=most)
            yield [[*before, *row, *after] for row in cells] if before or after else cells
            following = bottom + 1


_begun: dict[tuple[Path, str | None], Work[Mapping[str, Sheet]]] = {}


def begin(paths: Iterable[Path], sheet: str | None) -> None:
    """Begins to parse long workbooks; what is wrong with them is said by `parsed`."""
    for path in paths:
        if path.is_file() and path.stat().st_size > LONG:
            _begun[path, sheet] = Work(partial(_parsed, path, sheet))
    if _begun:
        import numpy  # noqa: F401  # the columns will be its arrays, and now there is time to load it


def parsed(path: Path, sheet: str | None) -> Mapping[str, Sheet]:
    """The sheet asked for, or all of them where it is not there or none is asked for, by name.

    Raises CalamineError or OSError where the workbook cannot be read.
    """
    begun = _begun.pop((path, sheet), None)
    return begun.result() if begun else _parsed(path, sheet)


def _parsed(path: Path, sheet: str | None) -> Mapping[str, Sheet]:
    in_parts = _parsed_in_parts(path)
    if in_parts:
        return in_parts
    book = CalamineWorkbook.from_path(str(path))
    names = book.sheet_names if sheet not in book.sheet_names else [sheet]
    errors = error_cells(path)
    return {one: Sheet([book.get_sheet_by_name(one)], errors.get(one)) for one in names}


def _parsed_in_parts(path: Path) -> Mapping[str, Sheet]:
    """A workbook's only sheet, cut into parts; nothing where it was not cut."""
    try:
        works = [Work(partial(_first_sheet, part)) for part in _parts_of(path)]
        parts = [work.result() for work in works]
        return {parts[0].name: Sheet(parts)} if parts else {}
    except (CalamineError, zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, OSError, ValueError):
        return {}  # whole, it is read after all, or what is wrong with it can be told


def _first_sheet(workbook: io.BytesIO) -> CalamineSheet:
    with _cores:
        return CalamineWorkbook.from_filelike(workbook).get_sheet_by_index(0)


def _parts_of(path: Path) -> Iterator[io.BytesIO]:
    """Workbooks, each with the next rows of a workbook's only sheet; none where that is not long.

    Raises ValueError where the sheet does not look as expected.
    """
    if CORES == 1 or not zipfile.is_zipfile(path):
        return
    with zipfile.ZipFile(path) as archive:
        sheets = [one for one in archive.infolist() if _SHEET.fullmatch(one.filename)]
        shared = [one for one in archive.infolist() if _SHARED.fullmatch(one.filename)]
        # Each part is parsed with all that the sheet refers to.
        if len(sheets) != 1 or sheets[0].file_size < max(WORTH_CUTTING, 2 * sum(one.file_size for one in shared)):
            return
        (sheet,) = sheets
        size = sheet.file_size // (PARTS_A_CORE * CORES) + 1
        files = {one.filename: archive.read(one) for one in shared}
        with archive.open(sheet) as file:
            piece, rest = file.read(size), b""
            start = piece.index(_BEFORE_ROWS) + len(_BEFORE_ROWS)
            head = piece[:start]
            while following := file.read(size):
                end = piece.rindex(_ROW)
                yield _workbook(files, sheet.filename, head, _plain(rest, piece, start, end), _AFTER_ROWS)
                piece, rest, start = following, piece[end:], 0
            yield _workbook(files, sheet.filename, head, _plain(rest, piece, start, len(piece)), b"")


def _plain(rest: bytes, piece: bytes, start: int, end: int) -> tuple[bytes, memoryview]:
    """Rows in which all that looks like one is one (no comments, no quoted texts), and no cell holds an error."""
    # What stands across the cut is looked at with it.
    if may_hold_errors(piece) or may_hold_errors(rest + piece[:9]) or (b"!" in piece and b"<!" in rest + piece):
        raise ValueError("rows with comments, quoted texts or errors are not cut")
    return rest, memoryview(piece)[start:end]


def _workbook(
    files: Mapping[str, bytes], sheet: str, head: bytes, rows: Iterable[bytes | memoryview], end: bytes
) -> io.BytesIO:
    """An archive of files and a sheet, not packed."""
    workbook = io.BytesIO()
    with zipfile.ZipFile(workbook, "w") as archive:
        for name, content in files.items():
            archive.writestr(name, content)
        with archive.open(sheet, "w") as file:
            for piece in (head, *rows, end):
                file.write(piece)
    workbook.seek(0)
    return workbook
