"""Workbooks: which sheet is meant, and its cells as rows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, TypeAlias

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.sources.readers.bounds import check_workbook
from marvex.sources.readers.error_cells import Errors, error_cells
from marvex.sources.readers.in_time import in_time

LOOKED_AT = 500  # rows: enough to see whether a sheet holds a table

Rows: TypeAlias = list[list[Any]]


def sheet_of(path: Path, name: str, sheet: str | None) -> tuple[str, Rows]:
    """The name of the sheet asked for, or of the only one that holds a table, and its rows from row 1 on.

    Raises Mistake where several sheets could serve.
    """
    size = check_workbook(path, name)
    try:
        rows = in_time(lambda: _all_rows(path, name, sheet), size, name)
    except (CalamineError, OSError, ValueError) as problem:
        raise Mistake(f"{name} cannot be read: it is damaged, or no workbook", "Save it again.") from problem
    except BaseException as problem:
        if type(problem).__name__ != "PanicException":  # how its parser gives up
            raise
        raise Mistake(f"{name} cannot be read: its parser gives up on it", "Save it again.") from None
    title = _serving(rows, name, sheet)
    return title, rows[title]


def _all_rows(path: Path, name: str, sheet: str | None) -> dict[str, Rows]:
    """The rows of the sheet asked for, or of all, by the sheets' names."""
    book = CalamineWorkbook.from_path(str(path))
    titles = book.sheet_names
    if sheet is not None and sheet not in titles:
        hint = did_you_mean(sheet, titles, f"Its sheets are {listed(titles)}.")
        raise Mistake(f"{name} has no sheet '{sheet}'", hint)
    errors = error_cells(path)
    return {
        title: _rows(book.get_sheet_by_name(title), errors.get(title, {}))
        for title in titles
        if sheet in (None, title)
    }


def _rows(sheet: CalamineSheet, errors: Errors) -> Rows:
    """All rows, as wide as the widest; a merged cell's value stands in all rows that it covers down a column."""
    rows: Rows = sheet.to_python(skip_empty_area=False)
    for (row, column), text in errors.items():
        if row < len(rows) and column < len(rows[row]):
            rows[row][column] = text
    for (top, left), (bottom, right) in sheet.merged_cell_ranges or ():
        if left == right and top < len(rows) and left < len(rows[top]):
            for below in rows[top + 1 : bottom + 1]:
                below[left] = rows[top][left]
    return rows


def _serving(rows: Mapping[str, Rows], name: str, sheet: str | None) -> str:
    """The title of the only sheet that can serve."""
    filled = [title for title, found in rows.items() if found]
    if not filled:
        asked = "" if sheet is None else f", sheet {sheet!r}"
        raise Mistake(f"{name}{asked} is empty", "Name a sheet with a table.")
    # Where only one has anything in it there is no choice, and what it lacks can be told.
    serving = filled if len(filled) == 1 else [title for title in filled if _is_table(rows[title][:LOOKED_AT])]
    if len(serving) > 1:
        several = listed(f"'{one}'" for one in serving)
        raise Mistake(f"{name}: the sheets {several} could each serve", f"Say which: {setting('sheet', serving[0])}.")
    if not serving:
        raise Mistake(f"{name} has no sheet with a table of figures", f"Name one with {setting('sheet')}.")
    return serving[0]


def _is_table(rows: Sequence[Sequence[Any]]) -> bool:
    """Whether at least two rows hold a figure beside something else."""
    wide = [row for row in rows if sum(value not in ("", None) for value in row) > 1]
    with_figures = [
        row for row in wide if any(isinstance(value, int | float) and not isinstance(value, bool) for value in row)
    ]
    return len(wide) > 2 and len(with_figures) > 1
