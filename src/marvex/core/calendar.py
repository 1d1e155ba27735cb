"""How a window is written in a command: `2026`, `2026-H1`, `2026-Q2`, `2026-06`, `2026-W23`, a day, `A/B`."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import date
from re import Match

from marvex.core.errors import MarvexError
from marvex.core.period import FINEST_FIRST, Grain, Window, period_end, period_start

NOTATIONS = "2026, 2026-H1, 2026-Q2, 2026-06, 2026-W23, 2026-06-18 or an interval such as 2026-01/2026-03"


def _day(found: Match[str]) -> date:
    return date(int(found[1]), int(found[2]), int(found[3]))


def _month(found: Match[str]) -> date:
    return date(int(found[1]), int(found[2]), 1)


_FORMS: tuple[tuple[str, Grain, Callable[[Match[str]], date]], ...] = (
    (r"(\d{4})-(\d\d)-(\d\d)", Grain.DAY, _day),
    (r"(\d{4})-W(\d\d)", Grain.WEEK, lambda m: date.fromisocalendar(int(m[1]), int(m[2]), 1)),
    (r"(\d{4})-(\d\d)", Grain.MONTH, _month),
    (r"(\d{4})-Q([1-4])", Grain.QUARTER, lambda m: date(int(m[1]), int(m[2]) * 3 - 2, 1)),
    (r"(\d{4})-H([12])", Grain.HALF, lambda m: date(int(m[1]), int(m[2]) * 6 - 5, 1)),
    (r"(\d{4})", Grain.YEAR, lambda m: date(int(m[1]), 1, 1)),
)


def parse_window(text: str) -> Window | None:
    """The window so written, or None where the text is not the notation of one.

    Raises MarvexError where it is a notation but of no such time (`2026-13`), or an interval
    that runs backwards.

    >>> parse_window("2026-Q2").last
    datetime.date(2026, 6, 30)
    >>> parse_window("budget") is None
    True
    """
    parts = [part.strip() for part in text.split("/")]
    if len(parts) > 2:
        return None
    windows = [_parse_period(part) for part in parts]
    if any(window is None for window in windows):
        return None
    start, end = windows[0], windows[-1]
    assert start is not None and end is not None
    if end.last < start.first:
        raise MarvexError(f"the window '{text}' ends before it starts", "Write the earlier period first.")
    finest = min(start.grain, end.grain, key=FINEST_FIRST.index)
    return Window(start.first, end.last, finest)


def year_of(day: date) -> Window:
    """The reporting year that holds a day."""
    return Window(period_start(day, Grain.YEAR), period_end(day, Grain.YEAR), Grain.YEAR)


def _parse_period(text: str) -> Window | None:
    for pattern, grain, first_day in _FORMS:
        found = re.fullmatch(pattern, text, re.IGNORECASE)
        if not found:
            continue
        try:
            first = first_day(found)
            return Window(first, period_end(first, grain), grain)
        except (ValueError, OverflowError) as problem:
            raise MarvexError(f"there is no {grain.value} '{text}'", f"Write {NOTATIONS}.") from problem
    return None
