"""Cells and points: a `Cell` is a source's answer for one category, a `Point` one category with both sides."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.compare.side import Pair, Side
from marvex.core.exact import EXACT, ZERO, change_ratio, difference, total
from marvex.core.time.notation import notation
from marvex.core.values import dataclass


class SideOf(Enum):
    """One of the two sides of a point."""

    CURRENT = "current"
    BASE = "base"


JOINS = " / "  # the names of several columns that are compared together
NO_NAME = "(none)"  # what a category without a name is shown as


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
    NOT_IN_BASE = "not in base"
    NOT_IN_CURRENT = "not in current"


@dataclass(frozen=True, slots=True, kw_only=True)
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


@dataclass(frozen=True, slots=True)
class Driver:
    """One of the things that drove a change, and by how much: volume, mix or price."""

    name: str
    amount: Decimal


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchedPart:
    """What of a total, or of a category, lies in the periods in which both sides have rows of it.

    Parameters
    ----------
    sides : the current side and the base in those periods.
    """

    current: Decimal | None
    base: Decimal | None
    sides: tuple[Side, Side]


class PanelsOf(Enum):
    """What has a panel each, where there are small multiples."""

    NOTHING = "nothing"
    CATEGORIES = "categories"  # and their points are along time
    PERIODS = "periods"  # and their points are the categories
    GROUPS = "groups"  # the values of another column, and their points are the categories


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """One category, period or total with its two sides; None is absent, never zero.

    What it is of says `category`, `pair` (whose period it is) and `group`, each possibly none. Which of them
    names it among its fellows (`label`), and which names its panel, follows from `panels`.

    Parameters
    ----------
    category : the category, or the line of a statement.
    name : what it is called where that is not its category or its period: a total, a standing bar.
    group : the value of another column that it lies in.
    panels : what has a panel each where it stands.
    gathered : how many categories "Other" stands for; 0 for a category of its own.
    row : the row's own number where each row of a list is a category.
    pair : what a point along time sets against what; other points have the sides of their comparison.
    unusual : how far the change is from the series' own earlier ones, where that was asked for.
    parts : what it is made of, one level down, the largest change first, where that was asked for.
    is_cost : whether it is a cost or an income, where a statement says so.
    volumes : the volume of its base and of its current side, where those were asked for.
    drivers : what drove its change, where that was asked for.
    lapsed : the side that has no figure without being new or ended: of a balance one whose last is before the
        closing date, of all periods together one that is missing.
    nothing : the side that has no rows, and counts as nothing: what is not in the budget is budgeted at nothing.
    contribution : its change in points of the base total, where that was asked for.
    matched : where its rows begin or end within the window on one side, the part for which both have some.
    is_whole_step : a side that it lacks counts as nothing in its change, as in a waterfall's step.
    """

    category: str | None = None
    current: Decimal | None
    base: Decimal | None
    kind: Kind = Kind.POINT
    name: str | None = None
    group: str | None = None
    pair: Pair | None = None
    panels: PanelsOf = PanelsOf.NOTHING
    gathered: int = 0
    row: int | None = None
    unusual: Fraction | None = None
    parts: tuple[Point, ...] = ()
    is_cost: bool | None = None
    is_beside: bool = False  # a line that the result of its statement does not contain
    volumes: tuple[Decimal | None, Decimal | None] | None = None
    drivers: tuple[Driver, ...] = ()
    lapsed: SideOf | None = None
    nothing: SideOf | None = None
    contribution: Fraction | None = None
    matched: MatchedPart | None = None
    is_whole_step: bool = False

    @property
    def label(self) -> str:
        """What it is called among its fellows: by its own name, its period, or its category."""
        if self.name is not None:
            return self.name
        return notation(self.pair.period) if self.pair and self.is_period else self.category or ""

    @property
    def panel(self) -> str | None:
        """The panel that it is in: a category, a period, or a value of another column."""
        match self.panels:
            case PanelsOf.CATEGORIES:
                return self.category
            case PanelsOf.PERIODS:
                return notation(self.pair.period) if self.pair else None
        return self.group if self.panels is PanelsOf.GROUPS else None

    @property
    def key(self) -> tuple[int | None, str]:
        return self.row, self.label

    @property
    def is_period(self) -> bool:
        """Whether it is a point along time, rather than a category within a period."""
        return self.pair is not None and self.panels is not PanelsOf.PERIODS

    @property
    def in_panel(self) -> bool:
        """Whether it is one category within a panel, which is a period or a value of another column."""
        return self.panels in (PanelsOf.PERIODS, PanelsOf.GROUPS)

    @property
    def without_panel(self) -> Point:
        """The same point, called what it is within its panel."""
        if self.panels is PanelsOf.CATEGORIES:
            return replace(self, category=None, panels=PanelsOf.NOTHING)
        return replace(self, pair=None, group=None, panels=PanelsOf.NOTHING) if self.in_panel else self

    def within(self, panel: Point) -> Point:
        """The same in the panel that a total is of."""
        found = replace(self, group=panel.group, pair=self.pair or panel.pair, panels=panel.panels)
        return replace(found, category=panel.category) if panel.panels is PanelsOf.CATEGORIES else found

    def sides(self, current: Side, base: Side | None) -> tuple[Side | None, Side | None]:
        """What it sets against what: its own pair along time, else the two sides of its comparison."""
        return (self.pair.current, self.pair.base) if self.pair else (current, base)

    @property
    def is_ranked(self) -> bool:
        """Whether it counts in share and rank: neither a total nor Other."""
        return self.kind in (Kind.POINT, Kind.LINE, Kind.STEP) and not self.gathered

    @property
    def change(self) -> Decimal | None:
        if self.is_whole_step:
            return self.movement
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
    def as_effect(self) -> Point:
        """The same as it counts in the result: a cost with its figures turned, all else as it is."""
        if not self.is_cost or self.kind is Kind.RATIO:
            return self
        sides = (None if side is None else EXACT.minus(side) for side in (self.current, self.base))
        current, base = sides
        part = None if self.contribution is None else -self.contribution
        return replace(self, current=current, base=base, contribution=part)

    @property
    def change_ratio(self) -> Fraction | None:
        if self.current is None or self.base is None or self.kind is Kind.RATIO:
            return None
        return change_ratio(self.current, self.base)

    @property
    def state(self) -> State:
        if self.nothing is not None:
            return State.NOT_IN_BASE if self.nothing is SideOf.BASE else State.NOT_IN_CURRENT
        # A period, or what means nothing on either side, is not new or ended: it has no figure on that side.
        is_one_sided = None in (self.current, self.base)
        means_nothing = self.kind is Kind.RATIO or (self.current is None and self.base is None)
        if is_one_sided and (self.pair is not None or self.lapsed is not None or means_nothing):
            return State.NO_BASE if self.base is None else State.NO_CURRENT
        if self.base is None:
            return State.NEW
        if self.current is None:
            return State.ENDED
        return State.OK if self.base or self.kind is Kind.RATIO else State.NOT_MEANINGFUL

    def as_though_zero(self) -> Point:
        """The same point with an absent side counted as nothing, as a waterfall's step is judged."""
        return replace(self, current=self.current or ZERO, base=self.base or ZERO)


def in_panels(points: Iterable[Point]) -> dict[str | None, list[Point]]:
    """The points of each panel; panels and points in the order in which they come."""
    found: dict[str | None, list[Point]] = {}
    for point in points:
        found.setdefault(point.panel, []).append(point)
    return found


def total_of(points: Iterable[Point], name: str = "Total") -> Point:
    """The points added up; a side is absent only where it is so in all of them."""
    all_points = tuple(points)
    return Point(
        name=name,
        current=_total_or_absent(point.current for point in all_points),
        base=_total_or_absent(point.base for point in all_points),
        kind=Kind.TOTAL,
    )


def _total_or_absent(amounts: Iterable[Decimal | None]) -> Decimal | None:
    present = [amount for amount in amounts if amount is not None]
    return total(present) if present else None
