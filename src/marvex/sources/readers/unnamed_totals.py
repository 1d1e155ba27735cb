"""Totals that nothing names, found by what the rows around them come to; in tables of any kind."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from decimal import Decimal
from itertools import pairwise, permutations

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import naming
from marvex.sources.readers.sheet_table import SheetTable

_NO_NAME = " -–—."
_NEAR = Decimal("0.02")  # of the sum, within which a row without a name is taken for a wrong one
_LATEST = 12  # sums, of which a row may be the difference of two
_LEAST_BITS = 1.0  # of all totals together
_MOST_WEIGHED = 2_000  # rows: sums of more are no chance


def totals_without_name(table: SheetTable, texts: Sequence[int], label: int) -> dict[int, tuple[str, int, int]]:
    """The rows that nothing names and that are totals: each with its name and the first and the last row that it is of,
    by numbers: of those since the last such row, or of all that are named.

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
    if len(table.rows) > _MOST_WEIGHED:
        return True
    figures = TableFigures([TableLine(label="", figures=tuple(table.figures[row.number])) for row in table.rows])
    fits = (figures.fit(at, [(one, 1) for one in lines if ends[0] <= one <= ends[1]]) for at, ends in found.items())
    return sum(fit.bits for fit in fits if fit is not None) >= _LEAST_BITS
