"""Which lines of a table are the quotient of two others: a margin in per cent, proven by its figures."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from math import log2
from statistics import median

from marvex.core.structure.cost_names import SALES_ABROAD
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import Naming
from marvex.core.values import dataclass

_LARGEST_FRACTION = 2.0  # of a line that has no ratio's name
_LEAST_AMOUNT = 50.0  # of a table's median, beside which a fraction is told from an amount
_LEAST_BITS_NAMED, _LEAST_BITS_MARGIN, _LEAST_BITS = 0.5, 8.0, 14.0
_NOISE = 1e-9  # relative: what a quotient of binary figures is off by
_NAME_ALIKE, _UNDER_SALES = 6.0, 3.0
_OF_PER_CENT = re.compile(r"(?:^|[^\d\s])\s*%\s*\)?\s*$")  # 'Gross margin %', and not 'Rent +5%'
_MARGIN = re.compile(r"\b(?:margin|mark[- ]?up|marge|margen|margine|marginal)$", re.IGNORECASE)
_SALES = re.compile(rf"\b(?:sales|revenues?|turnover|income|fares|{SALES_ABROAD})\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class RatioFound:
    """A line as the one line by the other; in hundredths where its figures are written so."""

    line: int
    over: int
    under: int
    bits: float


def could_be_ratio(figures: TableFigures, line: int) -> bool:
    """Whether a line may hold quotients: by its name, its cells, or figures that are small beside the amounts."""
    one = figures.lines[line]
    sizes = [abs(float(figure)) for figure in one.figures if figure is not None]
    if not sizes:
        return False
    if (
        one.is_percent
        or _OF_PER_CENT.search(one.label)
        or (one.naming is Naming.RATIO and _are_small(sizes, figures, 20.0))
    ):
        return True
    has_decimals = any(figure != int(figure) for figure in one.figures if figure is not None)
    return has_decimals and max(sizes) < _LARGEST_FRACTION and _are_small(sizes, figures, _LEAST_AMOUNT)


def may_be_margin(figures: TableFigures, line: int) -> bool:
    """Whether a line that is an amount by its name may be one in hundredths of another: 'Gross margin' of 66.2."""
    sizes = [abs(float(figure)) for figure in figures.lines[line].figures if figure is not None]
    return bool(sizes) and _MARGIN.search(figures.lines[line].label) is not None and _are_small(sizes, figures, 20.0)


def _are_small(sizes: Sequence[float], figures: TableFigures, times: float) -> bool:
    if max(sizes) <= _LARGEST_FRACTION:
        return True
    amounts = [
        abs(float(figure))
        for line in figures.lines
        if line.naming is not Naming.RATIO and not line.is_percent
        for figure in line.figures
        if figure
    ]
    return bool(amounts) and times * max(sizes) <= median(amounts) * 20.0 and max(sizes) <= 1000


def ratio_of(figures: TableFigures, line: int, among: Sequence[int]) -> RatioFound | None:
    """The two lines that a line is the quotient of, by the figures and then by the names; None where none are."""
    one = figures.lines[line]
    columns = [column for column in figures.told(line) if one.figures[column]]
    if not columns or len(among) < 2:
        return None
    is_named = one.naming is Naming.RATIO or one.is_percent
    # Where its name says what is divided, there are only so many lines to divide by.
    costs = [log2(2 * len(among) * (1 if is_named_after else len(among) - 1)) for is_named_after in (True, False)]

    def cost(over: int, under: int) -> float:
        if not is_named and _is_margin_of(figures.lines, line, over, under):
            return 1.0
        return costs[not _is_of(figures.lines, line, over)]

    found = [
        RatioFound(line=line, over=over, under=under, bits=bits - cost(over, under))
        for factor in (1, 100)
        for over, under, bits in _pairs(figures, line, among, columns, factor)
    ]
    least = _LEAST_BITS_NAMED if is_named else _LEAST_BITS_MARGIN if _MARGIN.search(one.label) else _LEAST_BITS
    proven = [each for each in found if each.bits >= least]
    if not proven and is_named:
        # Where its name says what is divided, and one line alone serves to divide by, few digits are enough.
        named = [each for each in found if _is_of(figures.lines, line, each.over)]
        proven = named if len(named) == 1 else []
    return max(proven, key=lambda each: (_by_name(figures.lines, each), -each.under, -each.over), default=None)


def _pairs(
    figures: TableFigures, line: int, among: Sequence[int], columns: Sequence[int], factor: int
) -> list[tuple[int, int, float]]:
    """The pairs whose quotient the line is in all its columns, with the evidence."""
    values = {column: float(figures.lines[line].figures[column] or 0) / factor for column in columns}
    least = max(figures_decimals(figures.lines[line]), 0)
    half = 0.5 * 10.0**-least / factor
    first = max(columns, key=lambda column: abs(values[column]))
    ordered = sorted((float(figures.filled[place][first]), place) for place in among)
    sizes = [size for size, _ in ordered]
    found = []
    for under in among:
        below = float(figures.filled[under][first])
        if not below:
            continue
        ends = sorted((values[first] + way * (half + _NOISE)) * below for way in (-1, 1))
        for _, over in ordered[bisect_left(sizes, ends[0]) : bisect_right(sizes, ends[1])]:
            if over != under and _holds(figures, (over, under), values, half):
                bits = sum(
                    figures.independence(column) * max(0.0, log2(abs(value) / (2 * half)))
                    for column, value in values.items()
                    if value
                )
                found.append((over, under, bits))
    return found


def _holds(figures: TableFigures, pair: tuple[int, int], values: dict[int, float], half: float) -> bool:
    for column, value in values.items():
        over, under = (figures.filled[place][column] for place in pair)
        if not under or abs(over / under - value) > half * (1 + _NOISE) + _NOISE * abs(value):
            return False
    return True


def figures_decimals(line: TableLine) -> int:
    """The most decimals that a line's figures have."""
    exponents = [figure.as_tuple().exponent for figure in line.figures if figure is not None]
    return max((-one for one in exponents if isinstance(one, int)), default=0)


def _by_name(lines: Sequence[TableLine], one: RatioFound) -> float:
    """The evidence with that of the names: 'Gross margin %' is of Gross margin, and of sales."""
    own, over = (_words(lines[place].label) for place in (one.line, one.over))
    alike = _NAME_ALIKE * len(own & over) / max(1, len(own | over))
    is_of_sales = _SALES.search(lines[one.under].label) is not None or lines[one.under].naming is Naming.TOTAL
    return one.bits + alike + (_UNDER_SALES if is_of_sales else 0.0)


def _is_of(lines: Sequence[TableLine], line: int, over: int) -> bool:
    own, of = _words(lines[line].label), _words(lines[over].label)
    return bool(of) and of <= own


def _is_margin_of(lines: Sequence[TableLine], line: int, over: int, under: int) -> bool:
    """Whether names say a margin: 'Gross margin' of Gross profit and sales."""
    own, of = (_words(lines[place].label) - {"margin", "profit", "result", "income"} for place in (line, over))
    is_margin = _MARGIN.search(lines[line].label) is not None
    return is_margin and bool(own) and own == of and _SALES.search(lines[under].label) is not None


def _words(label: str) -> set[str]:
    return set(re.findall(r"\w+", label.casefold())) - {"ratio", "percent", "of", "in", "as"}
