"""What a period is called along an axis: by itself, and by the longer periods that it lies in."""

from __future__ import annotations

from babel.dates import format_date

from marvex.core.compare.point import Point
from marvex.core.time.calendar import Grain, MonthYears
from marvex.core.time.notation import LETTERS
from marvex.core.time.window import Window
from marvex.core.words.side_names import window_text


def levels(period: Window, locale: str) -> tuple[str, ...]:
    """A period's names from its own to its year's: ('Jun', '2026'), ('18', 'Jun', '2026'), ('P03', 'FY2026')."""
    calendar, grain, day = period.calendar, period.grain, period.first
    if grain is Grain.DAY:
        return str(day.day), _month(period, locale), str(day.year)
    place = calendar.place(day, grain)
    year = f"FY{place.year}" if calendar.is_reporting else str(place.year)
    if grain is Grain.YEAR:
        return (year,)
    if grain is Grain.MONTH and isinstance(calendar, MonthYears):
        return _month(period, locale), year
    width = 1 if grain.is_coarser_than_month else 2
    return f"{LETTERS[grain]}{place.number:0{width}}", year


def panel_title(point: Point, locale: str) -> str:
    """What a panel that is a period is called."""
    return window_text(point.pair.period, locale) if point.pair else point.panel or ""


def _month(period: Window, locale: str) -> str:
    return str(format_date(period.first, "LLL", locale))
