"""Totals of groups, in a table whose rows name their groups in columns of their own, as pivot tables do.

Such a total names its group and leaves the columns within empty, with or without the word: which rows it is of needs no
search.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from decimal import Decimal

from marvex.core.errors import Mistake, setting
from marvex.core.exact import total
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import is_total_name, naming
from marvex.sources.numbering import is_side
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable

_LEAST_BITS = 12.0  # of all totals together, where no word says that they are such
_MOST_DATED = 2_000  # rows of a pivot table
_ALL = "all"  # what a total is called that has no name at all


def group_totals(table: SheetTable, texts: Sequence[int]) -> dict[int, tuple[str, int, int]]:
    """The rows that are totals of groups: each with its name and the first and the last row that it is of, by numbers.

    None where some row that is called a total of a group, or is named like one, is not just that.

    Parameters
    ----------
    texts : the columns that hold names.
    """
    named = _found(table.rows, table, texts, says_total=True)
    if named:
        return named
    # The rows of a query with roll-ups: what they are of has no name, and stands before them or after.
    texts = sorted((*texts, *_codes(table)))
    return _found(table.rows, table, texts, says_total=False) or _found(
        table.rows[::-1], table, texts, says_total=False
    )


def _codes(table: SheetTable) -> list[int]:
    """The columns of whole numbers beside amounts of periods or sides of which some cells are empty: routes, and their
    totals.
    """
    others = [place for place in table.places if not is_side(table.headings[place])]
    if len(table.places) - len(others) < 2:
        return []
    filled = {place: [cell for row in table.rows if (cell := row.cells[place])] for place in others}
    return [
        place for place, cells in filled.items() if len(cells) < len(table.rows) and all(map(str.isdecimal, cells))
    ]


def totals_below_dated(
    table: SheetTable, texts: Sequence[int], kept: Collection[str]
) -> dict[int, tuple[str, int, int]]:
    """The same of dated rows: of groups, and of the last rows, which have no date nor any name but a total's, and are
    the sum of all others.

    Parameters
    ----------
    texts : the columns that hold names, and those that hold dates.
    kept : the names of rows that a call names.

    Raises Mistake where such a row is not that sum.
    """
    rows = list(table.rows)
    of_groups = _found(rows, table, texts, says_total=True) if len(rows) <= _MOST_DATED else {}
    if of_groups and {*kept}.isdisjoint(name for name, *_ in of_groups.values()):
        return of_groups
    last: list[tuple[SheetRow, str]] = []
    while len(rows) > 2:
        names = [cell for place in texts if (cell := rows[-1].cells[place])]
        if len(names) != 1 or not is_total_name(names[0]) or names[0] in kept:
            break
        last.append((rows.pop(), names[0]))
    totals = [any(naming(row.cells[place]).is_total for place in texts) for row in rows]
    plain = [row for row, is_total in zip(rows, totals, strict=True) if not is_total]
    block = rows[len(rows) - totals[::-1].index(True) :] if True in totals else rows
    found: dict[int, tuple[str, int, int]] = {}
    for row, name in last:
        figures = table.figures[row.number]
        of = next((of for of in (plain, block, rows) if of and _come_to(table, of, figures)), None)
        if of is None:
            at = next(at for at, its in enumerate(_sums(table, rows)) if figures[at] not in (None, its))
            raise Mistake(
                f"{table.name}, row {row.number} '{name}' is {figures[at]:,}, but the rows before it come to "
                f"{_sums(table, rows)[at]:,}",
                f"Mend the table, or take the row out of it; {setting('totals', 'keep')} keeps it.",
            )
        found[row.number] = name, of[0].number, of[-1].number
    return found


def _come_to(table: SheetTable, rows: Sequence[SheetRow], figures: Sequence[Decimal | None]) -> bool:
    return all(figure in (None, its) for figure, its in zip(figures, _sums(table, rows), strict=True))


def _sums(table: SheetTable, rows: Sequence[SheetRow]) -> list[Decimal]:
    return [
        total(figure for row in rows if (figure := table.figures[row.number][at]) is not None)
        for at in range(len(table.places))
    ]


def _found(
    rows: Sequence[SheetRow], table: SheetTable, texts: Sequence[int], *, says_total: bool
) -> dict[int, tuple[str, int, int]]:
    levels = [_level([row.cells[place] for place in texts], says_total=says_total) for row in rows]
    if len(texts) < 2 or not any(level is not None for level in levels):
        return {}
    figures = TableFigures([TableLine(label="", figures=tuple(table.figures[row.number])) for row in rows])
    found: dict[int, tuple[str, int, int]] = {}
    bits = 0.0
    for at, (row, level) in enumerate(zip(rows, levels, strict=True)):
        if level is None:
            if any(naming(row.cells[place]).is_total for place in texts if row.cells[place]):
                return {}  # a result among names, which is no total of a group
            continue
        ends = (one for one in range(at - 1, -1, -1) if (its := levels[one]) is not None and its <= level)
        within = texts[: level if says_total else level + 1]  # the columns of the groups that it is in
        beside = [one for one in range(at) if levels[one] is None and _are_in_one(rows[one], row, within)]
        # What comes right after a total of its own level is the total of all.
        start = next(ends, -1)
        parts = [one for one in beside if one > start] or beside
        fit = figures.fit(at, [(one, 1) for one in parts])
        if not parts or fit is None or fit.off:
            return {}
        bits += fit.bits
        names = [cell for place in texts if (cell := row.cells[place]) and (naming(cell).is_total or not says_total)]
        of = [rows[one].number for one in parts]
        found[row.number] = (names or [_ALL])[-1], min(of), max(of)
    return found if says_total or bits >= _LEAST_BITS else {}


def _are_in_one(row: SheetRow, whole: SheetRow, places: Sequence[int]) -> bool:
    """Whether a row is in all groups that a total's row names."""
    return all(whole.cells[place] in ("", row.cells[place]) for place in places)


def _level(cells: Sequence[str], *, says_total: bool) -> int | None:
    """The place of the last name before empty cells, or before all; None where the cells name no total of a group."""
    filled = [place for place, cell in enumerate(cells) if cell]
    last = filled[-1] if filled else -1
    if last == len(cells) - 1 or (says_total and not (filled and naming(cells[last]).is_total)):
        return None
    return last
