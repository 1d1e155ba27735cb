"""Totals of groups, in a table whose rows name their groups in columns of their own, as pivot tables do.

Such a total names its group and leaves the columns within empty, with or without the word: which rows it is of needs no
search.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Mapping, Sequence
from decimal import Decimal
from itertools import pairwise, permutations

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
_NEAR = Decimal("0.02")  # of the sum, within which a row without a name is taken for a wrong one
_LATEST = 12  # sums, of which a row may be the difference of two
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
    wrong = next((at for at in unnamed if at not in found), None)
    if wrong is None and _is_beyond_chance(table, found, lines):
        return {
            rows[at].number: (rows[at].cells[label] or NO_NAME, rows[first].number, rows[last].number)
            for at, (first, last) in found.items()
        }
    own = rows[unnamed[0]].cells[label] or NO_NAME
    ways = (
        f"{setting('where', f'{table.headings[label]}!={own}')} leaves out what has none, "
        f"{setting('totals', 'keep')} keeps it."
    )
    if 2 * len(found) < len(unnamed):  # of many, some come to what stands before them by chance
        if len(unnamed) == 1 and (apart := _nearly_of_all(table, unnamed[0], lines)):
            raise Mistake(
                f"{table.name}, row {rows[unnamed[0]].number} has no name, and is {apart}", f"Mend it; or {ways}"
            )
        return {}
    at, (first, last) = next(iter(found.items()))
    its = f"is the sum of rows {rows[first].number}–{rows[last].number}"
    if wrong is None:
        raise Mistake(f"{table.name}, row {rows[at].number} has no name, and {its}", ways)
    where = f"{table.name}, row {rows[wrong].number} has no name"
    if both := _difference_of(table, wrong, [*found]):
        one, other = (rows[place].number for place in both)
        raise Mistake(
            f"{where}, and is row {one} less row {other}, which have none either",
            f"Name them, such as Total income, Total costs and Profit, which make a statement; {ways}",
        )
    raise Mistake(f"{where}, as row {rows[at].number} has, which {its}, and is no such sum", ways)


def _nearly_of_all(table: SheetTable, place: int, lines: Sequence[int]) -> str:
    """By how much a row misses what all lines come to, where it is near in each column; empty where it is not."""
    told = []
    for column, figure in enumerate(table.figures[table.rows[place].number]):
        of_all = total(one for at in lines if (one := table.figures[table.rows[at].number][column]) is not None)
        if figure is None or not of_all:
            continue
        if abs(figure - of_all) > _NEAR * abs(of_all):
            return ""
        if figure != of_all:
            heading = table.headings[table.places[column]]
            told.append(f"{figure:,} in {heading}, where all others come to {of_all:,}")
    return told[0] if told else ""


def _difference_of(table: SheetTable, place: int, sums: Sequence[int]) -> tuple[int, int] | None:
    """The two sums that a row is the difference of; None where it is of none."""
    own = table.figures[table.rows[place].number]
    for one, other in permutations([at for at in sums if at < place][-_LATEST:], 2):
        pairs = zip(*(table.figures[table.rows[at].number] for at in (one, other)), strict=True)
        left = [EXACT.subtract(whole or ZERO, part or ZERO) for whole, part in pairs]
        if all(figure is None or figure == its for figure, its in zip(own, left, strict=True)):
            return one, other
    return None


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
