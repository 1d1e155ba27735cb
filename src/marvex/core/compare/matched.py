"""Like with like: which part of two sides is matched, and what one of them has that the other lacks."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.comparison import Basis
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Pair, Side
from marvex.core.time.base_window import Namesakes, Part
from marvex.core.time.calendar import ONE_DAY, Grain, is_finer
from marvex.core.time.period import periods_within
from marvex.core.time.timeline import Base, parts_of, settled_periods
from marvex.core.time.window import Window
from marvex.core.values import dataclass

Run = tuple[date, date]
LEAP_MONTH, LEAP_DAY = 2, 29


@dataclass(frozen=True, slots=True)
class Unmatched:
    """What one side has in days in which the other has no rows at all, or no days of that kind."""

    side: Side
    is_base: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Matching:
    """Both sides in the periods that both have, and what is left of each.

    Parameters
    ----------
    parts : those periods, and what each is measured against.
    """

    current: Side
    base: Side | None
    parts: tuple[Part, ...] = ()
    unmatched: tuple[Unmatched, ...] = ()

    def holds(self, pair: Pair) -> bool:
        """Whether none of a pair's days are unmatched."""
        return not any(
            one.side.window is not None
            and side is not None
            and side.window is not None
            and side.window.overlaps(one.side.window.first, one.side.window.end)
            for one in self.unmatched
            for side in [pair.base if one.is_base else pair.current]
        )


def matching(of: ScenarioDates, current: Side, base: Base, against: Side) -> Matching:
    """What of two sides is matched.

    Parameters
    ----------
    current, against : both sides in the whole of their windows.
    """
    whole = Matching(current=current, base=against)
    if current.window is None or base.dates is None or of.first is None or base.dates.first is None:
        return whole
    parts = parts_of(current.window, settling(current.window, of, base), base)
    kept, left_now, left_then = _told_apart(parts, of, base.dates)
    unmatched = (
        *(Unmatched(of.side(_run(current.window, run)), False) for run in left_now),
        *(Unmatched(base.dates.side(_run(current.window, run)), True) for run in left_then),
    )
    if not unmatched:
        return replace(whole, parts=tuple(kept))
    now = current.within(runs_of(part.now for part in kept))
    then = against.within(runs_of(part.then for part in kept))
    return Matching(current=now, base=then, parts=tuple(kept), unmatched=unmatched)


def matched_sides(
    current: Side, against: Side, parts: Sequence[Part], extents: tuple[Run | None, Run | None]
) -> tuple[Side, Side] | None:
    """Both sides in the parts in which some rows, such as a category's, have begun and not ended on either side.

    None where that is all of them, or none.

    Parameters
    ----------
    extents : the first and the last day of those rows, on the current side and on the base's.
    """
    now, then = extents
    # Rows do not begin or end between one day and the next: only with a week, or a longer period.
    if now is None or then is None or not parts or parts[0].period.grain is Grain.DAY:
        return None
    kept = [part for part in parts if _reaches(now, part.now) and _reaches(then, part.then)]
    if not kept or len(kept) == len(parts):
        return None
    return (
        current.within(runs_of(part.now for part in kept)),
        against.within(runs_of(part.then for part in kept)),
    )


def _reaches(extent: Run, part: Window | None) -> bool:
    return part is None or (extent[0] <= part.end and part.first <= extent[1])


def settling(window: Window, of: ScenarioDates, base: Base) -> tuple[Window, ...]:
    """The periods of the current window by which it is settled what is matched; a week 53 apart from its period."""
    periods = settled_periods(window, [one for one in (of, base.dates) if one is not None])
    namesakes = base.namesakes(window)
    if base.basis is not Basis.YEAR_AGO or not namesakes.has_week_53 or not is_finer(Grain.WEEK, periods[0].grain):
        return periods
    return tuple(part for period in periods for part in _without_week_53(period, namesakes))


def _without_week_53(period: Window, namesakes: Namesakes) -> tuple[Window, ...]:
    """A period, and the week 53 at its end by itself where the year before has none."""
    week = periods_within(period, Grain.WEEK, period.calendar)[-1]
    if not namesakes.in_week_53(week.first) or namesakes.day(week.first) is not None or week.first == period.first:
        return (period,)
    return replace(period, last=week.first - ONE_DAY, known_to=None), week


def _told_apart(
    parts: Sequence[Part], of: ScenarioDates, dates: ScenarioDates
) -> tuple[list[Part], list[Run], list[Run]]:
    """The parts that both sides have, and the runs of days that only the current side, or only the base, has."""
    kept: list[Part] = []
    left_now, left_then = [], []
    for part in parts:
        if (part.now is None or part.then is None) and _is_leap_day(part.period):
            kept.append(part)  # it is in its side's total, though it is a point by itself
            continue
        lacks_now = part.now is None or of.lacks(part.now)
        lacks_then = part.then is None or dates.lacks(part.then)
        if not lacks_now and not lacks_then:
            kept.append(part)
        elif part.now is not None and not lacks_now:
            left_now.append(part.now)
        elif part.then is not None and not lacks_then:
            left_then.append(part.then)
    return kept, runs_of(left_now), runs_of(left_then)


def _is_leap_day(period: Window) -> bool:
    return period.days == 1 and (period.first.month, period.first.day) == (LEAP_MONTH, LEAP_DAY)


def runs_of(windows: Iterable[Window | None]) -> list[Run]:
    """Windows in order of time as runs of days, those that follow one another as one."""
    runs: list[Run] = []
    for one in windows:
        if one is None:
            continue
        if runs and one.first <= runs[-1][1] + ONE_DAY:
            runs[-1] = (runs[-1][0], max(runs[-1][1], one.end))
        else:
            runs.append((one.first, one.end))
    return runs


def _run(window: Window, run: Run) -> Window:
    return replace(window, first=run[0], last=run[1], known_to=None)
