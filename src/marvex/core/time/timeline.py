"""Points along time: the periods of a window, and what each is measured against."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from datetime import date
from decimal import Decimal

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import PanelsOf, Point
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Pair, Side, Span, Stretch
from marvex.core.errors import Mistake, setting
from marvex.core.time.base_window import (
    Namesakes,
    Pairing,
    Part,
    before,
    parts_a_year_apart,
    same_part,
    with_week_53,
)
from marvex.core.time.calendar import ONE_DAY, Calendar, Grain, PeriodPlace, coarsest, is_finer
from marvex.core.time.notation import notation
from marvex.core.time.period import periods_within, whole_periods_within
from marvex.core.time.widening import Reach, Widening, widened
from marvex.core.time.window import Window
from marvex.core.values import dataclass

MONTHS_FROM = 62  # days: a longer window is shown by month


@dataclass(frozen=True, slots=True, kw_only=True)
class Base:
    """What the current side is measured against, and how it is found for any window.

    Parameters
    ----------
    dates : the scenario whose rows it is made of; None for `none`.
    window : the window that was named, where one was.
    """

    basis: Basis
    dates: ScenarioDates | None = None
    window: Window | None = None
    pairing: Pairing = field(default_factory=Pairing)

    def namesakes(self, window: Window) -> Namesakes:
        """What the days of a window are paired with a year earlier."""
        return Namesakes.within(window, self.pairing, self.dates.grain if self.dates else None)

    def window_for(self, window: Window) -> Window | None:
        """The base of a window, filled to the same part; None where it has none."""
        match self.basis:
            case Basis.SCENARIO:
                return window
            case Basis.PRIOR:
                return before(window)
            case Basis.YEAR_AGO:
                return self.namesakes(window).of(window)
            case Basis.WINDOW:
                assert self.window is not None
                return same_part(window, self.window)
        return None


def _is_daily(dates: ScenarioDates) -> bool:
    """Whether most days have rows, and all that there are are those of a month or two."""
    if dates.first is None or dates.last is None:
        return False
    days = (dates.last - dates.first).days + 1
    return days <= MONTHS_FROM and 2 * len(dates.days) > days


def grain_along(
    window: Window, asked: Grain | None, kept_at: Sequence[ScenarioDates], calendar: Calendar, *, is_so_far: bool
) -> Grain:
    """The grain of the points: as asked, or month in a long window, but never finer than the data.

    Parameters
    ----------
    is_so_far : no window was named, and it reaches as far as the first of those scenarios does: what there is day by
        day of a month or two is shown so.
    """
    grains = [one.grain for one in kept_at if one.grain is not None]
    kept = coarsest(*grains)
    if asked is None:
        is_long = (window.last - window.first).days + 1 > MONTHS_FROM and not (is_so_far and _is_daily(kept_at[0]))
        weeks_only = kept is Grain.WEEK and not calendar.weeks_make_years
        return coarsest(kept, Grain.MONTH) if is_long and not weeks_only else kept
    if is_finer(asked, kept):
        one = next(one for one in kept_at if one.grain is kept)
        raise Mistake(
            f"points every {asked.value}: {one.spoken} is kept by {kept.value}",
            f"Ask for every {kept.value}, or longer.",
        )
    if asked is not Grain.WEEK and whole_periods_within(replace(window, known_to=None), asked, calendar) is None:
        raise Mistake(
            f"points every {asked.value}: no whole {asked.value} lies in {window.first} to {window.last}",
            "Ask for a longer window, or for shorter periods.",
        )
    return asked


def parts_of(window: Window, periods: Sequence[Window], base: Base) -> tuple[Part, ...]:
    """The periods of a window, each with what it is measured against in the base window.

    None where another window has not as many of them, so that none has a place beside another.
    """
    base_window = base.window_for(window)
    if base_window is None or base.basis is Basis.NONE:
        return tuple(Part(one, None) for one in periods)
    if base.basis is Basis.SCENARIO:
        return tuple(Part(one, one) for one in periods)
    if base.basis is Basis.YEAR_AGO:
        namesakes = base.namesakes(window)
        return parts_a_year_apart(periods, with_week_53(window, base_window, namesakes), namesakes)
    named = periods_within(base_window, periods[0].grain, periods[0].calendar)
    return tuple(Part(*both) for both in zip(periods, named, strict=True)) if len(named) == len(periods) else ()


def pairs_along(
    window: Window, known_to: date, every: Grain, of: ScenarioDates, base: Base, asked: SidesAsked
) -> tuple[Pair, ...]:
    """What each period of the window is set against, in calendar order.

    Parameters
    ----------
    window : filled as far as its base is; the current side goes no further than `known_to`.

    Raises Mistake where another window has not as many periods.
    """
    periods = periods_within(window, every, asked.calendar)
    if asked.cumulative is not None:
        return tuple(_running(one, window, known_to, of, base, asked) for one in periods)
    if base.basis is Basis.PRIOR:
        parts: tuple[Part, ...] = tuple(Part(one, before(one)) for one in periods)
    else:
        parts = _as_points(parts_of(window, periods, base), every, whole_base=asked.full_base)
        _check_as_many(window, periods, base, parts)
    pairs = []
    for part in parts:
        is_known = part.now is not None and part.now.first <= known_to
        now = part.now.cut(known_to) if is_known and part.now else None
        current, against = (
            dates.side(window) if dates and window else None for dates, window in ((of, now), (base.dates, part.then))
        )
        has_rows = _has_rows(of, now), _has_rows(base.dates, part.then)
        pairs.append(Pair(part.period, current, against, has_rows=has_rows))
    return tuple(pairs)


def _has_rows(dates: ScenarioDates | None, window: Window | None) -> bool:
    return dates is not None and window is not None and bool(dates.days_within(window.first, window.end))


def _as_points(parts: Sequence[Part], every: Grain, *, whole_base: bool) -> tuple[Part, ...]:
    """The parts as points: a week 53 of the base alone, which the year's last period ends with, is no other month."""
    if every in (Grain.DAY, Grain.WEEK):
        return tuple(parts)
    found: list[Part] = []
    for part in parts:
        if part.now is not None:
            found.append(part)
        elif whole_base and found and found[-1].then is not None and part.then is not None:
            found[-1] = Part(found[-1].now, replace(found[-1].then, last=part.then.last, known_to=None))
    return tuple(found)


def _check_as_many(window: Window, periods: Sequence[Window], base: Base, parts: Sequence[Part]) -> None:
    """Raises Mistake where a base that was named has not as many periods."""
    base_window = base.window_for(window)
    if not parts and base_window is not None:
        every = periods[0].grain
        count = len(periods_within(base_window, every, periods[0].calendar))
        raise Mistake(
            f"the base has {count} {every.plural if count != 1 else every.value} "
            f"where the current window has {len(periods)}",
            f"Name a base of the same length with {setting('versus')}.",
        )


def _running(
    period: Window, window: Window, known_to: date, of: ScenarioDates, base: Base, asked: SidesAsked
) -> Pair:
    """A running total up to a period, and that of the base; a side that lacks a period of it is absent."""
    assert asked.cumulative is not None
    wide = _reached(period, asked.cumulative, asked.calendar)
    current = _whole_side(of, wide.cut(known_to)) if period.first <= known_to else None
    match base.basis:
        case Basis.YEAR_AGO:
            then = base.namesakes(window).of(wide)
        case Basis.PRIOR:
            then = _reached(before(period), asked.cumulative, asked.calendar)
        case Basis.WINDOW:
            periods = periods_within(window, period.grain, asked.calendar)
            parts = parts_of(window, periods, base)
            _check_as_many(window, periods, base, parts)
            named = parts[periods.index(period)].then
            then = named and _reached(named, asked.cumulative, asked.calendar)
        case _:
            then = base.window_for(wide)
    against = _whole_side(base.dates, then) if base.dates is not None and then is not None else None
    return Pair(period, current, against)


def check_any_runs(pairs: Sequence[Pair], of: ScenarioDates, asked: SidesAsked) -> None:
    """Raises Mistake where no point has a running total: what there is of it would be said to be one."""
    if asked.cumulative is None or not pairs or any(pair.current is not None for pair in pairs):
        return
    last = _reached(pairs[-1].period, asked.cumulative, asked.calendar)
    lacking = next((one for one in settled_periods(last, [of]) if of.lacks(one)), last)
    raise Mistake(
        f"no point has a whole running total: {of.spoken} has no rows from {lacking.first} to {lacking.end}",
        f"Ask for a later window, or leave {setting('cumulative')} out.",
    )


def _whole_side(dates: ScenarioDates, window: Window) -> Side | None:
    """The side in a window; None where it lacks one of its periods, or of days those before or after all data."""
    periods = settled_periods(window, [dates])
    if periods[0].grain is Grain.DAY:
        periods = (periods[0], periods[-1])
    return None if any(dates.lacks(one) for one in periods) else dates.side(window)


def settled_periods(window: Window, kept_at: Sequence[ScenarioDates]) -> tuple[Window, ...]:
    """The periods of a window by which it is settled whether a side lacks any, whatever the axis.

    They are months; periods of the data where those are longer, of the window's own where shorter. A long run of days
    is settled by month, as a year to date is that ends on that day: a side without a row on a Sunday lacks nothing.
    """
    kept = coarsest(*(one.grain for one in kept_at if one.grain is not None), Grain.DAY)
    if is_finer(Grain.MONTH, kept):
        return periods_within(window, kept, window.calendar)
    is_long = window.grain is Grain.DAY and (window.to_date_of is not None or window.days > MONTHS_FROM)
    own = window.grain if is_finer(window.grain, Grain.MONTH) and not is_long else Grain.MONTH
    return periods_within(window, coarsest(own, kept) if own is Grain.DAY else own, window.calendar)


def pairs_beyond(
    window: Window, pairs: Sequence[Pair], every: Grain, base: Base, asked: SidesAsked
) -> tuple[Pair, ...]:
    """The bases of the periods of a part filled window that come after the last of its pairs; of days none."""
    known = base.basis in (Basis.SCENARIO, Basis.YEAR_AGO) and asked.cumulative is None and every is not Grain.DAY
    if base.dates is None or not known:
        return ()
    found = []
    for period in periods_within(replace(window, known_to=None), every, asked.calendar):
        base_window = base.window_for(period)
        if period.first > pairs[-1].period.last and base_window is not None:
            found.append(Pair(period, None, base.dates.side(base_window)))
    return tuple(found)


def _reached(period: Window, running: Widening, calendar: Calendar) -> Window:
    """The span of a running total up to a period; weeks of a civil year run from its week 1."""
    if running.reach is not Reach.ROLLING and period.grain is Grain.WEEK and not calendar.weeks_make_years:
        year = calendar.place(period.first, Grain.WEEK).year
        return replace(period, first=calendar.first_day(PeriodPlace(year, 1), Grain.WEEK))
    return widened(period, running, calendar)


def stumps(pairs: Sequence[Pair]) -> tuple[str, ...]:
    """What is told where the first or the last period is only partly in the window."""
    periods = [pair.period for pair in pairs if pair.current is not None]
    if not periods:
        return ()
    partly = [
        notation(one)
        for one in dict.fromkeys((periods[0], periods[-1]))
        if (one.first, one.last) != (one.calendar.start(one.first, one.grain), one.calendar.end(one.first, one.grain))
    ]
    return (f"only partly in the window: {' and '.join(partly)}",) if partly else ()


def points_along(
    pairs: Sequence[Pair], figures: Mapping[tuple[Span, str], Decimal | None], panels: Sequence[str | None]
) -> tuple[Point, ...]:
    """A point for every pair, in calendar order, panel by panel.

    Parameters
    ----------
    figures : the figure of each span and category; the category is empty where there are no panels.
    """

    def figure(side: Side | None, panel: str | None) -> Decimal | None:
        return None if side is None else figures.get((side.span, panel or ""))

    return tuple(
        Point(
            category=panel,
            current=figure(pair.current, panel),
            base=figure(pair.base, panel),
            pair=pair,
            panels=PanelsOf.NOTHING if panel is None else PanelsOf.CATEGORIES,
        )
        for panel in panels
        for pair in pairs
    )


def busy_days(points: tuple[Point, ...], every: Grain) -> tuple[Point, ...]:
    """The points but for days on which no panel has a row on either side: there was no business."""
    if every is not Grain.DAY:
        return points
    busy = {point.label for point in points if point.current is not None or point.base is not None}
    return tuple(point for point in points if point.label in busy)


def merged(sides: Iterable[Side]) -> tuple[Stretch, ...]:
    """The stretches of several sides, each day of a scenario once, in order."""
    found: list[Stretch] = []
    for one in sorted((one for side in sides for one in side.span.stretches), key=_scenario_and_first):
        last = found[-1] if found and found[-1].scenario == one.scenario else None
        if last and last.last and one.first and one.last and one.first <= last.last + ONE_DAY:
            found[-1] = Stretch(one.scenario, last.first, max(last.last, one.last))
        else:
            found.append(one)
    return tuple(sorted(found, key=lambda one: one.first or date.min))


def _scenario_and_first(one: Stretch) -> tuple[str, date]:
    return one.scenario or "", one.first or date.min
