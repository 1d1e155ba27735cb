"""Quotes that are opened and not closed: what follows them, whole rows, would be read as one cell."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from pathlib import Path

from marvex.core.errors import Mistake
from marvex.sources.cells import is_figure


def check_quotes(path: Path, delimiter: str, name: str) -> None:
    """Raises Mistake where a cell of a small text file holds rows, because a quote opens it that nobody meant.

    Cells of several lines are read as they are, and so are quotes within a line that do no harm.
    """
    lines = path.read_text(encoding="utf-8-sig", errors="replace").splitlines(keepends=True)
    if all(line.count('"') % 2 == 0 for line in lines):
        return
    width = 0
    for first, record, cells in _records(lines, delimiter):
        width = width or len(cells)
        if len(record) > 1 and not (_is_closed(record, delimiter) and not _holds_rows(cells, delimiter, width)):
            raise Mistake(
                f"{name}, row {first}: a quote is opened there, and rows {first} to {first + len(record) - 1} would be "
                "read as one",
                "Close it or take it out; a quote that is part of a cell is written twice.",
            )


def _records(lines: Sequence[str], delimiter: str) -> Iterator[tuple[int, list[str], list[str]]]:
    """Each record: the number of its first line, its lines, and its cells."""
    reader, at = csv.reader(iter(lines), delimiter=delimiter), 0
    try:
        for cells in reader:
            yield at + 1, list(lines[at : reader.line_num]), cells
            at = reader.line_num
    except csv.Error:
        return  # which is said where the file is read


def _is_closed(record: Sequence[str], delimiter: str) -> bool:
    try:
        list(csv.reader(iter(record), delimiter=delimiter, strict=True))
    except csv.Error:
        return False
    return True


def _holds_rows(cells: Sequence[str], delimiter: str, width: int) -> bool:
    """Whether a line within a cell ends a row of the table, with a figure in its last column.

    Of two columns it may as well be a name such as 'Quay 5, 12'.
    """
    for place, cell in enumerate(cells):
        for at, line in enumerate(cell.splitlines()[:-1]):
            parts = line.split(delimiter)
            before = 0 if at else place
            if len(parts) > 1 and width > 2 and before + len(parts) == width and is_figure(parts[-1].strip()):
                return True
    return False
