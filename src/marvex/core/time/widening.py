"""Windows widened backwards from their end: the quarter or year to date, or a rolling span."""

from __future__ import annotations

from dataclasses import replace
from enum import Enum

from marvex.core.errors import Mistake
from marvex.core.time.calendar import Calendar, Grain
from marvex.core.time.period import period_of, previous
from marvex.core.time.window import Window
from marvex.core.values import dataclass

FIRST_YEAR = 3  # so that there is a year before it, too


class Reach(Enum):
    """How far back from its end a window is widened."""

    PERIOD = "period"
    QUARTER_TO_DATE = "quarter-to-date"
    YEAR_TO_DATE = "year-to-date"
    ROLLING = "rolling"


@dataclass(frozen=True, slots=True)
class Widening:
    """`year-to-date`, `rolling:12`: a reach, and how many months where it is rolling, or periods that are shorter."""

    reach: Reach
    count: int = 0


def widened(window: Window, widening: Widening, calendar: Calendar) -> Window:
    """The window widened backwards from its end.

    >>> from datetime import date
    >>> from marvex.core.time.calendar import CIVIL, Grain
    >>> june = Window(first=date(2026, 6, 1), last=date(2026, 6, 30), grain=Grain.MONTH)
    >>> widened(june, Widening(Reach.ROLLING, 12), CIVIL).first
    datetime.date(2025, 7, 1)

    Raises Mistake where it would begin before there were dates, or within a period of the window.
    """
    if widening.reach is Reach.PERIOD:
        return window
    if widening.reach is Reach.ROLLING:
        if window.grain.months and widening.count % window.grain.months:
            raise Mistake(
                f"rolling:{widening.count} counts months, which are no whole {window.grain.plural}",
                f"Ask for rolling:{widening.count * window.grain.months}, or for a month.",
            )
        period = period_of(window.last, Grain.MONTH if window.grain.months else window.grain, window.calendar)
        for _ in range(widening.count - 1):
            period = previous(period)
            if period.first.year < FIRST_YEAR:
                raise Mistake(
                    f"rolling:{widening.count} would begin before there were dates", "Ask for fewer periods."
                )
        return replace(window, first=period.first)
    grain = Grain.YEAR if widening.reach is Reach.YEAR_TO_DATE else Grain.QUARTER
    whole = period_of(window.end, grain, calendar)
    wide = replace(window, first=whole.first, last=min(window.last, whole.last), known_to=None)
    return replace(wide.cut(window.end), calendar=calendar, to_date_of=grain)
