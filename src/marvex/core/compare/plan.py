"""Which days of which scenario are set against which: defaults, bases, the same part of the year.

Takes what a source knows of its scenarios and the words of the call, and gives the two sides
of a comparison, period by period where time is the axis, with what has to be said about them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from enum import Enum
from functools import partial

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.bases import base_of, check_pairing, year_ago
from marvex.core.compare.cautions import (
    differences,
    of_months_but_few,
    of_one_a_year,
    of_one_day,
    thin,
    unlike,
    unlike_parts,
    zeros,
)
from marvex.core.compare.comparison import Basis
from marvex.core.compare.current_window import as_covered, current_window, extent, no_rows, reached, written
from marvex.core.compare.history import earlier_windows
from marvex.core.compare.matched import Matching, Unmatched, matching
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenarios import (
    Outlook,
    ScenarioDates,
    current_scenarios,
    is_version,
    outlook_of,
)
from marvex.core.compare.side import Pair, Side
from marvex.core.errors import Mistake, setting
from marvex.core.time import timeline
from marvex.core.time.alignment import aligned, by_whole_periods
from marvex.core.time.base_window import Part, before, with_week_53
from marvex.core.time.calendar import ONE_DAY, Grain
from marvex.core.time.timeline import Base
from marvex.core.time.window import Window
from marvex.core.values import dataclass


class Absent(Enum):
    """What a side without rows is: absent, nothing of a scenario that has rows beside it, or nothing everywhere."""

    GAP = "gap"
    OF_SCENARIO = "nothing in periods that the scenario has"
    ZERO = "zero"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plan:
    """The two sides, the choices that were made where the call left them open, cautions and reservations.

    Parameters
    ----------
    pairs : what each point along time sets against what; empty where time is not the axis.
    every : the grain of those points.
    is_chained : each point is measured against the one before it, or runs on, so that they have no total.
    earlier : what was set against what before the window, in order of time, where that is asked for.
    beyond : the bases of the periods that the current side has not reached, where they are asked for.
    unmatched : what one side has in periods that the other lacks; it is in neither side.
    parts : the periods that both have, and what each is measured against.
    absent : what a side without rows is.
    """

    current: Side
    base: Side | None
    basis: Basis
    choices: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    reservations: tuple[Reservation, ...] = ()
    pairs: tuple[Pair, ...] = ()
    every: Grain | None = None
    is_chained: bool = False
    earlier: tuple[Pair, ...] = ()
    beyond: tuple[Pair, ...] = ()
    unmatched: tuple[Unmatched, ...] = ()
    parts: tuple[Part, ...] = ()
    absent: Absent = Absent.GAP

    @property
    def sides(self) -> tuple[Side, ...]:
        """The current side, and the base where there is one."""
        return tuple(side for side in (self.current, self.base) if side is not None)


def plan_sides(known: Sequence[ScenarioDates], asked: SidesAsked) -> Plan:
    """The current side and its base, cut to the same part of the year.

    Raises Mistake where a scenario or a window is not there.
    """
    of, forecast = current_scenarios(known, asked.scenario, asked.as_of)
    window, chosen = current_window(of, asked, is_outlook=forecast is not None)
    if window is not None and asked.window is None and asked.span is None and asked.cumulative is None:
        window = as_covered(window, of, known, asked)
    if forecast is not None and window is not None:
        of = outlook_of(of, forecast, asked.as_of, asked.calendar)
    base, choice = base_of(known, of, window, asked)
    check_pairing(of, base, asked)
    return _planned(known, of, forecast, base, window, asked, (*chosen, *choice))


def sides_of_columns(known: Sequence[ScenarioDates], current: str, base: str | None, asked: SidesAsked) -> Plan:
    """The sides of a table that has both as columns, over the same days where it has dates."""
    by_name = {one.name: one for one in known}
    # A column without a figure has no days either.
    of = by_name.get(current, ScenarioDates(name=current)).as_known(asked.as_of)
    window, chosen = current_window(of, asked, is_outlook=False)
    found = (
        Base(basis=Basis.SCENARIO, dates=by_name.get(base, ScenarioDates(name=base)))
        if base
        else Base(basis=Basis.NONE)
    )
    check_pairing(of, found, asked)
    return _planned(known, of, None, found, window, replace(asked, are_columns=True), chosen)


def _planned(
    known: Sequence[ScenarioDates],
    of: ScenarioDates,
    forecast: ScenarioDates | None,
    base: Base,
    window: Window | None,
    asked: SidesAsked,
    choices: tuple[str, ...],
) -> Plan:
    """The plan, once it is known which window of which scenario is set against what."""
    if window is None:
        against = base.dates.side(None) if base.dates else None
        absent = _absent(base, asked)
        told = _of_all_dates(of, base)
        return Plan(
            current=of.side(None), base=against, basis=base.basis, choices=choices, reservations=told, absent=absent
        )
    if of.outlook is not None:
        choices += (_join_said(of.outlook),)
    kept_at = [one for one in (of, forecast, base.dates) if one is not None]
    is_so_far = asked.window is None and asked.span is None
    every = (
        timeline.grain_along(window, asked.every, kept_at, asked.calendar, is_so_far=is_so_far)
        if asked.along_time
        else None
    )
    as_known = partial(_as_known, of=of, asked=asked)
    window, cautions = by_whole_periods(window, every, asked.calendar, as_known)
    window, base, trimmed = aligned(of, base, window, asked.calendar, as_known)
    known_to = reached(of, window, asked)
    cautions += trimmed
    if base.basis is Basis.YEAR_AGO:
        base = year_ago(known, of, window, asked)  # whose rows it is of is settled for the days that it has come to
    # An outlook goes on to the end of its window, wherever that was moved to.
    filled = window if of.outlook is not None else window.cut(min(known_to, window.end))
    _check_has_rows(of, filled, asked.as_of)
    pairs: tuple[Pair, ...] = ()
    if every is not None:
        pairs = timeline.pairs_along(window, filled.end, every, of, base, asked)
        timeline.check_any_runs(pairs, of, asked)
    is_chained = every is not None and (asked.cumulative is not None or base.basis is Basis.PRIOR)
    found = _whole_sides(of, base, filled, window, asked, pairs)
    _check_base_has_data(base, found.base, asked)
    takes_all = is_chained or asked.full_base or asked.absent == "zero"
    if found.base is not None and not takes_all:
        found = matching(of, found.current, base, found.base)
        _check_any_matched(found, of, base)
        pairs = tuple(replace(pair, is_matched=found.holds(pair)) for pair in pairs)
    current, against = found.current, found.base
    cautions += unlike(window, base, asked.full_base, filled) + zeros(of)
    cautions += differences(of, current, base, against, pairs, every, asked.calendar)
    earlier = _earlier(of, base, filled, every, asked) if asked.with_history else ()
    beyond = timeline.pairs_beyond(window, pairs, every, base, asked) if every and asked.with_beyond else ()
    return Plan(
        current=current,
        base=against,
        basis=base.basis,
        choices=choices,
        cautions=cautions,
        reservations=(
            *(thin(of, filled) if asked.as_of is None else ()),
            *of_one_day(of, window, base),
            *unlike_parts(of, current, base, against, pairs, every),
            *of_one_a_year(of, asked.calendar),
            *(of_months_but_few(of) if asked.as_of is None else ()),
        ),
        pairs=pairs,
        every=every,
        is_chained=is_chained,
        earlier=earlier,
        beyond=beyond,
        unmatched=found.unmatched,
        parts=found.parts,
        absent=_absent(base, asked),
    )


def _absent(base: Base, asked: SidesAsked) -> Absent:
    if asked.absent is not None:
        return Absent(asked.absent)
    if base.basis is not Basis.SCENARIO or base.dates is None:
        return Absent.GAP
    return Absent.OF_SCENARIO if is_version(base.dates.name, is_column=asked.are_columns) else Absent.GAP


def _as_known(window: Window, *, of: ScenarioDates, asked: SidesAsked) -> Window:
    """A window that was moved, filled as far as the current side is known: its base is of the same part."""
    if of.outlook is not None or asked.full_base:
        return window
    return window.cut(reached(of, window, asked))


def _check_has_rows(of: ScenarioDates, filled: Window, as_of: date | None) -> None:
    """Raises Mistake where the current side has no row at all."""
    if not of.days_within(filled.first, filled.end):
        raise no_rows(of, filled, f"{filled.first} to {filled.end}", as_of)


def _whole_sides(
    of: ScenarioDates, base: Base, filled: Window, window: Window, asked: SidesAsked, pairs: Sequence[Pair]
) -> Matching:
    """Both sides in the whole of their windows."""
    current = of.side(filled)
    if base.basis is Basis.NONE or base.dates is None:
        return Matching(current=current, base=None)
    if pairs and base.basis is Basis.PRIOR:
        windows = [pair.base.window for pair in pairs if pair.base is not None and pair.base.window is not None]
        chained = before(window)
        if windows:
            chained = replace(chained, first=windows[0].first, last=windows[-1].end, known_to=None)
        return Matching(current=current, base=base.dates.side(chained))
    base_window = base.window_for(window)
    if base_window is None:
        raise _no_namesake(window)
    if asked.full_base and base.basis is Basis.YEAR_AGO:
        base_window = with_week_53(window, base_window, base.namesakes(window))
    return Matching(current=current, base=base.dates.side(base_window))


def _check_any_matched(found: Matching, of: ScenarioDates, base: Base) -> None:
    """Raises Mistake where the sides have no period in common, so that nothing can be compared."""
    assert base.dates is not None
    common = (
        part.now is not None
        and part.then is not None
        and of.days_within(part.now.first, part.now.end)
        and base.dates.days_within(part.then.first, part.then.end)
        for part in found.parts
    )
    if found.unmatched and not any(common):
        lacks = base.dates.spoken if any(not one.is_base for one in found.unmatched) else of.spoken
        raise Mistake(
            f"no period has rows on both sides: {lacks} has none in any that the other side has",
            f"Ask for another window, or for another base with {setting('versus')}.",
        )


def _earlier(
    of: ScenarioDates, base: Base, window: Window, every: Grain | None, asked: SidesAsked
) -> tuple[Pair, ...]:
    """The same comparison before the window: of each period, or of each window of the same kind."""
    if of.first is None or base.dates is None or base.basis is Basis.WINDOW:
        return ()
    if every is not None:
        start = asked.calendar.start(of.first, every)
        if start >= window.first:
            return ()
        before_it = Window(
            first=start, last=window.first - ONE_DAY, grain=every, known_to=None, calendar=asked.calendar
        )
        pairs = timeline.pairs_along(before_it, before_it.last, every, of, base, asked)
        return tuple(pair for pair in pairs if pair.current is not None)
    found = []
    for one in earlier_windows(window, of.first):
        base_window = base.window_for(one)
        found.append(Pair(one, of.side(one), base.dates.side(base_window) if base_window else None))
    return tuple(found)


def _join_said(one: Outlook) -> str:
    return f"{one.actual.spoken} to {one.actual_to}, {one.forecast.spoken} from the day after"


def _no_namesake(window: Window) -> Mistake:
    if window.grain is Grain.DAY:
        return Mistake(
            f"there is no {window.first:%d %B} a year before {window.first.year}",
            f"{setting('leap', 'feb28')} compares it with 28 February.",
        )
    return Mistake(
        f"{written(window)} has no namesake: the year before has 52 weeks",
        f"Name another base with {setting('versus')}.",
    )


def _of_all_dates(of: ScenarioDates, base: Base) -> tuple[Reservation, ...]:
    """That all of a base that has dates is set against a side that has none."""
    dates = base.dates
    if dates is None or dates.first is None or of.first is not None:
        return ()
    told = f"{of.spoken} has no dates, and all of {dates.spoken} stands against it, {extent(dates)}"
    return (Reservation(what=told),)


def _check_base_has_data(base: Base, against: Side | None, asked: SidesAsked) -> None:
    """Raises Mistake where the base has no rows at all, or none that says when it is of."""
    dates = base.dates
    if base.basis is Basis.SCENARIO and dates is not None and dates.first is None and not asked.are_columns:
        raise Mistake(
            f"{dates.spoken} has no dates, and what it is set against has: of which time it is, nothing says",
            f"Give it a column of dates, its period in a heading, such as 2026, or the year of its periods with "
            f"{setting('year', f'{dates.spoken}=2026')}; or {setting('versus', 'none')}.",
        )
    if against is None and base.basis is not Basis.NONE:
        raise Mistake("no point has a base", f"Name another with {setting('versus')}.")
    if against is None or dates is None or dates.first is None or dates.last is None:
        return
    if asked.cumulative is not None and not against.stretches:
        return  # rolling totals that all lack a period have no base, and are shown so
    first, last = against.span.stretches[0].first, against.span.stretches[-1].last
    if first and last and not dates.days_within(first, last):
        named = f" in {setting('versus')} {asked.versus}" if base.basis is Basis.WINDOW else ""
        raise Mistake(
            f"no {dates.spoken} rows{named} from {first} to {last}: {dates.spoken} runs {extent(dates)}",
            f"Name another base with {setting('versus')}.",
        )
