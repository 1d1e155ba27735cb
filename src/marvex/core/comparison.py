"""Two sides set against each other: cells in, points out.

A `Span` is what a source is asked for: one scenario between two days. A `Cell` is its answer
for one category. A `Point` is one category with both sides, absent where there are no rows.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.calendar import Grain
from marvex.core.exact import EXACT, ZERO, change_ratio, difference, total
from marvex.core.frozen import frozen
from marvex.core.period import Window

TOTAL_NAME = re.compile(r"\b(grand\s+)?(sub-?\s?)?(total|totals|sum)\b", re.IGNORECASE)


class Better(Enum):
    """The direction that is good news for an amount."""

    UP = "up"
    DOWN = "down"


class Kind(Enum):
    """What a point is; the last four are the ones of a waterfall."""

    POINT = "point"
    LINE = "line"
    TOTAL = "total"
    RATIO = "ratio"
    OPENING = "opening"
    STEP = "step"
    SUBTOTAL = "subtotal"
    CLOSING = "closing"


STANDING = (Kind.OPENING, Kind.SUBTOTAL, Kind.CLOSING)  # the bars of a waterfall that stand on zero


class State(Enum):
    """Whether both sides are there, and whether a ratio means anything."""

    OK = "ok"
    NOT_MEANINGFUL = "n/m"
    NEW = "new"
    ENDED = "ended"
    NO_BASE = "no base"
    NO_CURRENT = "no current"


class Basis(Enum):
    """What the current side is measured against."""

    NONE = "none"
    SCENARIO = "scenario"
    PRIOR = "prior"
    YEAR_AGO = "year-ago"
    WINDOW = "window"


@frozen
class Stretch:
    """One scenario between two days, both included; None where the table has no such column."""

    scenario: str | None
    first: date | None = None
    last: date | None = None

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1 if self.first and self.last else 0


@frozen
class Span:
    """What a source is asked for as one figure: one stretch, or several that do not overlap."""

    stretches: tuple[Stretch, ...]

    @property
    def days(self) -> int:
        return sum(one.days for one in self.stretches)


@frozen
class Side:
    """One side of a comparison: a scenario in a window, None where the table has no such column.

    Parameters
    ----------
    stretches : what it is made of, where that is not the scenario in the whole of the window.
    """

    scenario: str | None
    window: Window | None
    stretches: tuple[Stretch, ...] = ()

    @property
    def span(self) -> Span:
        if self.stretches:
            return Span(self.stretches)
        if self.window is None:
            return Span((Stretch(self.scenario),))
        return Span((Stretch(self.scenario, self.window.first, self.window.end),))

    @property
    def first(self) -> date | None:
        return self.window.first if self.window else None

    @property
    def last(self) -> date | None:
        return self.window.end if self.window else None

    @property
    def goes_on(self) -> bool:
        """Whether it is what follows the actuals in an outlook."""
        return (
            bool(self.stretches) and self.scenario != self.in_use and str(self.scenario).endswith(f"+{self.in_use}")
        )

    @property
    def in_use(self) -> str | None:
        """The scenario of its rows: of an outlook, the one where there is but one in the window."""
        found = {one.scenario for one in self.stretches}
        return found.pop() if len(found) == 1 else self.scenario


@frozen
class Pair:
    """What one point along time sets against what; a side is None where it has no namesake.

    `period` is the one that the point is named by.
    """

    period: Window
    current: Side | None
    base: Side | None


@frozen
class Cell:
    """The exact figure of one category in one span, and how many rows it is made of (at least one).

    Parameters
    ----------
    amount : None where it would have been divided by nothing.
    row : the row's own number where each row of a list is a category of its own.
    place : which of the spans asked for it is of.
    part : the part of the category, where it is one.
    volume : the sum of the column of volumes, where that was asked for.
    """

    category: str
    amount: Decimal | None
    rows: int
    row: int | None = None
    place: int = 0
    part: str = ""
    volume: Decimal | None = None

    @property
    def key(self) -> tuple[int | None, str]:
        return self.row, self.category


@frozen
class Driver:
    """One of the things that drove a change, and by how much: volume, mix or price."""

    name: str
    amount: Decimal


@frozen
class Point:
    """One category, period or total with its two sides; None is absent, never zero.

    Parameters
    ----------
    gathered : how many categories "Other" stands for; 0 for a category of its own.
    row : the row's own number where each row of a list is a category.
    panel : the panel that it is in: a category, or a period.
    pair : what a point along time sets against what; other points have the sides of their comparison.
    unusual : how far the change is from the series' own earlier ones, where that was asked for.
    parts : what it is made of, one level down, the largest change first, where that was asked for.
    in_panel : whether it is one category within its panel, which is a period or a value of another column;
        otherwise the panel is the category, and the point is along time.
    is_cost : whether it is a cost or an income, where a statement says so.
    volumes : the volume of its base and of its current side, where those were asked for.
    drivers : what drove its change, where that was asked for.
    """

    label: str
    current: Decimal | None
    base: Decimal | None
    kind: Kind = Kind.POINT
    gathered: int = 0
    row: int | None = None
    panel: str | None = None
    pair: Pair | None = None
    unusual: Fraction | None = None
    parts: tuple[Point, ...] = ()
    in_panel: bool = False
    is_cost: bool | None = None
    volumes: tuple[Decimal | None, Decimal | None] | None = None
    drivers: tuple[Driver, ...] = ()

    @property
    def key(self) -> tuple[int | None, str]:
        return self.row, self.label

    @property
    def is_period(self) -> bool:
        """Whether it is a point along time, rather than a category within a period."""
        return self.pair is not None and not self.in_panel

    @property
    def category(self) -> str | None:
        """The category that it is of, which along time is its panel; None where there are none."""
        return self.label if self.in_panel or (self.pair is None and self.panel is None) else self.panel

    @property
    def is_ranked(self) -> bool:
        """Whether it counts in share and rank: neither a total nor Other."""
        return self.kind in (Kind.POINT, Kind.LINE, Kind.STEP) and not self.gathered

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
    def effect(self) -> Decimal:
        """What the movement does to the result: a cost that rises lowers it."""
        return EXACT.minus(self.movement) if self.is_cost else self.movement

    @property
    def change_ratio(self) -> Fraction | None:
        if self.current is None or self.base is None or self.kind is Kind.RATIO:
            return None
        return change_ratio(self.current, self.base)

    @property
    def state(self) -> State:
        # A period, or what means nothing on either side, is not new or ended: it has no figure on that side.
        has_none = self.current is None and self.base is None
        if (self.pair is not None or self.kind is Kind.RATIO or has_none) and None in (self.current, self.base):
            return State.NO_BASE if self.base is None else State.NO_CURRENT
        if self.base is None:
            return State.NEW
        if self.current is None:
            return State.ENDED
        return State.OK if self.base or self.kind is Kind.RATIO else State.NOT_MEANINGFUL

    def as_though_zero(self) -> Point:
        """The same point with an absent side counted as nothing, as a waterfall's step is judged."""
        return replace(self, current=self.current or ZERO, base=self.base or ZERO)


@frozen
class Comparison:
    """All points of one comparison, in order, with their totals.

    Parameters
    ----------
    every : the grain of the points where time is the axis.
    panel_totals : the total of each category, where each is a panel.
    has_total : whether the total is one of the points shown; not where they overlap, or are chained.
    beyond : what the base comes to in the periods after the last point; they are in no total.
    """

    current: Side
    base: Side | None
    points: tuple[Point, ...]
    total: Point
    basis: Basis = Basis.SCENARIO
    every: Grain | None = None
    panel_totals: tuple[Point, ...] = ()
    has_total: bool = True
    beyond: tuple[Point, ...] = ()

    @property
    def absent(self) -> tuple[Point, ...]:
        """The categories that have one side only, where there is a base at all."""
        if self.base is None or any(point.in_panel and point.pair for point in self.points):
            return ()
        categories = self.panel_totals if self.every else self.points
        kinds = (Kind.POINT, Kind.LINE, Kind.STEP) if not self.every else (Kind.TOTAL,)
        return tuple(point for point in categories if point.state in (State.NEW, State.ENDED) and point.kind in kinds)

    @property
    def headline(self) -> Point:
        """The point that says how it stands: the total, or along time without one the last that has a figure."""
        if self.has_total or self.total.is_cost is not None:
            return self.total
        return next((one for one in reversed(self.points) if one.current is not None), self.total)


def compare(
    cells_of_current: Sequence[Cell],
    cells_of_base: Sequence[Cell],
    appearance: Sequence[tuple[int | None, str]],
) -> tuple[Point, ...]:
    """A point for every category that has a cell on either side, in the order given.

    Parameters
    ----------
    appearance : the keys of all cells, in the order in which the source gives them.

    >>> fuel = Cell("Fuel", Decimal(77), 1), Cell("Fuel", Decimal(70), 1)
    >>> compare([fuel[0]], [fuel[1]], [(None, "Fuel")])[0].change_ratio
    Fraction(1, 10)
    """
    now = {cell.key: cell for cell in cells_of_current if cell.amount is not None}
    then = {cell.key: cell for cell in cells_of_base if cell.amount is not None}
    return tuple(_point_of(key, now.get(key), then.get(key)) for key in appearance if key in now or key in then)


def _point_of(key: tuple[int | None, str], now: Cell | None, then: Cell | None) -> Point:
    volumes = (then.volume if then else None, now.volume if now else None)
    return Point(
        key[1],
        now.amount if now else None,
        then.amount if then else None,
        row=key[0],
        volumes=volumes if any(one is not None for one in volumes) else None,
    )


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
