"""Rows that the paths of their names and their figures set below another: 'Fares:Adult', 'Fares:Child' of 'Fares'."""

from __future__ import annotations

from dataclasses import replace

from marvex.core.exact import ZERO, total
from marvex.core.structure.parents import below_by_path
from marvex.sources.readers.grid import BLANKS
from marvex.sources.readers.sheet_table import SheetTable


def set_in_by_paths(table: SheetTable) -> SheetTable:
    """The table with the rows set in whose names go on from that of a row which is their sum, in all columns.

    A row that is not keeps what was posted to it alone. Where rows are set in already, that says more.
    """
    if len({row.indent for row in table.rows}) != 1:
        return table
    deep = [0] * len(table.rows)
    for place in range(len(table.headings)):
        if place in table.places:
            continue
        below = below_by_path([row.cells[place] for row in table.rows])
        for parent, found in below.items():
            within = {one for other in found for one in below.get(other, ())}
            if _is_sum(table, parent, [one for one in found if one not in within]):
                for one in found:
                    deep[one] += BLANKS
    if not any(deep):
        return table
    rows = (replace(row, indent=row.indent + its) for row, its in zip(table.rows, deep, strict=True))
    return replace(table, rows=tuple(rows))


def _is_sum(table: SheetTable, parent: int, parts: list[int]) -> bool:
    own, *others = (table.figures[table.rows[one].number] for one in (parent, *parts))
    columns = [at for at, figure in enumerate(own) if figure]
    return (
        bool(columns)
        and len(parts) > 1
        and all(own[at] == total(one[at] or ZERO for one in others) for at in columns)
    )
