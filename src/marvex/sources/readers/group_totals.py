"""Totals of groups, in a table whose rows name their groups in columns of their own, as pivot tables do.

Such a total names its group and leaves the columns within empty, with or without the word: which rows it is of needs no
search.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Mapping, Sequence
from itertools import pairwise

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import is_total_name, naming
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable

_LEAST_BITS = 12.0  # of all totals together, where no word says that they are such
_MOST_DATED = 2_000  # rows of a pivot table
_NO_NAME = " -–—."
_LEAST_UNNAMED = 1.0  # bits of all totals together, where what they are has no name
_ALL = "all"  # what a total is called that has no name at all


def group_totals(table: SheetTable, texts: Sequence[int]) -> dict[int, tuple[str, int, int]]:
    """The rows that are totals of groups: each with its name and the first and the last row that it is of, by numbers.

    None where some row that is called a total of a group, or is named like one, is not just that.

    Parameters
    ----------
    texts : the columns that hold names.
    """
    named = _found(table.rows, table, texts, says_total=True)
    if named or len(texts) < 2:
        return named
    # The rows of a query with roll-ups: what they are of has no name, and stands before them or after.
    return _found(table.rows, table, texts, says_total=False) or _found(
        table.rows[::-1], table, texts, says_total=False
    )


def totals_without_name(table: SheetTable, texts: Sequence[int], label: int) -> dict[int, tuple[str, int, int]]:
    """The same of rows that nothing names: of those since the last such row, or of all that are named.

    None where none of them is a sum; where most rows have no name, these are lines.

    Parameters
    ----------
    label : the column that names the lines.

    Raises Mistake where some are and others are not, or where it may be chance.
    """
    rows = list(table.rows)
    telling = [place for place in texts if len({row.cells[place] for row in rows}) > 1]
    names = [[cell for place in telling if (cell := row.cells[place]).strip(_NO_NAME)] for row in rows]
    unnamed = [at for at, its in enumerate(names) if not its and any(table.figures[rows[at].number])]
    if not unnamed or 2 * len(unnamed) > len(rows):
        return {}
    lines = [at for at, its in enumerate(names) if its and not any(naming(one).is_total for one in its)]
    found = _sums_among(table, unnamed, lines)
    if 2 * len(found) < len(unnamed):
        return {}  # of many, some come to what stands before them by chance
    wrong = next((at for at in unnamed if at not in found), None)
    if wrong is None and _is_beyond_chance(table, found, lines):
        return {
            rows[at].number: (rows[at].cells[label] or NO_NAME, rows[first].number, rows[last].number)
            for at, (first, last) in found.items()
        }
    at, (first, last) = next(iter(found.items()))
    its = f"the sum of rows {rows[first].number}–{rows[last].number}"
    but = (
        f", as row {rows[at].number} has, which is {its}, and is no such sum"
        if wrong is not None
        else f", and is {its}"
    )
    raise Mistake(
        f"{table.name}, row {rows[at if wrong is None else wrong].number} has no name{but}",
        f"{setting('where', f'{table.headings[label]}!={rows[at].cells[label] or NO_NAME}')} leaves out what has none, "
        f"{setting('totals', 'keep')} keeps it.",
    )


def _sums_among(table: SheetTable, unnamed: Sequence[int], lines: Sequence[int]) -> dict[int, tuple[int, int]]:
    """The rows without a name that are sums, each with the first and the last of the lines that it is of, by places."""
    reached = [[ZERO] * len(table.places)]  # what the lines before each row come to
    counted = {*lines}
    for at, row in enumerate(table.rows):
        more = table.figures[row.number] if at in counted else ()
        reached.append(
            [EXACT.add(sum_, one or ZERO) for sum_, one in zip(reached[-1], more, strict=True)]
            if more
            else reached[-1]
        )
    found: dict[int, tuple[int, int]] = {}
    for since, at in pairwise((-1, *unnamed)):
        own = table.figures[table.rows[at].number]
        for first, end in ((since + 1, at), (0, at), (0, len(table.rows))):
            of = lines[bisect_left(lines, first) : bisect_left(lines, end)]
            sums = [EXACT.subtract(to, before) for to, before in zip(reached[end], reached[first], strict=True)]
            if of and all(one is None or one == its for one, its in zip(own, sums, strict=True)):
                found[at] = of[0], of[-1]
                break
    return found


def _is_beyond_chance(table: SheetTable, found: Mapping[int, tuple[int, int]], lines: Sequence[int]) -> bool:
    """Whether sums say enough together for what has no name to be totals; those of very many rows do."""
    if len(table.rows) > _MOST_DATED:
        return True
    figures = TableFigures([TableLine(label="", figures=tuple(table.figures[row.number])) for row in table.rows])
    fits = (figures.fit(at, [(one, 1) for one in lines if ends[0] <= one <= ends[1]]) for at, ends in found.items())
    return sum(fit.bits for fit in fits if fit is not None) >= _LEAST_UNNAMED


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
    found: dict[int, tuple[str, int, int]] = {}
    rows = list(table.rows)
    of_groups = _found(rows, table, texts, says_total=True) if len(rows) <= _MOST_DATED else {}
    if of_groups and {*kept}.isdisjoint(name for name, *_ in of_groups.values()):
        return of_groups
    while len(rows) > 2:
        names = [cell for place in texts if (cell := rows[-1].cells[place])]
        if len(names) != 1 or not is_total_name(names[0]) or names[0] in kept:
            break
        found[rows.pop().number] = names[0], rows[0].number, 0
    sums = [
        total(figure for row in rows if (figure := table.figures[row.number][at]) is not None)
        for at in range(len(table.places))
    ]
    for number, (name, *_) in found.items():
        for figure, of_all in zip(table.figures[number], sums, strict=True):
            if figure is not None and figure != of_all:
                raise Mistake(
                    f"{table.name}, row {number} '{name}' is {figure:,}, but the rows before it come to {of_all:,}",
                    f"Mend the table, or take the row out of it; {setting('totals', 'keep')} keeps it.",
                )
    return {one: (name, first, rows[-1].number) for one, (name, first, _) in found.items()}


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
        parts = [one for one in range(next(ends, -1) + 1, at) if levels[one] is None]
        # What comes right after a total of its own level is the total of all.
        parts = parts or [one for one in range(at) if levels[one] is None]
        fit = figures.fit(at, [(one, 1) for one in parts])
        if not parts or fit is None or fit.off:
            return {}
        bits += fit.bits
        names = [cell for place in texts if (cell := row.cells[place]) and (naming(cell).is_total or not says_total)]
        of = [rows[one].number for one in parts]
        found[row.number] = (names or [_ALL])[-1], min(of), max(of)
    return found if says_total or bits >= _LEAST_BITS else {}


def _level(cells: Sequence[str], *, says_total: bool) -> int | None:
    """The place of the last name before empty cells, or before all; None where the cells name no total of a group."""
    filled = [place for place, cell in enumerate(cells) if cell]
    last = filled[-1] if filled else -1
    if last == len(cells) - 1 or (says_total and not (filled and naming(cells[last]).is_total)):
        return None
    return last
