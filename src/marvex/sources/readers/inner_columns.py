"""Columns that share a heading: figures of lines before those of their totals, as printed accounts have them."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import replace
from itertools import groupby, pairwise

from marvex.core.errors import listed
from marvex.sources.numbering import is_side
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.made_table import without_columns
from marvex.sources.readers.sheet_parts import UNNAMED
from marvex.sources.readers.sheet_table import SheetTable
from marvex.sources.scales import without_unit

_LEAST = 2  # figures in each of the two, which no row has both of
_NO_HEADING = UNNAMED.format("")


def with_one_column_each(table: SheetTable, named: Set[str], numbers: str) -> tuple[SheetTable, tuple[str, ...]]:
    """The table with one column for two side by side that share a heading, of which each row fills one; what is said.

    Read as two they would each be a part of the same figure, and totals of the second count beside their lines in the
    first.

    Parameters
    ----------
    named : the headings that a call names, which stay as they are.
    """
    pairs = _pairs(table, named)
    if not pairs:
        return table, ()
    headings, rows = list(table.headings), table.rows
    for one, other in pairs:
        headings[one] = _shared(headings[one], headings[other])
        rows = tuple(_joined(row, one, other) for row in rows)
    letters = listed([f"{table.letters[one]}–{table.letters[other]}" for one, other in pairs], 4)
    names = listed([headings[one] for one, _ in pairs], 4)
    said = f"columns {letters} share a heading each ({names}), with no row in both, and are read as one each"
    if len(pairs) == 1:
        said = f"columns {letters} share the heading {names}, with no row in both, and are read as one"
    whole = replace(table, headings=tuple(headings), rows=rows)
    return without_columns(whole, {other for _, other in pairs}, numbers), (said,)


def _pairs(table: SheetTable, named: Set[str]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    for one, other in pairwise(sorted(table.places)):
        headings = table.headings[one], table.headings[other]
        is_free = other == one + 1 and (not found or found[-1][1] < one)
        if is_free and _shared(*headings) and named.isdisjoint(headings) and _are_apart(table, one, other):
            found.append((one, other))
    # Where one is left over a heading may stand over the second of two, and the next column is none of its own.
    left = {table.headings[place] for place in table.places} - {
        table.headings[place] for pair in found for place in pair
    }
    return [] if any(is_side(one) or _is_unit(one) or one.startswith(_NO_HEADING) for one in left) else found


def _shared(one: str, other: str) -> str:
    """The heading that two columns side by side share: that of both, or of one where the other has none; else nothing.

    >>> _shared("2026", "2026 2"), _shared("column 2", "2026"), _shared("£", "£ 2"), _shared("2026", "2025")
    ('2026', '2026', '£', '')
    """
    if other == f"{one} 2":  # as the second of a name is called
        return one if is_side(one) or _is_unit(one) else ""
    said = [name for name in (one, other) if not name.startswith(_NO_HEADING)]
    return said[0] if len(said) == 1 and is_side(said[0]) else ""


def _is_unit(heading: str) -> bool:
    return not any(map(str.isalnum, heading)) or not without_unit(heading)


def _are_apart(table: SheetTable, one: int, other: int) -> bool:
    """Whether no row has figures in both of two columns; where one has no heading, they take turns down the rows too,
    as figures of something else that stand below do not."""
    at = [table.places.index(place) for place in (one, other)]
    figures = [table.figures[row.number] for row in table.rows]
    filled = [[row[place] is not None for place in at] for row in figures]
    if any(map(all, filled)) or not all(sum(its) >= _LEAST for its in zip(*filled, strict=True)):
        return False
    turns = len([own for own, _ in groupby(own for own, its in filled if own or its)]) - 1
    return turns > 1 or table.headings[other] == f"{table.headings[one]} 2"


def _joined(row: SheetRow, one: int, other: int) -> SheetRow:
    cells = list(row.cells)
    cells[one] = cells[one] or cells[other]
    return replace(row, cells=tuple(cells))
