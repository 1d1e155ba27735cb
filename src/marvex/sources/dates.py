"""Written dates as days: every form a column may hold, worked out from the whole column.

A text stands for the first day of what it names: `Q1 2026` for 1 January 2026, with the grain it is
written in. Day-month and month-day are told apart by any day above 12; where the column allows
both, the analyst is asked.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping
from datetime import date, timedelta
from re import Match

from marvex.core.errors import Mistake, setting
from marvex.core.time.calendar import CIVIL, Calendar, Grain, MonthYears, PeriodPlace, is_finer
from marvex.core.time.notation import full_year
from marvex.core.values import dataclass
from marvex.sources.month_names import MONTHS, month_number
from marvex.sources.period_words import in_notation, may_say_a_period, months_said

_MONTH = r"(?P<month>[^\W\d_]{3,12})\.?"  # any word: whether it is a month's name is asked when it is read
_YEAR = r"(?:'|’)?(?P<year>\d{4}|\d\d)"
_FY = r"FY\s*(?:'|’)?(?P<year>\d{4}[-/]\d{4}|\d{4}[-/]\d\d|\d\d/\d\d|\d{4}|\d\d)"
_BOTH = r"(?P<year>\d{4}[-/](?:\d{4}|\d\d))"
_WEEK = r"(?:Week|KW|CW|WK|W)\.?\s*"
_BETWEEN = r"[\s\-./,]*(?:de\s+)?"
_APART = r"(?:[-/.]\s?|\s)"  # 31.10.2026, 31. 10. 2026, 31 10 2026
_TIME = r"(?:[T\s]\s*\d{1,2}:\d\d.*)?"

# The name of a weekday before a day, and what is said of a week or a month by its first or last day.
_WEEKDAYS = re.compile(
    r"(?:mon|tue|tues|wed|thu|thur|thurs|fri|sat|sun|(?:mon|tues|wednes|thurs|fri|satur|sun)day|w/[ce]|"
    r"mo|di|mi|do|fr|sa|so|(?:mon|diens|donners|frei|sams|sonn)tag|mittwoch|"
    r"lun|mar|mer|jeu|ven|sam|dim|(?:lun|mar|mercre|jeu|vendre|same)di|dimanche)[.,]*",
    re.IGNORECASE,
)
_BY_ITS_DAY = re.compile(
    r"(?:(?:week|wk|month|period|quarter|year)\.?\s+(?:commencing|beginning|starting)|"
    r"(?:week|wk|month|period)\.?\s+(?:ending|ended)|as\s+(?:at|of))\s+",
    re.IGNORECASE,
)
_LONGEST = len("donnerstag.,")
_LED_BY = frozenset(("week", "wk", "month", "period", "quarter", "year", "as"))

# Day numbers of spreadsheets count from here, so that 1 March 1900 is day 61 (their 1900 had a 29 February).
SERIAL_ZERO = date(1899, 12, 30)
SERIALS = range(20_000, 80_000)  # 1954 to 2119: what a column of dates may hold


@dataclass(frozen=True, slots=True)
class Written:
    """What a text stands for: its first day, and the grain it is written in."""

    first: date
    grain: Grain


_Reading = Callable[[Match[str]], date]

_FORMS: tuple[tuple[re.Pattern[str], Grain, _Reading], ...] = tuple(
    (re.compile(pattern, re.IGNORECASE), grain, reading)
    for pattern, grain, reading in (
        (rf"(\d{{4}}){_APART}(\d\d?){_APART}(\d\d?)\.?{_TIME}", Grain.DAY, lambda m: date(*map(int, m.groups()))),
        (r"((?:19|20)\d\d)(\d\d)(\d\d)", Grain.DAY, lambda m: date(*map(int, m.groups()))),
        (rf"(\d\d?){_BETWEEN}{_MONTH}{_BETWEEN}{_YEAR}{_TIME}", Grain.DAY,
         lambda m: date(full_year(m[3]), month_number(m[2]), int(m[1]))),
        (rf"{_MONTH}\s*(\d\d?),?\s+(\d{{4}}){_TIME}", Grain.DAY,
         lambda m: date(int(m[3]), month_number(m[1]), int(m[2]))),
        (rf"(\d{{4}})[\s\-/]*{_WEEK}(\d\d?)", Grain.WEEK,
         lambda m: date.fromisocalendar(int(m[1]), int(m[2]), 1)),
        (rf"{_WEEK}(\d\d?)[\s\-/,.]*(\d{{4}})", Grain.WEEK,
         lambda m: date.fromisocalendar(int(m[2]), int(m[1]), 1)),
        (rf"{_MONTH}{_BETWEEN}{_YEAR}", Grain.MONTH, lambda m: date(full_year(m[2]), month_number(m[1]), 1)),
        (rf"(\d{{4}}){_BETWEEN}{_MONTH}", Grain.MONTH, lambda m: date(int(m[1]), month_number(m[2]), 1)),
        (r"((?:19|20)\d\d)[-/.\s]?M?(0[1-9]|1[0-2])", Grain.MONTH, lambda m: date(int(m[1]), int(m[2]), 1)),
        (r"M?(0?[1-9]|1[0-2])[-/.](\d{4})", Grain.MONTH, lambda m: date(int(m[2]), int(m[1]), 1)),
        (r"M(0?[1-9]|1[0-2])\s*(\d{4})", Grain.MONTH, lambda m: date(int(m[2]), int(m[1]), 1)),
        (rf"Q([1-4])[\s\-/]*{_YEAR}", Grain.QUARTER, lambda m: date(full_year(m[2]), int(m[1]) * 3 - 2, 1)),
        (rf"([1-4])Q[\s\-/]*{_YEAR}", Grain.QUARTER, lambda m: date(full_year(m[2]), int(m[1]) * 3 - 2, 1)),
        (r"(\d{4})[\s\-/]*Q([1-4])", Grain.QUARTER, lambda m: date(int(m[1]), int(m[2]) * 3 - 2, 1)),
        (rf"H([12])[\s\-/]*{_YEAR}", Grain.HALF, lambda m: date(full_year(m[2]), int(m[1]) * 6 - 5, 1)),
        (rf"([12])H[\s\-/]*{_YEAR}", Grain.HALF, lambda m: date(full_year(m[2]), int(m[1]) * 6 - 5, 1)),
        (r"(\d{4})[\s\-/]*H([12])", Grain.HALF, lambda m: date(int(m[1]), int(m[2]) * 6 - 5, 1)),
        (r"((?:19|20)\d\d)", Grain.YEAR, lambda m: date(int(m[1]), 1, 1)),
    )
)  # fmt: skip
# Of the reporting calendar, whatever that is: the year, the letter of a grain, the number of the period.
_REPORTING = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        rf"{_FY}(?:[\s\-]*(?P<grain>P|Q|H|W|M|Period)\s*(?P<number>\d\d?))?",
        rf"(?P<grain>P|Period)\s*(?P<number>\d\d?)[\s\-/.,]*(?:FY\s*)?{_YEAR}",
        rf"(?P<grain>P|Q|H|W|M|Period)\s*(?P<number>\d\d?)[\s\-/.,]*{_FY}",
        r"(?P<year>\d{4})[\s\-/.]*(?P<grain>P|Period)\s*(?P<number>\d\d?)",
        r"0(?P<number>[01]\d)[-/.](?P<year>20\d\d)",
        r"(?P<year>20\d\d)0(?P<number>[01]\d)",
        rf"{_BOTH}\s+(?P<grain>P|Q|H|W|M|Period)\s*(?P<number>\d\d?)",
        rf"{_BOTH}\s+{_MONTH}",
        rf"{_MONTH}\s+{_BOTH}",
        rf"FY\s*{_YEAR}[\s\-]*{_MONTH}",
        rf"{_MONTH}[\s\-]*FY\s*{_YEAR}",
    )
)
_TWO_YEARS = re.compile(r"(?:FY\s*)?(\d{4}|\d\d)[-/](\d{4}|\d\d)", re.IGNORECASE)
_GRAINS = {"p": Grain.MONTH, "q": Grain.QUARTER, "h": Grain.HALF, "w": Grain.WEEK, "m": Grain.MONTH}
_ALONE = re.compile(r"(Period|P|Month|M|Quarter|Q|Half|H|Week|WK|KW|CW|W)?\.?\s*(\d\d?)", re.IGNORECASE)
_BY_MONTHS = {one.months: one for one in (Grain.MONTH, Grain.QUARTER, Grain.HALF, Grain.YEAR)}
MOST_PERIODS = 53  # of a year: of weeks
_BESIDE_MONTHS = r"0?(?:00|1[3-6])|0"
_OUTSIDE = (
    rf"(?:FY)?(?:19|20)\d\d[-/. ]?[PM]?(?P<behind>{_BESIDE_MONTHS})|"
    rf"P?(?P<before>{_BESIDE_MONTHS})[-/. ](?:19|20)\d\d"
)
_NUMBERS = re.compile(rf"(\d\d?){_APART}(\d\d?){_APART}(\d{{4}}|(?<!\s)\d\d)\.?{_TIME}")

_SHORT = re.compile(r"(0?[1-9]|1[0-2])[-/](\d\d)")
_SHORT_YEARS = range(2019, 2041)  # of them, which no month is: 2041 and later are nobody's actuals or budget
LEAST_SHORT = 3


# Of whatever calendar: the first part of a period begins within them, and none of the next.
_LEAST_DAYS = {Grain.WEEK: 7, Grain.MONTH: 28, Grain.QUARTER: 84, Grain.HALF: 175, Grain.YEAR: 357}


def written(text: str, calendar: Calendar = CIVIL) -> Written | None:
    """What a text stands for where that does not hang on the rest of its column.

    Parameters
    ----------
    calendar : the reporting calendar, of which `FY26 P3` is a period.

    >>> written("Q2 2026")
    Written(first=datetime.date(2026, 4, 1), grain=<Grain.QUARTER: 'quarter'>)
    >>> [str(written(one).first) for one in ("Mon 5 Jan 2026", "Mar 2026", "Q1 FY25/26")]
    ['2026-01-05', '2026-03-01', '2026-01-01']
    """
    text, bare = text.strip(), _bare(text)
    if (plain := _of_any_calendar(text)) is not None:
        return plain
    if (named := _of_reporting_year(text)) is not None:
        return _in_year(*named, calendar)
    # Only a day has a weekday: `Mar 2026` is of March, and of no Tuesday.
    plain = _of_any_calendar(bare) if bare != text else None
    if plain and plain.grain is Grain.DAY:
        return plain
    return _in_words(text, calendar) if may_say_a_period(text) else None


def _in_words(text: str, calendar: Calendar) -> Written | None:
    """What words say of a period; a year that ends in any month is one, whether the calendar has it or not."""
    if (notation := in_notation(text)) is not None:
        return _of_any_calendar(notation)
    said = months_said(text, _end_of)
    grain = _BY_MONTHS.get(said.months) if said else None
    if said is None or grain is None:
        return None
    is_period = grain is Grain.YEAR or said.first in (
        calendar.start(said.first, grain),
        CIVIL.start(said.first, grain),
    )
    return Written(said.first, grain) if is_period else None


def _end_of(text: str) -> date | None:
    """The last day of a day or a month that a text names by itself."""
    orders = {day for order in ("dmy", "mdy") if (day := _in_order(text, order))}
    its = Written(orders.pop(), Grain.DAY) if len(orders) == 1 else _of_any_calendar(text)
    if its is None or its.grain not in (Grain.DAY, Grain.MONTH):
        return None
    return CIVIL.end(its.first, its.grain)


_ORDINAL = re.compile(r"\b(\d{1,2})(?:st|nd|rd|th)\b(?: of\b)?", re.IGNORECASE)


def _bare(text: str) -> str:
    """A date without the name of its weekday, and without what is said of a week by its first or last day; `1st March`
    as `1 March`."""
    first, _, rest = text.strip().partition(" ")
    if len(first) <= _LONGEST and _WEEKDAYS.fullmatch(first):
        return _bare(rest)
    if _ORDINAL.search(text) and any(map(month_alone, text.replace(",", " ").split())):
        return _ORDINAL.sub(r"\1", text).strip()
    return _BY_ITS_DAY.sub("", text.strip(), count=1) if first.casefold().rstrip(".") in _LED_BY else text.strip()


def _of_any_calendar(text: str) -> Written | None:
    for pattern, grain, reading in _FORMS:
        found = pattern.fullmatch(text)
        if found:
            try:
                return Written(reading(found), grain)
            except ValueError:
                continue
    return None


def _of_reporting_year(text: str) -> tuple[str, str, str] | None:
    """The year, the letter of a grain and the number, or the name of a month, of a period of a reporting year."""
    for pattern in _REPORTING:
        if named := pattern.fullmatch(text):
            said = named.groupdict()
            first, _, second = said["year"].replace("-", "/").partition("/")
            if second and full_year(second) != full_year(first) + 1:
                continue
            letter = said.get("grain") or ("p" if said.get("number") else "m" if said.get("month") else "")
            return said["year"], letter[:1].casefold(), said.get("number") or said.get("month") or "1"
    years = _TWO_YEARS.fullmatch(text)
    if (
        years
        and full_year(years[2]) == full_year(years[1]) + 1
        and (len(years[1]) == 4 or text[:2].casefold() == "fy")
    ):
        return text, "", "1"
    return None


def _in_year(year: str, letter: str, number: str, calendar: Calendar) -> Written | None:
    """The period of a reporting year; of one that is named by two years, the calendar says by which it is called."""
    grain = _GRAINS[letter] if letter else Grain.YEAR
    years = [full_year(one) for one in re.findall(r"\d+", year)]
    named = years[0] if isinstance(calendar, MonthYears) and calendar.named_by_start else years[-1]
    try:
        if letter != "m":
            return Written(calendar.first_day(PeriodPlace(named, int(number)), grain), grain)
        month = int(number) if number.isdecimal() else month_number(number)
        firsts = (calendar.first_day(PeriodPlace(named, place), grain) for place in range(1, 13))
        return next((Written(first, grain) for first in firsts if first.month == month and first.day == 1), None)
    except ValueError:
        return None


def outside_the_months(text: str) -> int | None:
    """The number of a period that is none of a year's months: 0 of what is brought forward, 13 to 16 of adjustments.

    >>> [outside_the_months(one) for one in ("FY2025-P13", "202500", "2025-016", "014/2025", "2025-12", "2025-17")]
    [13, 0, 16, 14, None, None]
    """
    found = re.fullmatch(_OUTSIDE, text.strip(), re.IGNORECASE)
    return int(found["behind"] or found["before"]) if found else None


def is_of_reporting_year(text: str) -> bool:
    """Whether the text names a period of a reporting year, such as `FY26 P3`."""
    text = text.strip()
    return _of_any_calendar(text) is None and _of_reporting_year(text) is not None


def names_two_years(text: str) -> bool:
    """Whether a period of a reporting year names it by both of its years: `2025/26 Apr`."""
    named = _of_reporting_year(text.strip())
    return named is not None and len(re.findall(r"\d+", named[0])) > 1


def years_of(text: str, *, by_start: bool = False) -> tuple[int, int] | None:
    """The two years in which a reporting year lies that is named by both, or as `FY26` by the one in which it ends.

    Parameters
    ----------
    by_start : or by the one in which it begins.

    >>> years_of("2025/26"), years_of("FY26"), years_of("2026")
    ((2025, 2026), (2025, 2026), None)
    """
    text = text.strip()
    named = None if _of_any_calendar(text) else _of_reporting_year(text)
    if named is None or named[1]:
        return None
    said = re.findall(r"\d+", named[0])
    last = full_year(said[-1]) + (by_start and len(said) == 1)
    return last - 1, last


def is_like_a_date(text: str, *, serials: bool = False) -> bool:
    """Whether the text could be a date by itself, whichever way round it is written."""
    if written(text) is not None or any(_in_order(text, order) for order in ("dmy", "mdy")):
        return True
    return serials and _serial(text) is not None


def is_numeric_date(text: str) -> bool:
    """Whether a text is a date in numbers, of which day and month may stand in either order."""
    return _NUMBERS.fullmatch(text.strip()) is not None


def is_short_month(text: str) -> bool:
    """Whether a text may be a month of a year, both in two figures."""
    return _SHORT.fullmatch(text.strip()) is not None


def short_months(texts: Iterable[str]) -> dict[str, Written]:
    """The months of `11/25, 12/25, 01/26`, where all of the texts are such; else none.

    The second may be the day of the first as well: they are months where they follow one another without a gap, or
    where each year has three or more, and no more left out than there are.

    >>> [str(one.first) for one in short_months(("12/25", "01/26", "02/26")).values()]
    ['2025-12-01', '2026-01-01', '2026-02-01']
    >>> short_months(("10/24", "10/25", "10/28")), short_months(("01/26", "02/26", "Total"))
    ({}, {})
    """
    found: dict[str, Written] = {}
    for text in texts:
        parts = _SHORT.fullmatch(text.strip())
        if parts is None or (year := full_year(parts[2])) not in _SHORT_YEARS:
            return {}
        found[text] = Written(date(year, int(parts[1]), 1), Grain.MONTH)
    months = sorted({12 * one.first.year + one.first.month - 1 for one in found.values()})
    years = sorted({month // 12 for month in months})
    of_years = [[month for month in months if month // 12 == year] for year in years]
    is_run = len(months) >= LEAST_SHORT and months[-1] - months[0] < len(months)
    follow = all(len(one) >= LEAST_SHORT and one[-1] - one[0] < 2 * len(one) for one in of_years)
    is_of_years = bool(years) and follow and years[-1] - years[0] < len(years)
    return found if is_run or is_of_years else {}


def period_alone(text: str) -> tuple[str, int] | None:
    """What a period without a year is: the letter of its kind, and its number; of a bare number the letter is empty.

    >>> [period_alone(one) for one in ("March", "P03", "3", "2026-03")]
    [('m', 3), ('p', 3), ('', 3), None]
    """
    if month := month_alone(text):
        return "m", month
    found = _ALONE.fullmatch(text.strip())
    if found is None or not 1 <= int(found[2]) <= MOST_PERIODS:
        return None
    letter = (found[1] or "")[:1].casefold()
    return "w" if letter in ("k", "c") else letter, int(found[2])


def month_alone(text: str) -> int | None:
    """The number of a month named without a year, as months across the top often are."""
    return MONTHS.get(text.strip().casefold().rstrip("."))


def read_days(
    texts: Iterable[str],
    order: str,
    column: str,
    *,
    serials: bool = False,
    calendar: Calendar = CIVIL,
    year: str | None = None,
) -> dict[str, Written | None]:
    """What each text of a column stands for; None where one is no date.

    Parameters
    ----------
    order : `auto`, `dmy`, `mdy` or `ymd`.
    column : what to call the column in a question.
    serials : whether bare numbers are a spreadsheet's day numbers, as the heading may say.
    year : that of periods that say none; of two, those of a reporting year.

    Raises Mistake where day-month and month-day serve equally.
    """
    found: dict[str, Written | None] = {}
    numeric = []
    for text in texts:
        found[text] = written(text, calendar) or (_in_said_year(text, year, calendar) if year else None)
        if found[text] is None and serials:
            found[text] = _serial(text)
        if found[text] is None and _NUMBERS.fullmatch(_bare(text)):
            numeric.append(text)
    if not numeric:
        found.update(short_months(found))
        return found
    chosen = order if order != "auto" else _order_of(numeric, column)
    for text in numeric:
        day = _in_order(text, chosen)
        found[text] = Written(day, Grain.DAY) if day else None
    return found


def _in_said_year(text: str, year: str, calendar: Calendar) -> Written | None:
    """The period of a year that it does not say itself: a month or a quarter."""
    if "/" not in year:
        return written(f"{text} {year}", calendar) if period_alone(text) else None
    letter, number = period_alone(text) or ("", 0)
    return _in_year(year, letter, str(number), calendar) if letter else None


def nested(days: Mapping[str, Written]) -> tuple[str, str] | None:
    """A text of some days and one that stands for a part of them, as a quarter's total among months; None without.

    >>> nested({one: written(one) for one in ("2026-01", "2026-Q1", "2025-Q4")})
    ('2026-Q1', '2026-01')
    """
    in_order = sorted(days.items(), key=lambda one: (one[1].first, -_LEAST_DAYS.get(one[1].grain, 0), one[0]))
    firsts = [one.first for _, one in in_order]
    for text, whole in in_order:
        if whole.grain is not Grain.DAY:
            after = bisect_left(firsts, whole.first + timedelta(_LEAST_DAYS[whole.grain]))
            for other, part in in_order[bisect_left(firsts, whole.first) : after]:
                if is_finer(part.grain, whole.grain):
                    return text, other
    return None


def _order_of(texts: list[str], column: str) -> str:
    """`dmy` or `mdy`, by which reads more of the texts; asks where both read all and differ."""
    readings = {order: [_in_order(text, order) for text in texts] for order in ("dmy", "mdy")}
    counts = {order: sum(day is not None for day in days) for order, days in readings.items()}
    if counts["dmy"] != counts["mdy"]:
        return max(counts, key=lambda order: counts[order])
    if readings["dmy"] == readings["mdy"]:
        return "dmy"
    both = zip(texts, readings["dmy"], readings["mdy"], strict=True)
    example = min(text for text, one, other in both if one != other)
    raise Mistake(
        f"{column}: '{example}' and all others could be day-month or month-day",
        f"Say which with {setting('dates', 'dmy')} or {setting('dates', 'mdy')}.",
    )


def _in_order(text: str, order: str) -> date | None:
    found = _NUMBERS.fullmatch(_bare(text))
    if not found:
        return None
    first, second, third = found.groups()
    try:
        match order:
            case "dmy":
                return date(full_year(third), int(second), int(first))
            case "mdy":
                return date(full_year(third), int(first), int(second))
            case _:
                return date(full_year(first), int(second), int(third))
    except ValueError:
        return None


def _serial(text: str) -> Written | None:
    number = text.strip().partition(".")[0]
    if number.isdecimal() and int(number) in SERIALS:
        return Written(SERIAL_ZERO + timedelta(days=int(number)), Grain.DAY)
    return None
