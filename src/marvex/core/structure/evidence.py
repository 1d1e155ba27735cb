"""How much a sum that holds says: the evidence of an equation between the lines of a table, in bits.

A sum of figures of four digits meets another by chance once in ten thousand times, one of figures that are all
round hundreds far more often. So what counts is not how many parts or columns agree, but how unlikely that was.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Sequence
from decimal import Decimal
from math import log2, sqrt
from statistics import median

from marvex.core.structure.total_names import Naming
from marvex.core.values import dataclass

_STEPS = (1, 5)  # times a power of ten: 1, 5, 10, 50, 100 …
_MOST = 0.8  # of a column's figures, which its granularity divides
_DEVIATION_OF_INDEPENDENT = 1.5  # times the median relative deviation is how far a column stands for itself
_COLUMNS_COMPARED, _ROWS_COMPARED = 24, 100
_DEVIATIONS = 6  # which chance exceeds once in a thousand million
_ENOUGH = 120.0  # bits, beyond which more columns tell nothing new
_WEIGHT_BITS = 62  # of the weights under which all columns of a line are one number


@dataclass(frozen=True, slots=True, kw_only=True)
class TableLine:
    """One line of a table: a row, or a column with its rows as figures.

    Parameters
    ----------
    label : its name.
    figures : one of each column; None where a cell has none.
    naming : what its name says of it.
    indent : how far it is set in.
    heads_block : a heading or a blank line stands before it.
    is_percent : its cells are written in per cent.
    """

    label: str
    figures: tuple[Decimal | None, ...]
    naming: Naming = Naming.NONE
    indent: int = 0
    heads_block: bool = False
    is_percent: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """How well parts come to a line: the largest difference in units of the least digit, and the evidence.

    Parameters
    ----------
    off : by how much the line exceeds its parts in each column where it does, in the table's figures.
    """

    bits: float
    most_off: int
    off: tuple[tuple[int, Decimal], ...] = ()


class TableFigures:
    """The figures of a table as whole numbers of one scale, and what each column's evidence is worth."""

    def __init__(self, lines: Sequence[TableLine]) -> None:
        self.lines = lines
        self.width = max((len(line.figures) for line in lines), default=0)
        amounts = [line for line in lines if line.naming is not Naming.RATIO and not line.is_percent] or list(lines)
        self.decimals = max((_decimals(one) for line in lines for one in line.figures if one is not None), default=0)
        least = _usual_decimals([one for line in amounts for one in line.figures if one])
        self.unit = 10 ** (self.decimals - least)  # of the table's least digit
        self.whole = [
            tuple(None if one is None else int(one.scaleb(self.decimals)) for one in line.figures) for line in lines
        ]
        self._told = [
            tuple(column for column, figure in enumerate(figures) if figure is not None) for figures in self.whole
        ]
        self.filled = [tuple(one or 0 for one in figures) for figures in self.whole]
        self.granularity = [self._granularity(column, amounts) for column in range(self.width)]
        weights = random.Random(self.width)  # the same at every run
        self._weights = [weights.getrandbits(_WEIGHT_BITS) | 1 for _ in range(self.width)]
        self._independence: dict[int, float] = {}
        self._stride = max(1, len(lines) // _ROWS_COMPARED)
        self._masked: dict[tuple[int, ...], list[int]] = {}

    def independence(self, column: int) -> float:
        """How far a column stands for itself: a copy of another, or one in proportion to it, adds nothing."""
        if column not in self._independence:
            own = self._sampled(column)
            before = range(max(0, column - _COLUMNS_COMPARED), column)
            apart = (_DEVIATION_OF_INDEPENDENT * _deviation(own, self._sampled(other)) for other in before)
            self._independence[column] = min(apart, default=1.0)
        return min(1.0, self._independence[column])

    def _sampled(self, column: int) -> list[int]:
        return [row[column] for row in self.filled[:: self._stride]]

    def told(self, line: int) -> tuple[int, ...]:
        """The columns in which a line has a figure."""
        return self._told[line]

    def are_of_one_sign(self, line: int, parts: Sequence[int]) -> bool:
        """Whether parts of a line are all positive, or all negative, where it has a figure."""
        values = [self.filled[place][column] for place in parts for column in self.told(line)]
        return min(values) >= 0 or max(values) <= 0

    def as_one(self, columns: tuple[int, ...]) -> list[int]:
        """All lines with their columns as one number each: sums that hold in all columns hold in these."""
        if columns not in self._masked:
            weights = [(column, self._weights[column]) for column in columns]
            self._masked[columns] = [sum(row[column] * weight for column, weight in weights) for row in self.filled]
        return self._masked[columns]

    def room(self, parts: int) -> int:
        """How far rounding may move the sum of so many figures: half a unit each.

        More than a dozen do not all err one way: of them six standard deviations of a sum of errors that are spread
        evenly over a unit, √(parts ÷ 12).
        """
        return int(min(parts / 2, _DEVIATIONS * sqrt(parts / 12)) * self.unit)

    def fit(self, line: int, parts: Sequence[tuple[int, int]]) -> Fit | None:
        """How well signed lines come to a line; None where they do not, within what rounding may move.

        Parameters
        ----------
        parts : their places, each with the sign with which it counts.
        """
        off: list[tuple[int, int]] = []
        room = self.room(len(parts))
        for column in self.told(line):
            apart = self.filled[line][column] - sum(sign * self.filled[place][column] for place, sign in parts)
            if abs(apart) > room:
                return None
            if apart:
                off.append((column, apart))
        most_off = max((abs(apart) for _, apart in off), default=0)
        units = -(-most_off // self.unit)
        return Fit(
            bits=self.evidence(line, parts, self.told(line), units),
            most_off=units,
            off=tuple((column, Decimal(apart).scaleb(-self.decimals)) for column, apart in off),
        )

    def evidence(self, line: int, parts: Sequence[tuple[int, int]], columns: Sequence[int], units: int = 0) -> float:
        """The bits of evidence that signed lines come to a line in some columns, to some units of the least digit."""
        bits = 0.0
        involved = [line, *(place for place, _ in parts)][:_ROWS_COMPARED]
        first: list[int] | None = None  # the lines' figures in the first column that tells something
        for column in columns:
            if bits > _ENOUGH:
                break
            counted = [sign * self.filled[place][column] for place, sign in parts if self.filled[place][column]]
            sizes = [abs(one) for one in counted]
            is_total = self.lines[line].naming.is_total
            # What takes itself back, as accruals and credits do, leaves a line that is the same as another; twice
            # another is a return ticket beside single ones.
            says_less = not is_total and len(parts) > 1 and (_left_of(counted) < 2 or len(set(counted)) == 1)
            if says_less or len(sizes) < min(2, len(parts)):
                continue
            size = abs(self.filled[line][column])
            if is_total:
                size = max(size, *sizes)
            own = [self.filled[place][column] for place in involved]
            apart = self.independence(column)
            if first is not None:
                apart = min(apart, _DEVIATION_OF_INDEPENDENT * _deviation(own, first, least=2))
            first = first or own
            chance = size * apart / ((2 * units + 1) * self.granularity[column])
            bits += max(0.0, log2(chance)) if chance > 0 else 0.0
        return min(bits, _ENOUGH)

    def _granularity(self, column: int, lines: Sequence[TableLine]) -> int:
        figures = [
            abs(int(line.figures[column].scaleb(self.decimals)))  # type: ignore[union-attr]
            for line in lines
            if column < len(line.figures) and line.figures[column]
        ]
        return granularity(figures, self.unit)


def _left_of(figures: Sequence[int]) -> int:
    """How many of some figures remain where each takes one of the other sign with it.

    >>> _left_of([40, -40, 7, 7, -40])
    3
    """
    counts = Counter(figures)
    return sum(max(0, count - counts[-figure]) for figure, count in counts.items())


def granularity(figures: Sequence[int], unit: int = 1) -> int:
    """The largest of 1, 5, 10, 50, 100 … units that divides at least four fifths of the figures.

    >>> granularity([5200, 2100, 4600, 3000, 17])
    100
    """
    found = unit
    for power in range(16):
        for step in _STEPS:
            one = step * 10**power * unit
            if not figures or sum(figure % one == 0 for figure in figures) < _MOST * len(figures):
                return found
            found = one
    return found


def _decimals(figure: Decimal) -> int:
    exponent = figure.normalize().as_tuple().exponent
    return max(0, -exponent) if isinstance(exponent, int) else 0


def _usual_decimals(figures: Sequence[Decimal]) -> int:
    """The decimals that four fifths of the figures do with: a ratio among amounts has more."""
    counted = Counter(_decimals(one) for one in figures)
    so_far = 0
    for decimals in sorted(counted):
        so_far += counted[decimals]
        if so_far >= _MOST * len(figures):
            return decimals
    return 0


def _deviation(column: Sequence[int], other: Sequence[int], least: int = 3) -> float:
    """The median relative deviation of the ratios of two columns' rows from their median."""
    ratios = [one / two for one, two in zip(column, other, strict=True) if one and two]
    if len(ratios) < least:
        return 1.0
    middle = median(ratios)
    return median(abs(one / middle - 1) for one in ratios) if middle else 1.0
