"""Points along time: the periods of a window, and what each is measured against."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import PanelsOf, Point
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Pair, Side, Span, Stretch
from marvex.core.errors import Mistake, setting
from marvex.core.time.base_window import Pairing, before, same_part, year_before
from marvex.core.time.calendar import ONE_DAY, Calendar, Grain, coarsest, is_finer
from marvex.core.time.notation import notation
from marvex.core.time.period import periods_within, whole_periods_within
from marvex.core.time.widening import Reach, Widening, widened
from marvex.core.time.window import Window

MONTHS_FROM = 62  # days: a longer window is shown by month
THURSDAY = 3


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

    def window_for(self, window: Window) -> Window | None:
        """The base of a window, filled to the same part; None where it has none."""
        match self.basis:
            case Basis.SCENARIO:
                return window
            case Basis.PRIOR:
                return before(window)
            case Basis.YEAR_AGO:
                return year_before(window, self.pairing)
            case Basis.WINDOW:
                assert self.window is not None
                return same_part(window, self.window)
        return None


def grain_along(window: Window, asked: Grain | None, kept_at: Sequence[ScenarioDates], calendar: Calendar) -> Grain:
    """The grain of the points: as asked, or month in a long window, but never finer than the data."""
    grains = [one.grain for one in kept_at if one.grain is not None]
    kept = coarsest(*grains)
    if asked is None:
        is_long = (window.last - window.first).days + 1 > MONTHS_FROM
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


def by_whole_weeks(window: Window, every: Grain | None, calendar: Calendar) -> tuple[Window, tuple[str, ...]]:
    """The window by whole weeks, where they are its points and cut across it; a week is where its Thursday is."""
    if every is not Grain.WEEK or calendar.weeks_make_years:
        return window, ()
    first, last = calendar.start(window.first, Grain.WEEK), calendar.end(window.last, Grain.WEEK)
    if window.first.weekday() > THURSDAY:
        first = calendar.end(window.first, Grain.WEEK) + ONE_DAY
    if window.last.weekday() < THURSDAY:
        last = calendar.start(window.last, Grain.WEEK) - ONE_DAY
    if last < first:
        raise Mistake(f"no whole week lies in {window.first} to {window.last}", "Ask for a longer window.")
    by_week = Window(first=first, last=last, grain=Grain.WEEK, known_to=window.known_to, calendar=calendar)
    by_week = by_week.cut(window.known_to or last)
    if (first, last) == (window.first, window.last):
        return by_week, ()
    return by_week, (f"weeks are taken whole, each where its Thursday is: {first} to {by_week.end}",)


def pairs_along(
    window: Window, known_to: date, every: Grain, of: ScenarioDates, base: Base, asked: SidesAsked
) -> tuple[Pair, ...]:
    """What each period of the window is set against, in calendar order.

    Parameters
    ----------
    window : filled as far as its base is; the current side goes no further than `known_to`.

    Raises Mistake where another window has not as many periods.
    """
    calendar = asked.calendar
    periods = periods_within(window, every, calendar)
    named = _named_periods(window, base, periods, every, calendar)
    pairs = []
    for place, period in enumerate(periods):
        wide = _reached(period, asked.cumulative, calendar)
        current = _side(of, wide.cut(known_to), asked) if period.first <= known_to else None
        base_window = _base_of(period, wide, named[place] if named else None, base, asked)
        against = _side(base.dates, base_window, asked) if base.dates and base_window else None
        pairs.append(Pair(period, current, against))
    return _with_unpaired(tuple(pairs), window, every, base, asked)


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


def _named_periods(
    window: Window, base: Base, periods: Sequence[Window], every: Grain, calendar: Calendar
) -> tuple[Window, ...]:
    """The periods of the window that was named as the base, each to be taken in its place."""
    if base.basis is not Basis.WINDOW:
        return ()
    base_window = base.window_for(window)
    assert base_window is not None
    named = periods_within(base_window, every, calendar)
    if len(named) != len(periods):
        raise Mistake(
            f"the base has {len(named)} {every.plural if len(named) != 1 else every.value} "
            f"where the current window has {len(periods)}",
            f"Name a base of the same length with {setting('versus')}.",
        )
    return named


def _base_of(period: Window, wide: Window, named: Window | None, base: Base, asked: SidesAsked) -> Window | None:
    """The base window of one point: for `prior`, and in a window named, that of the period in its place."""
    if named is not None:
        return _reached(named, asked.cumulative, asked.calendar)
    if base.basis is Basis.PRIOR:
        return _reached(before(period), asked.cumulative, asked.calendar)
    return base.window_for(wide)


def _reached(period: Window, running: Widening | None, calendar: Calendar) -> Window:
    return widened(period, running, calendar) if running else period


def _side(dates: ScenarioDates, window: Window, asked: SidesAsked) -> Side | None:
    """The side in a window; None where a rolling total would lack the first of its periods."""
    is_rolling = asked.cumulative is not None and asked.cumulative.reach is Reach.ROLLING
    if is_rolling and dates.first and window.first < asked.calendar.start(dates.first, window.grain):
        return None
    return dates.side(window)


def _with_unpaired(
    pairs: tuple[Pair, ...], window: Window, every: Grain, base: Base, asked: SidesAsked
) -> tuple[Pair, ...]:
    """With the base's own 29 February, and its week 53 where the whole base is kept, each where it belongs."""
    chained = asked.cumulative is not None or base.pairing.by_weekday
    base_window = base.window_for(window)
    if base.basis is not Basis.YEAR_AGO or base.dates is None or chained or base_window is None:
        return pairs
    if asked.full_base:
        base_window = with_last_week(window, base_window, base)
    elif every is not Grain.DAY:
        return pairs
    paired = merged(pair.base for pair in pairs if pair.base is not None)
    found = list(pairs)
    for period in periods_within(base_window, every, asked.calendar):
        if any(one.first and one.last and one.first <= period.first <= one.last for one in paired):
            continue
        place = sum(1 for one in found if one.base and one.base.window and one.base.window.first < period.first)
        found.insert(place, Pair(period, None, base.dates.side(period)))
    return tuple(found)


def with_last_week(window: Window, base_window: Window, base: Base) -> Window:
    """The base with its week 53, where the window runs to the end of a year that has none."""
    calendar = window.calendar
    ends_year = window.last == calendar.end(window.last, Grain.YEAR)
    if base.basis is Basis.YEAR_AGO and calendar.weeks_make_years and ends_year:
        return replace(base_window, last=calendar.end(base_window.last, Grain.YEAR))
    return base_window


def stumps(pairs: Sequence[Pair]) -> tuple[str, ...]:
    """A caution where the first or the last period is only partly in the window."""
    periods = [pair.period for pair in pairs if pair.current is not None]
    if not periods:
        return ()
    partly = [
        notation(one)
        for one in dict.fromkeys((periods[0], periods[-1]))
        if (one.first, one.last) != (one.calendar.start(one.first, one.grain), one.calendar.end(one.first, one.grain))
    ]
    return (f"only partly in the window: {' and '.join(partly)}",) if partly else ()


def sides_of(
    pairs: Sequence[Pair], filled: Window, of: ScenarioDates, base: Base, window: Window
) -> tuple[Side, Side | None]:
    """Both sides of all pairs together: each day in them once."""
    current = replace(of.side(filled), stretches=merged(pair.current for pair in pairs if pair.current))
    bases = [pair.base for pair in pairs if pair.base]
    base_window = base.window_for(window)
    if base.dates is None or (not bases and base_window is None):
        return current, None
    stretches = merged(bases)
    if stretches and (base_window is None or base.basis is Basis.PRIOR):
        first, last = stretches[0].first, stretches[-1].last
        assert first is not None and last is not None
        base_window = Window(first=first, last=last, grain=filled.grain, known_to=None, calendar=filled.calendar)
    return current, Side(base.dates.name, base_window, stretches)


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
