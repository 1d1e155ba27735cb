"""Rows that the paths of their names and their figures set below another: 'Fares:Adult', 'Fares:Child' of 'Fares'."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace

from marvex.core.exact import ZERO, total
from marvex.core.structure.parents import below_by_path
from marvex.sources.readers.grid import BLANKS
from marvex.sources.readers.sheet_table import SheetTable

MOST_ROWS = 2000  # of a table of accounts


def set_in_by_paths(table: SheetTable) -> tuple[SheetTable, Mapping[int, tuple[str, int, int]]]:
    """The table with the rows set in whose names go on from that of a row which is their sum, in all columns; and those
    sums by the numbers of their rows, with their names and the first and last row that each is of.

    A row that is none keeps what was posted to it alone. Where rows are set in already, that says more.
    """
    sums: dict[int, tuple[str, int, int]] = {}
    if len(table.rows) > MOST_ROWS or len({row.indent for row in table.rows}) != 1:
        return table, sums
    deep = [0] * len(table.rows)
    for place in range(len(table.headings)):
        if place in table.places:
            continue
        for block in _blocks(table, place):
            below = below_by_path({at: table.rows[at].cells[place] for at in block})
            for parent, found in below.items():
                within = {one for other in found for one in below.get(other, ())}
                if _is_sum(table, parent, [one for one in found if one not in within]):
                    first, last, own = (table.rows[one] for one in (found[0], found[-1], parent))
                    sums[own.number] = own.cells[place], first.number, last.number
                    for one in found:
                        deep[one] += BLANKS
    rows = (replace(row, indent=row.indent + its) for row, its in zip(table.rows, deep, strict=True))
    return (replace(table, rows=tuple(rows)) if sums else table), sums


def _blocks(table: SheetTable, place: int) -> Iterable[Sequence[int]]:
    """The rows by their places, in blocks within each of which a column names every row once, as where each company
    has all accounts: by another column whose names come again, or by all such together.
    """
    others = [one for one in range(len(table.headings)) if one != place and one not in table.places]
    keys = [one for one in others if 2 * len({row.cells[one] for row in table.rows}) <= len(table.rows)]
    for of in ((), *((one,) for one in keys), tuple(keys)):
        blocks: dict[tuple[str, ...], list[int]] = {}
        for at, row in enumerate(table.rows):
            blocks.setdefault(tuple(row.cells[one] for one in of), []).append(at)
        if all(len({table.rows[at].cells[place] for at in block}) == len(block) for block in blocks.values()):
            return blocks.values()
    return [range(len(table.rows))]


def standing(table: SheetTable, sums: Collection[int]) -> set[int]:
    """Those of some rows that are what all rows before them come to, as a bar that stands among steps is."""
    running = [ZERO] * len(table.places)
    found = set()
    for row in table.rows:
        own = [one or ZERO for one in table.figures[row.number]]
        if row.number not in sums:
            running = [total(both) for both in zip(running, own, strict=True)]
        elif own == running:
            found.add(row.number)
    return found


def _is_sum(table: SheetTable, parent: int, parts: Sequence[int]) -> bool:
    own, *others = (table.figures[table.rows[one].number] for one in (parent, *parts))
    columns = [at for at, figure in enumerate(own) if figure]
    return (
        bool(columns)
        and len(parts) > 1
        and all(own[at] == total(one[at] or ZERO for one in others) for at in columns)
    )
