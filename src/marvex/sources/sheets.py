"""Workbooks: which sheet is meant, and its cells as rows, or as the columns of a table."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Thread
from typing import Any

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook

from marvex.core.errors import MarvexError, did_you_mean, listed
from marvex.sources.grid import text_of

LOOKED_AT = 500  # rows: enough to see whether a sheet holds a table
LONG = 200_000  # bytes: a shorter workbook is parsed before a thread has begun


class _Parsing(Thread):
    """A workbook being parsed on a thread of its own."""

    def __init__(self, path: Path, sheet: str | None) -> None:
        super().__init__(daemon=True)
        self._path, self._sheet = path, sheet
        self._found: Mapping[str, CalamineSheet] | BaseException = {}

    def run(self) -> None:
        try:
            self._found = _parsed(self._path, self._sheet)
        except BaseException as problem:  # raised where it can be told
            self._found = problem

    def sheets(self) -> Mapping[str, CalamineSheet]:
        """What was parsed, once it is; raises what went wrong."""
        self.join()
        if isinstance(self._found, BaseException):
            raise self._found
        return self._found


_begun: dict[tuple[Path, str | None], _Parsing] = {}


def begin(paths: Iterable[Path], sheet: str | None) -> None:
    """Begins to parse long workbooks, each on a thread of its own.

    The parser needs no Python: a sheet is parsed while the libraries that its figures need are loaded.
    What is wrong with a workbook is said by `sheet_rows`.
    """
    for path in paths:
        if path.is_file() and path.stat().st_size > LONG:
            _begun[path, sheet] = _Parsing(path, sheet)
            _begun[path, sheet].start()
    if _begun:
        import numpy  # noqa: F401  # its columns will be needed, and now there is time to load it


def sheet_rows(path: Path, name: str, sheet: str | None) -> tuple[str, Sequence[Sequence[Any]]]:
    """The name and the rows of the sheet asked for, or of the only one that holds a table.

    A merged cell's value stands in all rows that it covers down a column; merged headings are left
    to the reading of headings. Raises MarvexError where several sheets could serve.
    """
    begun = _begun.pop((path, sheet), None)
    try:
        sheets = begun.sheets() if begun else _parsed(path, sheet)
    except (CalamineError, OSError) as problem:
        raise MarvexError(f"{name} cannot be read: {problem}", "Check that it is a workbook.") from problem
    if sheet is not None and sheet not in sheets:
        hint = did_you_mean(sheet, sheets, f"Its sheets are {listed(sheets)}.")
        raise MarvexError(f"{name} has no sheet '{sheet}'", hint)
    filled = [(one, _rows(found)) for one, found in sheets.items() if sheet in (None, one)]
    serving = [(one, rows) for one, rows in filled if sheet is not None or _is_table(rows)]
    if len(serving) > 1:
        several = listed(f"'{one}'" for one, _ in serving)
        raise MarvexError(f"{name}: the sheets {several} could each serve", f"Say which: --sheet '{serving[0][0]}'.")
    if not serving:
        raise MarvexError(f"{name} has no sheet with a table of figures", "Name one with --sheet.")
    return serving[0]


@dataclass(frozen=True, slots=True)
class Columns:
    """The cells of a sheet that is a table, by columns.

    Parameters
    ----------
    arrays : each column as an array, of numbers where all its cells are, else of texts.
    texts : the different texts of each column, of one of numbers none.
    """

    arrays: tuple[Any, ...]
    texts: tuple[frozenset[str], ...]


def columns_of(rows: Sequence[Sequence[Any]]) -> Columns:
    """The cells by columns; all rows are as wide."""
    import numpy as np

    arrays, texts = [], []
    for cells in zip(*rows, strict=True):
        if type(cells[0]) is float and set(map(type, cells)) == {float}:
            arrays.append(np.array(cells))
            texts.append(frozenset[str]())
            continue
        # A cell of a long column says what others have said: each is put into words once.
        said = {cell: text_of(cell) for cell in set(cells)}
        found: Iterable[str] = map(said.__getitem__, cells)
        if not said.keys().isdisjoint((0, 1)):  # yes and no are equal to 1 and 0
            found = map(text_of, cells)
        elif all(cell == text for cell, text in said.items()):
            found = cells
        arrays.append(np.fromiter(found, object, len(cells)))
        texts.append(frozenset(said.values()))
    return Columns(tuple(arrays), tuple(texts))


def _parsed(path: Path, sheet: str | None) -> Mapping[str, CalamineSheet]:
    """The sheet asked for, or all of them where it is not there or none is asked for."""
    book = CalamineWorkbook.from_path(str(path))
    names = book.sheet_names if sheet not in book.sheet_names else [sheet]
    return {one: book.get_sheet_by_name(one) for one in names}


def _rows(sheet: CalamineSheet) -> list[list[Any]]:
    # Row 1 is the sheet's first row, empty or not, so that cells keep their names.
    rows = sheet.to_python(skip_empty_area=False)
    for (top, left), (bottom, right) in sheet.merged_cell_ranges or ():
        if left == right and bottom > top:
            for row in range(top + 1, min(bottom, len(rows) - 1) + 1):
                rows[row][left] = rows[top][left]
    return rows


def _is_table(rows: Sequence[Sequence[Any]]) -> bool:
    """Whether at least two rows hold a figure beside something else."""
    wide = [row for row in rows[:LOOKED_AT] if sum(value not in ("", None) for value in row) > 1]
    with_figures = [
        row for row in wide if any(isinstance(value, int | float) and not isinstance(value, bool) for value in row)
    ]
    return len(wide) > 2 and len(with_figures) > 1
