"""Names that are all of months or other periods, in the order of the calendar."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import TypeAlias, TypeVar

from marvex.core.time.calendar import Calendar, MonthYears
from marvex.sources.dates import month_alone, written

_Key: TypeAlias = tuple[int | None, str]  # the number of a row, where each is one of a list, and a name
_T = TypeVar("_T")


def in_calendar_order(keys: Collection[_Key], calendar: Calendar) -> tuple[_Key, ...] | None:
    """The keys from the reporting year's first month on, or by date; None where not all are periods."""
    if len(keys) < 2:
        return None
    if months := _all_read(keys, month_alone):
        starts = calendar.starts if isinstance(calendar, MonthYears) else 1
        return tuple(sorted(keys, key=lambda key: ((months[key] - starts) % 12, key[0] or 0)))
    periods = _all_read(keys, lambda name: written(name, calendar))
    if periods and not all(key[1].isdecimal() for key in keys):
        return tuple(sorted(keys, key=lambda key: (periods[key].first, key[0] or 0)))
    return None


def _all_read(keys: Collection[_Key], read: Callable[[str], _T | None]) -> dict[_Key, _T]:
    """What each name of some keys stands for; nothing where one of them stands for none."""
    found = {}
    for key in keys:
        if not (value := read(key[1])):
            return {}
        found[key] = value
    return found
