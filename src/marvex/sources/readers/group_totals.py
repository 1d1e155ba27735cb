"""Totals of groups, in a table whose rows name their groups in columns of their own, as pivot tables do.

Such a total names its group and leaves the columns within empty: which rows it is of needs no search.
"""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import naming
from marvex.sources.readers.sheet_table import SheetTable


def group_totals(table: SheetTable, texts: Sequence[int]) -> dict[int, tuple[str, int, int]]:
    """The rows that are totals of groups: each with its name and the first and the last row that it is of, by numbers.

    None where some row that is called a total of a group is not just that.

    Parameters
    ----------
    texts : the columns that hold names.
    """
    levels = [_level([row.cells[place] for place in texts]) for row in table.rows]
    if len(texts) < 2 or not any(level is not None for level in levels):
        return {}
    lines = [TableLine(label="", figures=tuple(table.figures[row.number])) for row in table.rows]
    figures = TableFigures(lines)
    found: dict[int, tuple[str, int, int]] = {}
    for at, (row, level) in enumerate(zip(table.rows, levels, strict=True)):
        if level is None:
            if any(naming(row.cells[place]).is_total for place in texts if row.cells[place]):
                return {}  # a result among names, which is no total of a group
            continue
        ends = (one for one in range(at - 1, -1, -1) if (its := levels[one]) is not None and its <= level)
        parts = [one for one in range(next(ends, -1) + 1, at) if levels[one] is None]
        # What comes right after a total of its own level is the total of all.
        parts = parts or [one for one in range(at) if levels[one] is None]
        fit = figures.fit(at, [(one, 1) for one in parts])
        if not parts or fit is None or fit.off:
            return {}
        name = next(cell for place in texts if (cell := row.cells[place]) and naming(cell).is_total)
        found[row.number] = name, table.rows[parts[0]].number, table.rows[parts[-1]].number
    return found


def _level(cells: Sequence[str]) -> int | None:
    """The place of a total's name before empty cells; None where the cells name no total of a group."""
    filled = [place for place, cell in enumerate(cells) if cell]
    if not filled or filled[-1] == len(cells) - 1 or not naming(cells[filled[-1]]).is_total:
        return None
    return filled[-1]
