"""What has changed since an earlier run: figures of its windows that were restated, and bands that changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from marvex.core.compare.point import Kind
from marvex.core.compare.side import Span
from marvex.core.exact import ZERO, difference
from marvex.core.time.calendar import ONE_DAY

Days = tuple[date, date]


def runs_without(days: Days, left: Sequence[Days]) -> tuple[Days, ...]:
    """What remains of a run of days without some within it, which are in order.

    >>> march = date(2026, 3, 1), date(2026, 3, 31)
    >>> [run[1].day for run in runs_without(march, [(date(2026, 3, 5), date(2026, 3, 9))])]
    [4, 31]
    """
    first, last = days
    found = []
    for start, end in left:
        if first <= start <= end <= last:
            found.append((first, start - ONE_DAY))
            first = end + ONE_DAY
    return tuple(run for run in (*found, (first, last)) if run[0] <= run[1])


@dataclass(frozen=True, slots=True)
class EarlierSide:
    """What one side of an earlier comparison was of.

    Parameters
    ----------
    actual_to : of an outlook, the last day of its actuals.
    """

    scenario: str | None
    actual_to: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlierPoint:
    """A point as an earlier run gave it: its two sides, each with its own days.

    Parameters
    ----------
    comparison : the place of its comparison among several.
    sides : of the current amount, and of the base.
    days, base_days : of each side; None where the source has no dates.
    change : all that there is of a movement, which has no sides.
    left : days of each side that were in no total of its comparison, since the other had nothing to be compared.
    """

    comparison: int
    sides: tuple[EarlierSide, EarlierSide]
    panel: str | None
    label: str
    kind: str
    state: str
    current: Decimal | None
    base: Decimal | None
    change: Decimal | None
    days: Days | None
    base_days: Days | None
    band: str | None
    left: tuple[tuple[Days, ...], tuple[Days, ...]] = ((), ())

    @property
    def name(self) -> str:
        return f"{self.panel}, {self.label}" if self.panel else self.label

    @property
    def key(self) -> tuple[str | None, str]:
        return self.panel, self.label

    @property
    def is_movement(self) -> bool:
        """Whether it is an amount that moves a running total, and compares nothing."""
        return self.current is None and self.base is None and self.change is not None

    @property
    def amounts(self) -> tuple[Decimal | None, Decimal | None]:
        """What it has on either side; of a movement its amount."""
        return (self.change, None) if self.is_movement else (self.current, self.base)


@dataclass(frozen=True, slots=True, kw_only=True)
class Restated:
    """A figure of an earlier window that is another today; None where there was, or is, no row.

    Parameters
    ----------
    span : what is asked of today's rows for it, and `category` of which, empty for all of them; None where they have
        nothing of its scenario.
    """

    point: EarlierPoint
    is_base: bool
    was: Decimal | None
    now: Decimal | None
    span: Span | None = None
    category: str = ""

    @property
    def is_ratio(self) -> bool:
        return self.point.kind == Kind.RATIO.value


@dataclass(frozen=True, slots=True, kw_only=True)
class Rebanded:
    """A point whose band would be another today."""

    point: EarlierPoint
    was: str
    now: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """All that has changed since the run whose figures a file holds."""

    file: str
    restated: tuple[Restated, ...]
    rebanded: tuple[Rebanded, ...]

    @property
    def largest_first(self) -> list[Restated]:
        """What was restated, the largest difference first."""
        return sorted(self.restated, key=lambda one: -abs(difference(one.now or ZERO, one.was or ZERO)))

    @property
    def has_changed(self) -> bool:
        return bool(self.restated or self.rebanded)
