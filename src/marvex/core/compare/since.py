"""What has changed since an earlier run: figures of its windows that were restated, and bands that changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from datetime import date
from decimal import Decimal
from statistics import median

from marvex.core.compare.point import Kind
from marvex.core.compare.side import Span
from marvex.core.exact import ZERO, difference
from marvex.core.time.calendar import ONE_DAY
from marvex.core.values import dataclass

Days = tuple[date, date]
_LEAST_ALIKE = 4  # figures, of which it is told what all have in common
_POWERS = (3, -3, 6, -6, 2, -2)  # of ten, by which sources of other units differ
_USUAL, _FARTHEST = Decimal("0.01"), Decimal("0.2")  # from it, for small figures are rounded


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
class Gone:
    """Days of an earlier run of which today's source has no rows, since it is of others.

    Parameters
    ----------
    days : None where today's source does not have the scenario at all.
    begins : the first day that it has, where that is within them.
    """

    scenario: str | None
    days: Days | None = None
    begins: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlierLines:
    """The statement that was found when an earlier run was made: its lines, its totals with their parts, its result."""

    lines: tuple[str, ...]
    totals: Mapping[str, frozenset[str]]
    result: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlierRun:
    """An earlier run, as far as it is asked again.

    Parameters
    ----------
    held : of each scenario the first day of its rows then, as far as that is known.
    lines : of a found statement.
    asked : how it was asked for, by settings, where that is known.
    """

    points: tuple[EarlierPoint, ...]
    held: Mapping[str | None, date] = field(default_factory=dict)
    lines: EarlierLines | None = None
    asked: Mapping[str, str] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesChanged:
    """How the lines of a found statement differ: the result then and now, totals of other parts, both by name."""

    new: tuple[str, ...]
    lacking: tuple[str, ...]
    made_otherwise: tuple[str, ...]
    results: tuple[str | None, str | None]


def lines_changed(then: EarlierLines, now: EarlierLines, names: Mapping[str, str]) -> LinesChanged | None:
    """What differs between the lines of two found statements; None where nothing does.

    Parameters
    ----------
    names : what lines of the earlier one are called now.

    >>> then = EarlierLines(lines=("Fares", "Fuel"), totals={"Result": frozenset(("Fares", "Fuel"))}, result="Result")
    >>> now = EarlierLines(lines=("Fares", "Bunkers", "Tax"), totals=then.totals, result="Result")
    >>> found = lines_changed(then, now, {"Fuel": "Bunkers"})
    >>> found.new, found.lacking, found.made_otherwise, found.results
    (('Tax',), (), ('Result',), ('Result', 'Result'))
    """

    def called(name: str) -> str:
        return names.get(name, name)

    before = [called(one) for one in (*then.lines, *then.totals)]
    today = [*now.lines, *now.totals]
    new = tuple(one for one in today if one not in before)
    made = {called(name): frozenset(map(called, parts)) for name, parts in then.totals.items()}
    otherwise = tuple(name for name, parts in now.totals.items() if name in made and made[name] != parts)
    lacking = tuple(one for one in before if one not in today)
    results = (called(then.result) if then.result else None, now.result)
    if not (new or lacking or otherwise or results[0] != results[1]):
        return None
    return LinesChanged(new=new, lacking=lacking, made_otherwise=otherwise, results=results)


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """All that has changed since the run whose figures a file holds.

    Parameters
    ----------
    same : how many figures of it are what they were.
    gone : what of it today's source cannot be asked.
    asked_otherwise : the settings, as they are called there, that are not what they were.
    renamed : what a category was called, and what the one that has its very figures is called today.
    """

    file: str
    restated: tuple[Restated, ...]
    rebanded: tuple[Rebanded, ...]
    same: int = 0
    gone: tuple[Gone, ...] = ()
    asked_otherwise: tuple[str, ...] = ()
    renamed: tuple[tuple[str, str], ...] = ()
    lines: LinesChanged | None = None

    @property
    def largest_first(self) -> list[Restated]:
        """What was restated, the largest difference first."""
        return sorted(self.restated, key=lambda one: -abs(difference(one.now or ZERO, one.was or ZERO)))

    @property
    def has_changed(self) -> bool:
        return bool(self.restated or self.rebanded)

    @property
    def says_nothing(self) -> bool:
        """Whether all is as it was, and could be asked."""
        return not (self.has_changed or self.gone or self.lines)


def scaled_by(restated: Sequence[Restated]) -> int:
    """The power of ten by which all figures that were restated differ from what they were; 0 where they do not."""
    amounts = _both(restated)
    if len(amounts) < max(_LEAST_ALIKE, sum(not one.is_ratio for one in restated)):
        return 0
    for power in _POWERS:
        apart = [abs(now.scaleb(-power) / was - 1) for was, now in amounts]
        if median(apart) <= _USUAL and max(apart) <= _FARTHEST:
            return power
    return 0


def turned(restated: Sequence[Restated]) -> list[str]:
    """The points whose figures all have the other sign now, and nothing else; where there are several."""
    by_name: dict[str, list[Restated]] = {}
    for one in restated:
        by_name.setdefault(one.point.name, []).append(one)
    found = [
        name
        for name, its in by_name.items()
        if not any(one.is_ratio for one in its) and all(one.was and one.now == -one.was for one in its)
    ]
    return sorted(found) if sum(len(by_name[name]) for name in found) >= _LEAST_ALIKE else []


def is_of_another_period(since: Since) -> bool:
    """Whether no figure of a run without periods is what it was, though most are there."""
    is_timeless = all(one.point.days is None and one.point.base_days is None for one in since.restated)
    return is_timeless and not since.same and len(_both(since.restated)) >= _LEAST_ALIKE


def _both(restated: Sequence[Restated]) -> list[tuple[Decimal, Decimal]]:
    """What amounts were and are, where they are something in both."""
    return [(one.was, one.now) for one in restated if one.was and one.now and not one.is_ratio]
