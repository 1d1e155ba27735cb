"""Two sides set against each other: cells in, points out, absent where there are no rows."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from enum import Enum

from marvex.core.compare.point import Cell, Kind, PanelsOf, Point, State
from marvex.core.compare.side import Side
from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass

ONE_SIDED = (State.NEW, State.ENDED, State.NOT_IN_BASE, State.NOT_IN_CURRENT)


class Basis(Enum):
    """What the current side is measured against."""

    NONE = "none"
    SCENARIO = "scenario"
    PRIOR = "prior"
    YEAR_AGO = "year-ago"
    WINDOW = "window"


@dataclass(frozen=True, slots=True, kw_only=True)
class UnmatchedPart:
    """What one side has in days in which the other has nothing to be compared; it is in no total.

    Parameters
    ----------
    side : the side in those days, whichever it is.
    amount : what it comes to, worked out from the rows.
    """

    side: Side
    is_base: bool
    amount: Decimal


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Comparison:
    """All points of one comparison, in order, with their totals.

    Parameters
    ----------
    every : the grain of the points where time is the axis.
    panel_totals : the total of each category, where each is a panel.
    has_total : whether the total is one of the points shown; not where they overlap.
    is_chained : each point is measured against the one before it, or runs on, so that they have no total.
    beyond : what the base comes to in the periods after the last point; they are in no total.
    unmatched : what one side has in periods that the other lacks.
    closing : of balances, the closing date of the current side and of the base.
    not_shown : what the points that are left out come to, of each panel that has some; the totals hold it.
    last : the last period in which both sides have a figure, all categories together, where there is no total.
    """

    current: Side
    base: Side | None
    points: tuple[Point, ...]
    total: Point
    basis: Basis = Basis.SCENARIO
    every: Grain | None = None
    panel_totals: tuple[Point, ...] = ()
    has_total: bool = True
    is_chained: bool = False
    beyond: tuple[Point, ...] = ()
    unmatched: tuple[UnmatchedPart, ...] = ()
    closing: tuple[date | None, date | None] = (None, None)
    not_shown: tuple[Point, ...] = ()
    last: Point | None = None

    @property
    def is_along_time(self) -> bool:
        """Whether its points are periods, rather than categories, alone or within periods."""
        return any(point.is_period for point in self.points)

    @property
    def has_panels(self) -> bool:
        """Whether its points stand in several panels."""
        return len({point.panel for point in self.points}) > 1

    @property
    def absent(self) -> tuple[Point, ...]:
        """The categories that have one side only, where there is a base at all."""
        if self.base is None or any(point.panels is PanelsOf.PERIODS for point in self.points):
            return ()
        kinds = (Kind.POINT, Kind.LINE, Kind.STEP) if not self.every else (Kind.TOTAL,)
        return tuple(point for point in self.of_categories if point.state in ONE_SIDED and point.kind in kinds)

    @property
    def of_categories(self) -> tuple[Point, ...]:
        """The categories, each in all of its periods."""
        return self.panel_totals if self.every else self.points

    @property
    def headline(self) -> Point:
        """The point that says how it stands: the total, or along time without one the last that can be compared."""
        if not self.is_chained:
            return self.total
        # Of a statement it is the result that stands for a period.
        result = self.total.category
        points = [one for one in self.points if result is None or one.category == result]
        return self.last or last_compared(points) or self.total


def last_compared(points: Sequence[Point]) -> Point | None:
    """The last of the points that has a figure on both sides; where none has, the last with one."""
    both = (one for one in reversed(points) if one.change is not None)
    return next(both, None) or next((one for one in reversed(points) if one.current is not None), None)


def compare(
    cells_of_current: Sequence[Cell],
    cells_of_base: Sequence[Cell],
    appearance: Sequence[tuple[int | None, str]],
) -> tuple[Point, ...]:
    """A point for every category that has a cell on either side, in the order given.

    Parameters
    ----------
    appearance : the keys of all cells, in the order in which the source gives them.

    >>> from decimal import Decimal
    >>> fuel = [Cell(category="Fuel", amount=Decimal(one), rows=1) for one in (77, 70)]
    >>> compare([fuel[0]], [fuel[1]], [(None, "Fuel")])[0].change_ratio
    Fraction(1, 10)
    """
    now = {cell.key: cell for cell in cells_of_current if cell.amount is not None}
    then = {cell.key: cell for cell in cells_of_base if cell.amount is not None}
    return tuple(_point_of(key, now.get(key), then.get(key)) for key in appearance if key in now or key in then)


def _point_of(key: tuple[int | None, str], now: Cell | None, then: Cell | None) -> Point:
    volumes = (then.volume if then else None, now.volume if now else None)
    return Point(
        category=key[1],
        current=now.amount if now else None,
        base=then.amount if then else None,
        row=key[0],
        volumes=volumes if any(one is not None for one in volumes) else None,
    )
