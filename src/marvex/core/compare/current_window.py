"""Which window is looked at: the one that is asked for, or the reporting year so far, and how far it is filled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.scenario_words import is_planned
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.errors import Mistake, setting
from marvex.core.time.base_window import year_before
from marvex.core.time.calendar import A_WEEK, CIVIL, ONE_DAY, Grain, coarsest
from marvex.core.time.notation import NOTATIONS, WindowReader, notation
from marvex.core.time.period import period_of
from marvex.core.time.widening import widened
from marvex.core.time.window import Window
from marvex.core.words.trade_words import refuse_trade_word

MOVING = ("latest", "to-date", "rolling", "full-year")  # windows that move with the data


def current_window(
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
        window = _default_window(of, asked)
    else:
        parsed = window_reader(of, asked).read(asked.window)
        if parsed is None:
            refuse_trade_word("for_", asked.window)
            raise Mistake(f"{setting('for_')} '{asked.window}' is not a window", f"Write {NOTATIONS}.")
        window = parsed
        chosen = _window_said(window, of, reached(of, window, asked) if asked.as_of else known_to, asked)
    known_to = reached(of, window, asked)
    filled = window.cut(known_to)
    if asked.span is not None:
        window = filled = widened(filled, asked.span, asked.calendar)
    if not is_outlook and not filled.overlaps(of.first, min(of.last, known_to)):
        raise no_rows(of, window, asked.window or str(window.first.year), asked.as_of)
    return (replace(window, known_to=None) if is_outlook or asked.full_base else filled), chosen


def reached(of: ScenarioDates, window: Window, asked: SidesAsked) -> date:
    """The day to which the current side is known; a window or month with only days without business left is whole.

    A plan says what is to come: of a window that is asked for, it is known as far as it goes.
    """
    assert of.last is not None
    if asked.as_of is not None:
        return max(asked.as_of, of.last) if is_planned(of.name) and asked.window is not None else asked.as_of
    if of.grain is Grain.WEEK and asked.along_time:  # its points are the weeks themselves
        return of.last
    ends = (window.last, window.calendar.end(of.last, Grain.MONTH))
    return next((max(of.last, end) for end in ends if of.known_through(end)), of.last)


def _default_window(of: ScenarioDates, asked: SidesAsked) -> Window:
    """The reporting year so far; of a sheet of one period that period; of data kept by year, along time, all years."""
    known_to = asked.as_of or of.last
    assert known_to is not None and of.first is not None
    if of.grain is Grain.YEAR and asked.along_time:
        first = period_of(of.first, Grain.YEAR, asked.calendar)
        return replace(first, last=period_of(known_to, Grain.YEAR, asked.calendar).last)
    return _only_period(of, asked) or period_of(known_to, Grain.YEAR, asked.calendar)


def as_covered(window: Window, of: ScenarioDates, known: Sequence[ScenarioDates], asked: SidesAsked) -> Window:
    """The reporting year so far without its first months, where nothing is of those, nor of the year before's.

    A sheet of October in two years is not one of January to October.
    """
    days = of.days_within(window.first, window.end)
    if (
        not days
        or of.runs_to_date
        or of.grain not in (Grain.WEEK, Grain.MONTH, Grain.QUARTER, Grain.HALF)
        or (asked.versus == "prior" and not asked.along_time)
    ):
        return window
    start = window.calendar.start(days[0], of.grain)
    # A year may begin within a week.
    is_within = of.grain is Grain.WEEK and len(days) > 1 and start - window.first < A_WEEK
    if start <= window.first or is_within:
        return window
    left_out = replace(window, last=start - ONE_DAY, known_to=None, grain=of.grain)
    for part in (left_out, year_before(left_out)):
        if part is not None and any(one.days_within(part.first, part.last) for one in known):
            return window
    return replace(window, first=start, grain=of.grain)


def _window_said(window: Window, of: ScenarioDates, known_to: date, asked: SidesAsked) -> tuple[str, ...]:
    """What a window was taken for, where its words leave that open."""
    text = asked.window or ""
    word = text.casefold()
    if word.startswith("fy") and asked.calendar == CIVIL:
        return (f"{text} is taken from January to December: {setting('year_starts', 'MONTH')} says otherwise",)
    if not any(one in word for one in MOVING):
        return ()
    upto = f"{of.spoken} being known to {known_to}"
    if asked.as_of is None and window.last > known_to and of.known_through(window.last):
        of_days = f", and having no rows on the weekdays to {window.last}"
        upto += ", the next week being of the period after" if of.grain is Grain.WEEK else of_days
    if of.stops and asked.as_of is None:
        upto += f", and {of.stops}"
    return (f"{setting('for_')} {text} is {written(window)}, {upto}",)


def _only_period(of: ScenarioDates, asked: SidesAsked) -> Window | None:
    """The one period that the current side has rows in, where it is kept by periods: a sheet of one month."""
    if of.grain in (None, Grain.DAY, Grain.YEAR) or asked.as_of is not None or asked.along_time or of.runs_to_date:
        return None
    assert of.grain is not None and of.first is not None
    only = period_of(of.first, of.grain, asked.calendar)
    return only if (only.first, only.end) == (of.first, of.last) else None


def window_reader(of: ScenarioDates, asked: SidesAsked) -> WindowReader:
    known_to = asked.as_of or of.last
    if asked.as_of is None and known_to is not None and of.stops:
        known_to -= ONE_DAY  # the day is not over
    elif asked.as_of is None and known_to is not None:
        # A period is complete where only days without business are left of it.
        ends = (known_to + n * ONE_DAY for n in range(7, 0, -1))
        known_to = next((day for day in ends if of.known_through(day)), known_to)
    return WindowReader(asked.calendar, known_to, of.grain or Grain.DAY, asked.today)


def written(window: Window) -> str:
    """A window as it could be asked for."""
    if window.calendar.end(window.first, window.grain) == window.last:
        return notation(window)
    return f"{window.first}/{window.last}"


def no_rows(of: ScenarioDates, window: Window, named: str, as_of: date | None) -> Mistake:
    if as_of is not None and as_of < window.first:
        known = f"the data are taken as known to {as_of}"
        return Mistake(f"no {of.spoken} rows in {named}: {known}", "Ask for a window to then.")
    rest = f", or take its later zeros as figures with {setting('as_of', of.zeros_to)}" if of.zeros_to else ""
    if of.thin is not None:
        rest = f", or leave out its {of.thin.spoken} with {setting('as_of', of.thin.after)}"
    if of.last is not None and not rest:
        last = period_of(of.last, coarsest(Grain.MONTH, of.grain or Grain.MONTH), window.calendar)
        rest = f", such as {setting('for_', notation(last))}"
    return Mistake(
        f"no {of.spoken} rows in {named}: {of.spoken} runs {extent(of)}", f"Ask for a window within that{rest}."
    )


def extent(one: ScenarioDates) -> str:
    return f"from {one.first} to {one.last}"
