"""How windows, calendars and spans are written in a command, and how a period is written back.

`2026`, `2026-H1`, `2026-Q2`, `2026-06`, `2026-W23`, `2026-06-18` are of the civil calendar; `FY2026`,
`FY2026-Q1`, `FY2026-P03`, `FY2026-W23` of the reporting calendar; `latest:month`; `year-to-date`,
`quarter-to-date` and `rolling:12`, which end with the latest; `full-year`; `today`, `yesterday`; `A/B`.
"""

from __future__ import annotations

import calendar as names
import re
from dataclasses import replace
from datetime import date, timedelta

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.time.calendar import (
    CIVIL,
    FINEST_FIRST,
    ONE_DAY,
    Calendar,
    Grain,
    MonthYears,
    PeriodPlace,
    WeekYears,
    YearEnd,
    coarsest,
)
from marvex.core.time.period import period_of, previous
from marvex.core.time.widening import Reach, Widening, widened
from marvex.core.time.window import Window
from marvex.core.values import dataclass
from marvex.core.words.trade_words import refuse_trade_word

NOTATIONS = (
    "2026, 2026-H1, 2026-Q2, 2026-06, 2026-W23, 2026-06-18, FY2026-P03, latest:month, year-to-date, rolling:12, "
    "full-year or an interval such as 2026-01/2026-03"
)
LETTERS = {Grain.MONTH: "P", Grain.QUARTER: "Q", Grain.HALF: "H", Grain.WEEK: "W"}
_GRAINS = {letter: grain for grain, letter in LETTERS.items()}
_CIVIL = re.compile(r"(\d{4})(?:-(?:(\d\d)(?:-(\d\d))?|([QHW])(\d\d?)))?", re.IGNORECASE)
_REPORTING = re.compile(r"FY\s?(\d{4}|\d\d)(?:-([PQHW])(\d\d?))?", re.IGNORECASE)
_LATEST = re.compile(r"latest(?::(\w+))?", re.IGNORECASE)
FULL_YEAR, TODAY, YESTERDAY = "full-year", "today", "yesterday"
_TO_DATE = (Reach.YEAR_TO_DATE.value, Reach.QUARTER_TO_DATE.value)
_MONTHS = tuple(name.casefold() for name in names.month_name)
_WEEKDAYS = tuple(name.casefold() for name in names.day_name)


def notation(period: Window) -> str:
    """How one period is written in a command, and named in figures.

    >>> notation(period_of(date(2025, 9, 1), Grain.MONTH, MonthYears(starts=7)))
    'FY2026-P03'
    """
    grain, calendar = period.grain, period.calendar
    day = period.first
    if grain is Grain.DAY:
        return day.isoformat()
    place = calendar.place(day, grain)
    if grain is Grain.WEEK and not calendar.weeks_make_years:
        return f"{place.year}-W{place.number:02}"
    if not calendar.is_reporting and grain is Grain.MONTH:
        return f"{place.year}-{place.number:02}"
    year = f"FY{place.year}" if calendar.is_reporting else f"{place.year:04}"
    if grain is Grain.YEAR:
        return year
    width = 1 if grain.is_coarser_than_month else 2
    return f"{year}-{LETTERS[grain]}{place.number:0{width}}"


@dataclass(frozen=True, slots=True)
class WindowReader:
    """Reads windows as a call writes them.

    Parameters
    ----------
    calendar : the reporting calendar.
    known_to : the day to which the data are known, for `latest`; None where there are no dates.
    grain : the data's own grain, for `latest` alone.
    today : by the clock.
    """

    calendar: Calendar = CIVIL
    known_to: date | None = None
    grain: Grain = Grain.DAY
    today: date | None = None

    def read(self, text: str) -> Window | None:
        """The window so written, or None where the text is not the notation of one.

        Raises Mistake where it is a notation but of no such time (`2026-13`), or an interval
        that runs backwards.

        >>> WindowReader().read("2026-Q2").last
        datetime.date(2026, 6, 30)
        >>> WindowReader().read("budget") is None
        True
        """
        parts = [part.strip() for part in text.split("/")]
        if len(parts) > 2:
            return None
        windows = [self._period(part) for part in parts]
        start, end = windows[0], windows[-1]
        if start is None or end is None:
            return None
        if end.last < start.first:
            raise Mistake(f"the window '{text}' ends before it starts", "Write the earlier period first.")
        finest = min(start, end, key=lambda one: FINEST_FIRST.index(one.grain))
        return replace(finest, first=start.first, last=end.last)

    def _period(self, text: str) -> Window | None:
        if found := _LATEST.fullmatch(text):
            return self._latest(found[1])
        word = text.casefold()
        if word == FULL_YEAR or is_widening(word):
            return self._moving(word)
        if word in (TODAY, YESTERDAY) and self.today is not None:
            return period_of(self.today - (ONE_DAY if word == YESTERDAY else timedelta()), Grain.DAY)
        reporting, civil = _REPORTING.fullmatch(text), _CIVIL.fullmatch(text)
        found = reporting or civil
        if found is None:
            return None
        try:
            return self._reporting(*found.groups()) if reporting else _civil(*found.groups())
        except (ValueError, OverflowError) as problem:
            raise Mistake(f"there is no {_grain_meant(text)} '{text}'", f"Write {NOTATIONS}.") from problem

    def _moving(self, word: str) -> Window:
        """A window that ends with the latest period, or the whole reporting year that holds it."""
        latest = self._latest(None)
        if word == FULL_YEAR:
            return period_of(latest.first, Grain.YEAR, self.calendar)
        return widened(latest, read_widening(word, "for_"), self.calendar)

    def _reporting(self, year: str, letter: str | None, number: str | None) -> Window:
        grain = _GRAINS[letter.upper()] if letter else Grain.YEAR
        if grain is Grain.WEEK and not self.calendar.weeks_make_years:
            raise Mistake(
                f"FY{year}-W{number}: the reporting year is not made of weeks",
                f"Write {year}-W{number} for a civil week, "
                f"or say {setting('weeks', '4-4-5')} and {setting('year_ends')}.",
            )
        place = PeriodPlace(full_year(year), int(number or 1))
        return period_of(self.calendar.first_day(place, grain), grain, self.calendar)

    def _latest(self, word: str | None) -> Window:
        if self.known_to is None:
            raise Mistake("latest: the data have no dates", f"Name the column with {setting('date')}.")
        grain = coarsest(Grain.MONTH, self.grain) if word is None else grain_named(word, "latest")
        period = period_of(self.known_to, grain, self.calendar)
        return period if period.last <= self.known_to else previous(period)


def _civil(year: str, month: str | None, day: str | None, letter: str | None, number: str | None) -> Window:
    grain = Grain.YEAR
    first = date(int(year), int(month or 1), int(day or 1))
    if month:
        grain = Grain.DAY if day else Grain.MONTH
    elif letter and number:
        grain = _GRAINS[letter.upper()]
        first = CIVIL.first_day(PeriodPlace(int(year), int(number)), grain)
    return period_of(first, grain)


def _grain_meant(text: str) -> str:
    """The grain that a notation is of, for a message: `2026-13` is no month."""
    letter = next((one for one in text.upper().partition("-")[2] if one in _GRAINS), None)
    return _GRAINS[letter].value if letter else ("year", "month", "day")[min(text.count("-"), 2)]


def full_year(text: str) -> int:
    """A year of two digits is of this century."""
    return int(text) if len(text) > 2 else 2000 + int(text)


def grain_named(word: str, where: str) -> Grain:
    """The grain of that name; raises Mistake with the nearest."""
    known = [grain.value for grain in Grain]
    if word.casefold() not in known:
        raise Mistake(
            f"{where}: there is no grain '{word}'", did_you_mean(word, known, f"There are {', '.join(known)}.")
        )
    return Grain(word.casefold())


def is_widening(text: str) -> bool:
    """Whether a window's words are of a reach that ends with the latest period: `year-to-date`, `rolling:12`."""
    word = text.casefold()
    return word in _TO_DATE or word.startswith(f"{Reach.ROLLING.value}:")


def read_widening(text: str, field: str) -> Widening:
    """`period`, `quarter-to-date`, `year-to-date` or `rolling:12`."""
    word, _, count = text.partition(":")
    reaches = {reach.value: reach for reach in Reach}
    is_rolling = word == Reach.ROLLING.value
    if word not in reaches or bool(count) != is_rolling or (is_rolling and not (count.isdecimal() and int(count))):
        refuse_trade_word(field, text)
        known = [*(name for name in reaches if name != Reach.ROLLING.value), "rolling:12"]
        raise Mistake(
            f"{setting(field)}: there is no '{text}'", did_you_mean(text, known, f"There are {', '.join(known)}.")
        )
    return Widening(reaches[word], int(count or 0))


def read_calendar(year_starts: str | None, year_named: str, weeks: str | None, year_ends: str | None) -> Calendar:
    """The reporting calendar that the options describe; raises Mistake where they contradict."""
    by_start = year_named == "start"
    if weeks is None:
        if year_ends is not None:
            raise Mistake(
                f"{setting('year_ends')} is for a year of weeks",
                f"Give {setting('weeks', '4-4-5')} too, or {setting('year_starts', 'MONTH')}.",
            )
        return MonthYears(_month(year_starts, "year_starts") if year_starts else 1, by_start)
    if year_starts is not None:
        raise Mistake(
            f"{setting('weeks')} and {setting('year_starts')} exclude one another",
            f"Say {setting('year_ends')} for a year of weeks.",
        )
    if year_ends is None:
        raise Mistake(
            f"{setting('weeks')} {weeks} does not say when the year ends",
            f"Add {setting('year_ends', 'last saturday of january')}.",
        )
    first, second, third = (int(part) for part in weeks.split("-"))
    return WeekYears((first, second, third), _year_end(year_ends), by_start)


def _year_end(text: str) -> YearEnd:
    words = text.casefold().split()
    match words:
        case ["last", weekday, "of", month] if weekday in _WEEKDAYS:
            return YearEnd(_WEEKDAYS.index(weekday), _month(month, "year_ends"))
        case [weekday, "nearest", day, month] if weekday in _WEEKDAYS and day.isdecimal():
            number = _month(month, "year_ends")
            # A day that not every year has cannot be what a year's end is near.
            if not 1 <= int(day) <= names.monthrange(2025, number)[1]:
                raise Mistake(f"{setting('year_ends')}: there is no {day} {month} in every year", "Name another day.")
            return YearEnd(_WEEKDAYS.index(weekday), number, int(day))
    raise Mistake(
        f"{setting('year_ends')} '{text}' cannot be read",
        "Write 'last saturday of january' or 'saturday nearest 31 january'.",
    )


def _month(text: str, field: str) -> int:
    """The number of a month, by its name, its first three letters or its number."""
    word = text.casefold()
    if word.isdecimal() and 1 <= int(word) <= 12:
        return int(word)
    for number, name in enumerate(_MONTHS):
        if number and len(word) >= 3 and name.startswith(word):
            return number
    raise Mistake(f"{setting(field)}: there is no month '{text}'", did_you_mean(word, _MONTHS[1:], "Write july."))
