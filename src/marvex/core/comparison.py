"""Two sides set against each other: cells in, points out.

A `Span` is what a source is asked for: one scenario between two days. A `Cell` is its answer
for one category. A `Point` is one category with both sides, absent where there are no rows.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.exact import ZERO, change_ratio, difference, total
from marvex.core.period import Window

TOTAL_NAME = re.compile(r"\b(grand\s+)?(sub-?\s?)?(total|totals|sum)\b", re.IGNORECASE)


class Better(Enum):
    """The direction that is good news for an amount."""

    UP = "up"
    DOWN = "down"


class Kind(Enum):
    """What a point is; the last four are the ones of a waterfall."""

    POINT = "point"
    TOTAL = "total"
    OPENING = "opening"
    STEP = "step"
    SUBTOTAL = "subtotal"
    CLOSING = "closing"


class State(Enum):
    """Whether both sides are there, and whether a ratio means anything."""

    OK = "ok"
    NOT_MEANINGFUL = "n/m"
    NEW = "new"
    ENDED = "ended"


@dataclass(frozen=True, slots=True)
class Span:
    """One scenario between two days, both included; None where the table has no such column."""

    scenario: str | None
    first: date | None
    last: date | None


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a comparison: a scenario in a window, None where the table has no such column."""

    scenario: str | None
    window: Window | None

    @property
    def span(self) -> Span:
        if self.window is None:
            return Span(self.scenario, None, None)
        return Span(self.scenario, self.window.first, self.window.end)


@dataclass(frozen=True, slots=True)
class Cell:
    """The exact total of one category in one span, and how many rows it is made of (at least one).

    `row` is the row's own number where each row of a list is a category of its own.
    """

    category: str
    amount: Decimal
    rows: int
    row: int | None = None

    @property
    def key(self) -> tuple[int | None, str]:
        return self.row, self.category


@dataclass(frozen=True, slots=True)
class Point:
    """One category (or a total) with its two sides; None is absent, never zero."""

    label: str
    current: Decimal | None
    base: Decimal | None
    kind: Kind = Kind.POINT
    gathered: int = 0  # how many categories "Other" stands for; 0 for a category of its own
    row: int | None = None  # the row's own number where each row of a list is a category

    @property
    def key(self) -> tuple[int | None, str]:
        return self.row, self.label

    @property
    def is_ranked(self) -> bool:
        """Whether it counts in share and rank: neither a total nor Other."""
        return self.kind in (Kind.POINT, Kind.STEP) and not self.gathered

    @property
    def change(self) -> Decimal | None:
        if self.current is None or self.base is None:
            return None
        return difference(self.current, self.base)

    @property
    def movement(self) -> Decimal:
        """The change where an absent side counts as nothing: what the point adds to a total."""
        return difference(self.current or ZERO, self.base or ZERO)

    @property
    def change_ratio(self) -> Fraction | None:
        if self.current is None or self.base is None:
            return None
        return change_ratio(self.current, self.base)

    @property
    def state(self) -> State:
        if self.base is None:
            return State.NEW
        if self.current is None:
            return State.ENDED
        return State.OK if self.base else State.NOT_MEANINGFUL

    def as_though_zero(self) -> Point:
        """The same point with an absent side counted as nothing, as a waterfall's step is judged."""
        return replace(self, current=self.current or ZERO, base=self.base or ZERO)


@dataclass(frozen=True, slots=True)
class Comparison:
    """All points of one comparison, in order, with their total."""

    current: Side
    base: Side | None
    points: tuple[Point, ...]
    total: Point

    @property
    def absent(self) -> tuple[Point, ...]:
        """The points that have one side only, where there is a base at all."""
        if self.base is None:
            return ()
        return tuple(point for point in self.points if point.state in (State.NEW, State.ENDED))


def compare(
    current: Side,
    base: Side | None,
    cells_of_current: Sequence[Cell],
    cells_of_base: Sequence[Cell],
    appearance: Sequence[tuple[int | None, str]],
    whole: Point | None = None,
) -> Comparison:
    """Points for every category that has a cell on either side, in the order given.

    Parameters
    ----------
    appearance : the keys of all cells, in the order in which the source gives them.
    whole : the total, where figures do not add up to it; otherwise it is their sum.

    >>> sides = Side("actual", None), Side("budget", None)
    >>> fuel = Cell("Fuel", Decimal(77), 1), Cell("Fuel", Decimal(70), 1)
    >>> compare(*sides, [fuel[0]], [fuel[1]], [(None, "Fuel")]).points[0].change_ratio
    Fraction(1, 10)
    """
    now = {cell.key: cell.amount for cell in cells_of_current}
    then = {cell.key: cell.amount for cell in cells_of_base}
    points = tuple(
        Point(key[1], now.get(key), then.get(key), row=key[0]) for key in appearance if key in now or key in then
    )
    return Comparison(current, base, points, whole or total_of(points))


def hidden_total(points: Sequence[Point]) -> Point | None:
    """The point that is named a total and is the sum of all others on both sides, if there is one.

    >>> one, two = (Point(name, Decimal(3), None) for name in ("North", "Total"))
    >>> hidden_total([one, two]).label
    'Total'
    """
    for point in points:
        others = total_of(other for other in points if other is not point)
        same = (point.current, point.base) == (others.current, others.base)
        if TOTAL_NAME.fullmatch(point.label) and len(points) > 1 and same:
            return point
    return None


def total_of(points: Iterable[Point], label: str = "Total", kind: Kind = Kind.TOTAL) -> Point:
    """The points added up; a side is absent only where it is so in all of them."""
    all_points = tuple(points)
    return Point(
        label,
        _total_or_absent(point.current for point in all_points),
        _total_or_absent(point.base for point in all_points),
        kind,
    )


def _total_or_absent(amounts: Iterable[Decimal | None]) -> Decimal | None:
    present = [amount for amount in amounts if amount is not None]
    return total(present) if present else None
