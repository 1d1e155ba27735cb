"""Two sides set against each other: cells in, points out, absent where there are no rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from marvex.core.compare.point import Cell, Kind, PanelsOf, Point, State
from marvex.core.compare.side import Side
from marvex.core.time.calendar import Grain


class Basis(Enum):
    """What the current side is measured against."""

    NONE = "none"
    SCENARIO = "scenario"
    PRIOR = "prior"
    YEAR_AGO = "year-ago"
    WINDOW = "window"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
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
