"""Which days of which scenario are set against which: defaults, bases, like for like.

Takes what a source knows of its scenarios and the words of the call, and gives the two sides
of a comparison with what has to be said about them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from marvex.core.calendar import NOTATIONS, parse_window, year_of
from marvex.core.comparison import Side
from marvex.core.errors import MarvexError, did_you_mean, listed
from marvex.core.period import (
    FINEST_FIRST,
    Grain,
    Window,
    before,
    period_end,
    period_start,
    same_part,
    whole_periods_within,
    year_before,
)

ACTUAL_NAMES = ("actual", "actuals")
PLANNED_NAMES = ("budget", "plan", "forecast")
A_WEEK = timedelta(days=7)  # a side that lacks less at an end had no rows on its first or last days
NAMED_BASES = ("prior", "year-ago", "none")


@dataclass(frozen=True, slots=True)
class ScenarioDates:
    """How far one scenario runs: its first day, the last day its dates stand for, and its grain.

    `name` is None in a table without scenarios; the days are None in one without dates.
    """

    name: str | None
    first: date | None = None
    last: date | None = None
    grain: Grain | None = None

    @property
    def spoken(self) -> str:
        return self.name or "data"


def dates_of(name: str | None, days: Sequence[date], written: Grain | None = None) -> ScenarioDates:
    """How far a scenario with rows on these days runs.

    Parameters
    ----------
    written : the grain that all of the dates are written in, such as months, where it is none of days.

    Days that are all starts, or all ends, of some grain mean the coarsest such grain and stand for
    whole periods; a lone day is itself.

    >>> dates_of("budget", [date(2026, 1, 1), date(2026, 2, 1)]).last
    datetime.date(2026, 2, 28)
    """
    if not days:
        return ScenarioDates(name)
    grain = written or _grain_of(days)
    return ScenarioDates(name, period_start(min(days), grain), period_end(max(days), grain), grain)


def _grain_of(days: Sequence[date]) -> Grain:
    if len(set(days)) == 1:
        return Grain.DAY
    for grain in reversed(FINEST_FIRST):
        if all(day == period_start(day, grain) for day in days):
            return grain
        if all(day == period_end(day, grain) for day in days):
            return grain
    return Grain.DAY


@dataclass(frozen=True, slots=True)
class Asked:
    """What the call says about the two sides, as it says it; None where it says nothing."""

    window: str | None = None
    scenario: str | None = None
    versus: str | None = None
    as_of: date | None = None
    whole: bool = False


@dataclass(frozen=True, slots=True)
class Sides:
    """The two sides, the choices that were made where the call left them open, and the cautions."""

    current: Side
    base: Side | None
    choices: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


def plan_sides(known: Sequence[ScenarioDates], asked: Asked) -> Sides:
    """The current side and its base, cut like for like.

    Raises MarvexError where a scenario or a window is not there.
    """
    of = _current_scenario(known, asked.scenario)
    window = _current_window(of, asked)
    base_of, base_window, choice = _base(known, of, window, asked)
    if asked.whole:
        # Shown whole, the current side is still only as full as its data.
        cautions = _caution_whole(window, base_window)
        window, base_window = _uncut(window), _uncut(base_window)
    else:
        cautions = ()
        window, base_window, trimmed = _trim_to_grain(of, base_of, window, base_window)
        cautions += trimmed
    if base_of is None:
        return Sides(Side(of.name, window), None, choice, cautions)
    if base_window is not None and base_window.months() != (window.months() if window else None):
        cautions += _caution_lengths(window, base_window)
    if base_window is not None:
        cautions += _check_base_has_data(base_of, base_window)
    return Sides(Side(of.name, window), Side(base_of.name, base_window), choice, cautions)


def sides_of_columns(known: Sequence[ScenarioDates], current: str, base: str | None, asked: Asked) -> Sides:
    """The sides of a table that has both as columns, over the same days where it has dates."""
    by_name = {one.name: one for one in known}
    of = by_name.get(current, ScenarioDates(current))  # a column without a figure has no days either
    window = _current_window(of, asked)
    return Sides(Side(current, window), Side(base, window) if base else None)


def _current_scenario(known: Sequence[ScenarioDates], asked: str | None) -> ScenarioDates:
    names = [one.name for one in known if one.name is not None]
    if asked is not None:
        found = _scenario_named(known, asked)
        if found is None and not names:
            raise MarvexError(
                f"--of {asked}: the data have no scenarios",
                "Leave --of out, or name the column with --scenario.",
            )
        if found is None:
            raise MarvexError(
                f"no scenario '{asked}' in the data; there are {listed(names)}", did_you_mean(asked, names)
            )
        return found
    if len(known) == 1:
        return known[0]
    for name in ACTUAL_NAMES:
        if found := _scenario_named(known, name):
            return found
    raise MarvexError(
        f"none of the scenarios is named actual: there are {listed(names)}", "Name the current one with --of."
    )


def _scenario_named(known: Sequence[ScenarioDates], name: str) -> ScenarioDates | None:
    return next((one for one in known if one.name and one.name.casefold() == name.casefold()), None)


def _current_window(of: ScenarioDates, asked: Asked) -> Window | None:
    if of.first is None or of.last is None:
        if asked.window is not None:
            raise MarvexError(f"--for {asked.window}: the data have no dates", "Name the column with --date.")
        return None
    known_to = asked.as_of or of.last
    if asked.window is None:
        window = year_of(known_to)
    else:
        parsed = parse_window(asked.window)
        if parsed is None:
            raise MarvexError(f"--for '{asked.window}' is not a window", f"Write {NOTATIONS}.")
        window = parsed
    if not window.overlaps(of.first, min(of.last, known_to)):
        raise MarvexError(
            f"no {of.spoken} rows in {asked.window or window.first.year}: {of.spoken} runs {_extent(of)}",
            "Ask for a window within that.",
        )
    return window.cut(known_to)


def _base(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None, asked: Asked
) -> tuple[ScenarioDates | None, Window | None, tuple[str, ...]]:
    """The base's scenario and window, and what was chosen where the call does not say."""
    if asked.versus is None:
        return _default_base(known, of, window)
    found = _scenario_named(known, asked.versus)
    if found is not None:
        if found.name == of.name:
            raise MarvexError(
                f"--versus {asked.versus}: the current side is {of.name} too",
                "Name another with --versus or --of.",
            )
        return found, window, ()
    word = asked.versus.casefold()
    if word == "none":
        return None, None, ()
    names = [one.name for one in known if one.name is not None]
    parsed = None if word in NAMED_BASES else parse_window(asked.versus)
    if word not in NAMED_BASES and parsed is None:
        raise MarvexError(
            f"--versus '{asked.versus}' is neither a scenario of the data"
            f"{' (' + listed(names) + ')' if names else ''}, nor prior, year-ago or none, nor a window",
            did_you_mean(asked.versus, [*names, *NAMED_BASES], f"A window is written {NOTATIONS}."),
        )
    if window is None:
        raise MarvexError(f"--versus {asked.versus}: the data have no dates", "Name the column with --date.")
    if parsed is not None:
        return of, same_part(window, parsed), ()
    return of, before(window) if word == "prior" else year_before(window), ()


def _default_base(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None
) -> tuple[ScenarioDates | None, Window | None, tuple[str, ...]]:
    for name in PLANNED_NAMES:
        found = _scenario_named(known, name)
        if found is not None and found.name != of.name and _has_data(found, window):
            return found, window, (f"against {found.name}",)
    if window is not None:
        year_ago = year_before(window)
        if _has_data(of, year_ago):
            return of, year_ago, ("against year-ago",)
    return None, None, ("against nothing: there is neither a plan nor a year before",)


def _has_data(one: ScenarioDates, window: Window | None) -> bool:
    if window is None or one.first is None or one.last is None:
        return True
    return window.overlaps(one.first, one.last)


def _trim_to_grain(
    of: ScenarioDates, base_of: ScenarioDates | None, window: Window | None, base_window: Window | None
) -> tuple[Window | None, Window | None, tuple[str, ...]]:
    """Both windows cut back to whole periods of the coarser grain of the two sides, where they are not."""
    if window is None:
        return window, base_window, ()
    kept_at = [(one, one.grain) for one in (of, base_of) if one is not None and one.grain is not None]
    coarsest, grain = max(kept_at, key=lambda pair: FINEST_FIRST.index(pair[1]))
    # Weeks fit into no month: weekly rows are in the window that their first day is in.
    if grain is Grain.DAY or (grain is Grain.WEEK and window.months() is not None):
        return window, base_window, ()
    trimmed = whole_periods_within(window, grain)
    if trimmed is None:
        raise MarvexError(
            f"{coarsest.spoken} is kept by {grain.value}, and no whole {grain.value} lies in "
            f"{window.first} to {window.end}",
            "Ask for a longer window, or for another base.",
        )
    if trimmed == window:
        return window, base_window, ()
    cautions = (
        f"{coarsest.spoken} is kept by {grain.value}, so both sides are cut back to whole "
        f"{grain.value}s: {trimmed.first} to {trimmed.end}",
    )
    if base_window is None or base_of is None or base_of is not of:
        return trimmed, trimmed if base_window is not None else None, cautions
    base_trimmed = whole_periods_within(same_part(trimmed, _uncut_window(base_window)), grain)
    if base_trimmed is None:
        raise MarvexError(
            f"no whole {grain.value} lies in the base, {base_window.first} to {base_window.end}",
            "Name another base with --versus.",
        )
    return trimmed, base_trimmed, cautions


def _uncut(window: Window | None) -> Window | None:
    return None if window is None else _uncut_window(window)


def _uncut_window(window: Window) -> Window:
    return Window(window.first, window.last, window.grain)


def _caution_whole(window: Window | None, base_window: Window | None) -> tuple[str, ...]:
    if window is None or base_window is None or not window.is_cut:
        return ()
    return (
        f"--whole keeps the whole base, though the current side is known to {window.end} only: "
        "the two sides are not like for like",
    )


def _caution_lengths(window: Window | None, base_window: Window) -> tuple[str, ...]:
    if window is None or window.days == base_window.days:
        return ()
    return (f"the sides differ in length: {window.days} days against {base_window.days}",)


def _check_base_has_data(base_of: ScenarioDates, base_window: Window) -> tuple[str, ...]:
    if base_of.first is None or base_of.last is None:
        return ()
    if not base_window.overlaps(base_of.first, base_of.last):
        raise MarvexError(
            f"no {base_of.spoken} rows from {base_window.first} to {base_window.end}: "
            f"{base_of.spoken} runs {_extent(base_of)}",
            "Name another base with --versus.",
        )
    if base_window.end - base_of.last >= A_WEEK or base_of.first - base_window.first >= A_WEEK:
        return (
            f"the base is only partly filled: {base_of.spoken} runs {_extent(base_of)}, "
            f"the window from {base_window.first} to {base_window.end}",
        )
    return ()


def _extent(one: ScenarioDates) -> str:
    return f"from {one.first} to {one.last}"
