"""Rows of a sheet whose formulas add up other rows: what a workbook itself says of its totals."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, listed, setting
from marvex.sources.cells import is_figure
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import Wishes
from marvex.sources.where import filter_text, filters_among

_CELL = r"[A-Z]{1,3}\d+"
_CELLS = rf"{_CELL}(?::{_CELL})?"
_TERM = rf"(?:SUM\({_CELLS}(?:[,;]{_CELLS})*\)|SUBTOTAL\((?:10)?9[,;]{_CELLS}(?:[,;]{_CELLS})*\)|{_CELL})"
_SUM = re.compile(rf"[+-]?{_TERM}(?:[+-]{_TERM})*")
_REFERENCE = re.compile(r"([A-Z]{1,3})(\d+)(?::([A-Z]{1,3})(\d+))?")
MOST_ROWS = 100_000  # that one reference spans


def rows_added_up(formula: str, column: str, row: int) -> frozenset[int]:
    """The rows that a cell's formula adds up or subtracts, two or more of its own column; else none.

    >>> sorted(rows_added_up("SUM(B2:B3)+B5", "B", 6)), sorted(rows_added_up("B2*1.05", "B", 3))
    ([2, 3, 5], [])
    >>> rows_added_up("B2+C2", "D", 2), rows_added_up("B2", "B", 9)
    (frozenset(), frozenset())
    """
    text = formula.replace("$", "").replace(" ", "").upper().removeprefix("=")
    if _SUM.fullmatch(text) is None:
        return frozenset()
    found: set[int] = set()
    for first, start, last, end in _REFERENCE.findall(re.sub(r"SUBTOTAL\(\d+[,;]", "(", text)):
        if {first, last or first} != {column} or int(end or start) - int(start) > MOST_ROWS:
            return frozenset()
        found.update(range(int(start), int(end or start) + 1))
    return frozenset(found) if len(found) > 1 and row not in found else frozenset()


def check_sums_left_out(
    sums: Mapping[int, frozenset[int]], headings: Sequence[str], rows: Sequence[SheetRow], wishes: Wishes, name: str
) -> None:
    """Raises Mistake where a row that counts is by its formulas a sum of others that count as well.

    Parameters
    ----------
    sums : the rows that are added up, by the numbers of those that do.
    rows : those that count, totals that were found being none of them.
    """
    filters = filters_among(wishes.where, (*headings, wishes.heading), name)
    kept = [
        row for row in rows if all(one.keeps_row(row.cells, headings) for one in filters if one.column in headings)
    ]
    numbers = {row.number for row in kept}
    for row in kept:
        parts = sums.get(row.number, frozenset()) & numbers
        place = next(_names(row), None)
        label = (row.cells[place].strip() or NO_NAME) if place is not None else ""
        if parts and label and label not in wishes.named:
            condition = filter_text(headings[place or 0], "!=", [label])
            raise Mistake(
                f"{name}, row {row.number} '{label}' is by its formulas the sum of rows "
                f"{listed(map(str, sorted(parts)), 3)}, which count as well",
                f"Leave it out with {setting('where', condition)}, or keep it with {setting('totals', 'keep')}.",
            )


def _names(row: SheetRow) -> Iterator[int]:
    """The places of a row's texts, the first of which names it."""
    return (place for place, cell in enumerate(row.cells) if cell.strip() and not is_figure(cell))
