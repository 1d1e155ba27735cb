"""Which days of which scenario are set against which: defaults, bases, the same part of the year.

Takes what a source knows of its scenarios and the words of the call, and gives the two sides
of a comparison, period by period where time is the axis, with what has to be said about them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.cautions import differences, unlike
from marvex.core.compare.comparison import Basis
from marvex.core.compare.history import earlier_windows
from marvex.core.compare.scenarios import BASE_NAMES, ScenarioDates, current_scenarios, joined, scenario_named
from marvex.core.compare.side import Pair, Side
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.time import timeline
from marvex.core.time.base_window import BY_DATE
from marvex.core.time.calendar import ONE_DAY, Calendar, Grain, coarsest
from marvex.core.time.notation import NOTATIONS, WindowReader, notation
from marvex.core.time.period import period_of, whole_periods_within
from marvex.core.time.timeline import Base
from marvex.core.time.widening import widened
from marvex.core.time.window import Window
from marvex.core.words.trade_words import refuse_trade_word

NAMED_BASES = ("prior", "year-ago", "none")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Plan:
    """The two sides, the choices that were made where the call left them open, and the cautions.

    Parameters
    ----------
    pairs : what each point along time sets against what; empty where time is not the axis.
    every : the grain of those points.
    has_total : whether the points have a total that means anything.
    earlier : what was set against what before the window, in order of time, where that is asked for.
    beyond : the bases of the periods that the current side has not reached, where they are asked for.
    """

    current: Side
    base: Side | None
    basis: Basis
    choices: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    pairs: tuple[Pair, ...] = ()
    every: Grain | None = None
    has_total: bool = True
    earlier: tuple[Pair, ...] = ()
    beyond: tuple[Pair, ...] = ()

    @property
    def sides(self) -> tuple[Side, ...]:
        """The current side, and the base where there is one."""
        return tuple(side for side in (self.current, self.base) if side is not None)


def plan_sides(known: Sequence[ScenarioDates], asked: SidesAsked) -> Plan:
    """The current side and its base, cut to the same part of the year.

    Raises Mistake where a scenario or a window is not there.
    """
    of, forecast = current_scenarios(known, asked.scenario)
    window, chosen = _current_window(of, asked, is_outlook=forecast is not None)
    base, choice = _base(known, of, window, asked, is_outlook=forecast is not None)
    _check_pairing(base, asked)
    return _planned(of, forecast, base, window, asked, (*chosen, *choice))


def sides_of_columns(known: Sequence[ScenarioDates], current: str, base: str | None, asked: SidesAsked) -> Plan:
    """The sides of a table that has both as columns, over the same days where it has dates."""
    by_name = {one.name: one for one in known}
    of = by_name.get(current, ScenarioDates(name=current))  # a column without a figure has no days either
    window, chosen = _current_window(of, asked, is_outlook=False)
    found = (
        Base(basis=Basis.SCENARIO, dates=by_name.get(base, ScenarioDates(name=base)))
        if base
        else Base(basis=Basis.NONE)
    )
    _check_pairing(found, asked)
    return _planned(of, None, found, window, asked, chosen)


def _planned(
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
        return Plan(current=of.side(None), base=against, basis=base.basis, choices=choices)
    known_to = asked.as_of or of.last
    assert known_to is not None
    kept_at = [one for one in (of, forecast, base.dates) if one is not None]
    every = timeline.grain_along(window, asked.every, kept_at, asked.calendar) if asked.along_time else None
    if forecast is not None:
        grain = coarsest(
            every or timeline.grain_along(window, None, kept_at, asked.calendar), forecast.grain or Grain.DAY
        )
        whole_of = of
        of = joined(of, forecast, grain, known_to, asked.calendar)
        known_to = window.last
        choices += (_join_said(of),)
        base = replace(base, dates=of) if base.dates is whole_of else base
    window, cautions = timeline.by_whole_weeks(window, every, asked.calendar)
    if not asked.full_base:
        window, trimmed = _trim_to_grain(of, base, window, asked.calendar)
        cautions += trimmed
    filled = window.cut(min(known_to, window.end))
    pairs: tuple[Pair, ...] = ()
    if every is not None:
        pairs = timeline.pairs_along(window, filled.end, every, of, base, asked)
        cautions += timeline.stumps(pairs)
        current, against = timeline.sides_of(pairs, filled, of, base, window)
        if against is None and base.basis is Basis.YEAR_AGO:
            raise _no_namesake(window)
    else:
        current = of.side(filled)
        base_window = base.window_for(window)
        if base.basis is not Basis.NONE and base_window is None:
            raise _no_namesake(window)
        if asked.full_base and base_window is not None:
            base_window = timeline.with_last_week(window, base_window, base)
        against = base.dates.side(base_window) if base.dates and base_window else None
    _check_base_has_data(base, against, asked)
    cautions += unlike(of, window, base, asked.full_base, filled)
    cautions += differences(of, current, base, against, pairs, every, asked.calendar)
    has_total = base.basis is not Basis.PRIOR and asked.cumulative is None if every else True
    earlier = _earlier(of, base, filled, every, asked) if asked.with_history else ()
    beyond = timeline.pairs_beyond(window, pairs, every, base, asked) if every and asked.with_beyond else ()
    return Plan(
        current=current,
        base=against,
        basis=base.basis,
        choices=choices,
        cautions=cautions,
        pairs=pairs,
        every=every,
        has_total=has_total,
        earlier=earlier,
        beyond=beyond,
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


def _current_window(
    of: ScenarioDates, asked: SidesAsked, *, is_outlook: bool
) -> tuple[Window | None, tuple[str, ...]]:
    """The current window, cut to what is known unless the whole is wanted, and what was chosen."""
    if of.first is None or of.last is None:
        if asked.window is not None:
            raise Mistake(
                f"{setting('for_')} {asked.window}: the data have no dates",
                f"Name the column with {setting('date')}.",
            )
        if asked.along_time:
            raise Mistake(f"{setting('every')}: the data have no dates", f"Name the column with {setting('date')}.")
        return None, ()
    known_to = asked.as_of or of.last
    chosen: tuple[str, ...] = ()
    if asked.window is None:
        window = _only_period(of, asked) or period_of(known_to, Grain.YEAR, asked.calendar)
    else:
        parsed = _reader(of, asked).read(asked.window)
        if parsed is None:
            refuse_trade_word("for_", asked.window, "span")
            raise Mistake(f"{setting('for_')} '{asked.window}' is not a window", f"Write {NOTATIONS}.")
        window = parsed
        if "latest" in asked.window.casefold():
            chosen = (
                f"{setting('for_')} {asked.window} is {_written(window)}, {of.spoken} being known to {known_to}",
            )
    filled = window.cut(known_to)
    if asked.span is not None:
        window = filled = widened(filled, asked.span, asked.calendar)
    if not filled.overlaps(of.first, min(of.last, known_to)):
        raise Mistake(
            f"no {of.spoken} rows in {asked.window or window.first.year}: {of.spoken} runs {_extent(of)}",
            "Ask for a window within that.",
        )
    return (replace(window, known_to=None) if is_outlook or asked.full_base else filled), chosen


def _only_period(of: ScenarioDates, asked: SidesAsked) -> Window | None:
    """The one period that the current side has rows in, where it is kept by periods: a sheet of one month."""
    if of.grain in (None, Grain.DAY, Grain.YEAR) or asked.as_of is not None or asked.along_time:
        return None
    assert of.grain is not None and of.first is not None
    only = period_of(of.first, of.grain, asked.calendar)
    return only if (only.first, only.end) == (of.first, of.last) else None


def _reader(of: ScenarioDates, asked: SidesAsked) -> WindowReader:
    return WindowReader(asked.calendar, asked.as_of or of.last, of.grain or Grain.DAY)


def _written(window: Window) -> str:
    """A window as it could be asked for."""
    if window.calendar.end(window.first, window.grain) == window.last:
        return notation(window)
    return f"{window.first}/{window.last}"


def _join_said(of: ScenarioDates) -> str:
    assert of.outlook is not None
    one = of.outlook
    return f"{one.actual.spoken} to {one.actual_to}, {one.forecast.spoken} from the day after"


def _base(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None, asked: SidesAsked, *, is_outlook: bool
) -> tuple[Base, tuple[str, ...]]:
    """What the base is, and what was chosen where the call does not say."""
    if asked.versus is None:
        return _default_base(known, of, window, asked)
    found = scenario_named(known, asked.versus)
    if found is not None:
        if found.name == of.name and not is_outlook:
            raise Mistake(
                f"{setting('versus')} {asked.versus}: the current side is {of.name} too",
                f"Name another with {setting('versus')} or {setting('of')}.",
            )
        return Base(basis=Basis.SCENARIO, dates=found), ()
    word = asked.versus.casefold()
    if word == "none":
        return Base(basis=Basis.NONE), ()
    names = [one.name for one in known if one.name is not None]
    parsed = None if word in NAMED_BASES else _reader(of, asked).read(asked.versus)
    if word not in NAMED_BASES and parsed is None:
        refuse_trade_word("versus", asked.versus)
        raise Mistake(
            f"{setting('versus')} '{asked.versus}' is neither a scenario of the data"
            f"{' (' + listed(names) + ')' if names else ''}, nor prior, year-ago or none, nor a window",
            did_you_mean(asked.versus, [*names, *NAMED_BASES], f"A window is written {NOTATIONS}."),
        )
    if window is None:
        raise Mistake(
            f"{setting('versus')} {asked.versus}: the data have no dates", f"Name the column with {setting('date')}."
        )
    if parsed is not None:
        return Base(basis=Basis.WINDOW, dates=of, window=parsed), ()
    if word == "prior":
        return Base(basis=Basis.PRIOR, dates=of), ()
    return Base(basis=Basis.YEAR_AGO, dates=of, window=None, pairing=asked.pairing or BY_DATE), ()


def _default_base(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None, asked: SidesAsked
) -> tuple[Base, tuple[str, ...]]:
    in_outlook = [one.strip().casefold() for one in (asked.scenario or "").split("+")]
    for name in BASE_NAMES:
        found = scenario_named(known, name)
        if found is not None and found.name != of.name and name not in in_outlook and _has_data(found, window):
            return Base(basis=Basis.SCENARIO, dates=found), (f"against {found.name}",)
    if window is not None:
        year_ago = Base(basis=Basis.YEAR_AGO, dates=of, window=None, pairing=asked.pairing or BY_DATE)
        before = year_ago.window_for(window)
        if before is not None and _has_data(of, before):
            return year_ago, ("against year-ago",)
    return Base(basis=Basis.NONE), ("against nothing: there is neither a plan nor a year before",)


def _has_data(one: ScenarioDates, window: Window | None) -> bool:
    if window is None or one.first is None or one.last is None:
        return True
    return window.overlaps(one.first, one.last)


def _check_pairing(base: Base, asked: SidesAsked) -> None:
    """`--match` and `--leap` say how days are paired a year apart, and nothing else."""
    if asked.pairing is not None and base.basis is not Basis.YEAR_AGO:
        raise Mistake(
            f"{setting('match')} and {setting('leap')} pair days a year apart, and the base is not year-ago",
            f"Say {setting('versus', 'year-ago')}.",
        )


def _trim_to_grain(
    of: ScenarioDates, base: Base, window: Window, calendar: Calendar
) -> tuple[Window, tuple[str, ...]]:
    """The window cut back to whole periods of the coarser grain of the two sides, where it is not."""
    kept_at = [(one, one.grain) for one in (of, base.dates) if one is not None and one.grain is not None]
    if not kept_at:
        return window, ()
    grain = coarsest(*(found for _, found in kept_at))
    one = next(one for one, found in kept_at if found is grain)
    # Weeks fit into no month: weekly rows are in the window that their first day is in.
    fits_nowhere = grain is Grain.WEEK and not calendar.weeks_make_years and window.grain.months
    if grain is Grain.DAY or fits_nowhere:
        return window, ()
    trimmed = whole_periods_within(window, grain, calendar)
    if trimmed is None:
        raise Mistake(
            f"{one.spoken} is kept by {grain.value}, and no whole {grain.value} lies in "
            f"{window.first} to {window.end}",
            "Ask for a longer window, or for another base.",
        )
    base_window = base.window_for(trimmed)
    if base_window is not None and whole_periods_within(base_window, grain, calendar) is None:
        raise Mistake(
            f"no whole {grain.value} lies in the base, {base_window.first} to {base_window.end}",
            f"Name another base with {setting('versus')}.",
        )
    if trimmed == window:
        return window, ()
    caution = (
        f"{one.spoken} is kept by {grain.value}, so both sides are cut back to whole "
        f"{grain.plural}: {trimmed.first} to {trimmed.end}"
    )
    return trimmed, (caution,)


def _no_namesake(window: Window) -> Mistake:
    if window.grain is Grain.DAY:
        return Mistake(
            f"there is no {window.first:%d %B} a year before {window.first.year}",
            f"{setting('leap', 'feb28')} compares it with 28 February.",
        )
    return Mistake(
        f"{_written(window)} has no namesake: the year before has 52 weeks",
        f"Name another base with {setting('versus')}.",
    )


def _check_base_has_data(base: Base, against: Side | None, asked: SidesAsked) -> None:
    """Raises Mistake where the base has no rows at all."""
    dates = base.dates
    if against is None and base.basis is not Basis.NONE:
        raise Mistake("no point has a base", f"Name another with {setting('versus')}.")
    if against is None or dates is None or dates.first is None or dates.last is None:
        return
    if asked.cumulative is not None and not against.stretches:
        return  # rolling totals that all lack a period have no base, and are shown so
    first, last = against.span.stretches[0].first, against.span.stretches[-1].last
    if first and last and not (first <= dates.last and dates.first <= last):
        named = f" in {setting('versus')} {asked.versus}" if base.basis is Basis.WINDOW else ""
        raise Mistake(
            f"no {dates.spoken} rows{named} from {first} to {last}: {dates.spoken} runs {_extent(dates)}",
            f"Name another base with {setting('versus')}.",
        )


def _extent(one: ScenarioDates) -> str:
    return f"from {one.first} to {one.last}"
