"""Periods said in words: `First quarter 2026`, `Jan-Jun 2026`, `Six months ended 30 June 2026`, `2026年1月`."""

from __future__ import annotations

import re
from calendar import monthrange
from collections.abc import Callable
from datetime import date

from marvex.core.time.calendar import ONE_DAY
from marvex.core.time.notation import full_year
from marvex.core.values import dataclass
from marvex.sources.month_names import MONTHS

NUMBERS = {"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10,
           "eleven": 11, "twelve": 12, "eighteen": 18}  # fmt: skip
_PLACES = {"first": 1, "second": 2, "third": 3, "fourth": 4}
_YEAR = r"(?P<year>(?:19|20)\d\d)"
_QUARTER = r"(?:quarter|qtr|quartal|trimestre|trimester|kwartaal|kvartal|kvart[aá]l)\.?"
_HALF = r"(?:half(?:[- ]year)?|halbjahr|semestre|hy)\.?"
_NTH = r"(?P<place>[1-4])(?:st|nd|rd|th|er|e|º|ª|°|\.)?|(?P<word>first|second|third|fourth)"
_OF = r"[\s,./-]*(?:of\s+|de\s+)?"
# Each with the letter of its grain; `1T26` is of a trimestre, while `T1 2026` may be of a terminal.
_PARTS = (
    *(
        (re.compile(pattern, re.IGNORECASE), letter)
        for noun, letter in ((_QUARTER, "Q"), (_HALF, "H"))
        for pattern in (
            rf"{noun}\s*(?P<place>[1-4]){_OF}{_YEAR}",
            rf"(?:{_NTH})\s*{noun}{_OF}{_YEAR}",
            rf"{_YEAR}{_OF}{noun}\s*(?P<place>[1-4])",
            rf"{_YEAR}{_OF}(?:{_NTH})\s*{noun}",
        )
    ),
    (re.compile(r"(?P<place>[1-4])T[\s/-]?(?P<year>(?:20)?[123]\d)"), "Q"),
)
_WHOLE_YEAR = re.compile(rf"(?:CY|(?:calendar|full|whole)[- ]year)\s*{_YEAR}|((?:19|20)\d\d)年", re.IGNORECASE)
_OTHER_MONTH = re.compile(rf"{_YEAR}(?:M(?P<month>[1-9])|\s?年\s?(?P<other>\d\d?)\s?月)", re.IGNORECASE)
_NAME = r"[^\W\d_]{3,12}\.?"
_MONTHS = re.compile(
    rf"(?:(?P<lead>(?:19|20)\d\d)\s+)?(?:1(?:st)?\s+)?(?P<first>{_NAME})(?:[\s'’-]*(?P<its>\d{{4}}|\d\d))?"
    rf"\s*(?:[-–—/]|to|through|bis)\s*(?:(?P<day>\d\d)(?:st|th)?\s+)?(?P<last>{_NAME})"
    rf"(?:[\s'’-]*(?P<year>\d{{4}}|\d\d))?",
    re.IGNORECASE,
)
_SPAN = (
    rf"(?:(?P<number>\d{{1,2}}|{'|'.join(NUMBERS)})[ -]?m(?:onths?|ths?)?|"
    r"(?P<kind>(?:financial |fiscal )?(?:year|half(?:-year)?|quarter)))(?:[- ]period)?"
)
_ENDED = re.compile(rf"(?:{_SPAN}\s+(?:to|end(?:ed|ing)?)|(?P<short>F?Y/?E))\s+(?P<end>.+)", re.IGNORECASE)
_KINDS = {"year": 12, "half": 6, "quarter": 3}
_SPAN_ENDED = re.compile(
    rf"\b(?:(?P<number>\d{{1,2}}|{'|'.join(NUMBERS)})[ -]months?|(?P<kind>year|half(?:[- ]year)?|quarter))"
    r"(?:[- ]period)? (?:to|end(?:ed|ing)) (?:\d{1,2}(?:st|nd|rd|th)? )?(?P<month>[^\W\d_]{3,12})(?: \d{4})?",
    re.IGNORECASE,
)
LONGEST = 60
_HINT = re.compile(
    r"\d.*(?:quart|qtr|kvart|kwart|trim|half|halb|semes|年)|(?:quart|qtr|kvart|kwart|trim|half|halb|hy|semes).*\d|"
    r"(?:year|cy).*\d{4}|\b(?:to|through|bis|end(?:ed|ing)|f?y/?e)\b.*\d|\dT|\dM\d|"
    r"[^\W\d_]{3}\.?[\s'’-]*\d*\s*[-–—/]\s*(?:\d\d\w*\s+)?[^\W\d_]{3}.*\d|"
    r"^\d{4}\s.*[^\W\d_]{3}\.?\s*(?:[-–—/]|to|through|bis)\s*[^\W\d_]{3}",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class MonthsSaid:
    """So many whole months, from the first of one."""

    first: date
    months: int

    @property
    def last(self) -> date:
        """The first day of the last of them."""
        at = 12 * self.first.year + self.first.month - 1 + self.months - 1
        return date(at // 12, at % 12 + 1, 1)


def may_say_a_period(text: str) -> bool:
    """Whether a text is worth asking: most texts of a column are names, and are asked once each."""
    return len(text) <= LONGEST and _HINT.search(text) is not None


def in_notation(text: str) -> str | None:
    """A quarter, a half, a year or a month in the notation of periods, where words say it.

    >>> [in_notation(one) for one in ("Qtr 1 2025", "First quarter of 2026", "2. Halbjahr 2025", "CY2025", "2025M1")]
    ['Q1 2025', 'Q1 2026', 'H2 2025', '2025', '2025-01']
    """
    for pattern, letter in _PARTS:
        if found := pattern.fullmatch(text):
            said = found.groupdict()
            place = int(said["place"] or 0) or _PLACES[said["word"].casefold()]
            return f"{letter}{place} {said['year']}" if place <= (2 if letter == "H" else 4) else None
    if found := _WHOLE_YEAR.fullmatch(text):
        return str(next(filter(None, found.groups())))
    if found := _OTHER_MONTH.fullmatch(text):
        return f"{found['year']}-{int(found['month'] or found['other']):02}"
    return None


def months_said(text: str, end_of: Callable[[str], date | None]) -> MonthsSaid | None:
    """The whole months that a text says from and to, or by how many end on which day.

    Parameters
    ----------
    end_of : the last day of what is a day or a month by itself; None where a text is neither.

    >>> months_said("Jan-Jun 2026", lambda _: None)
    MonthsSaid(first=datetime.date(2026, 1, 1), months=6)
    >>> months_said("1 January to 31 October 2026", lambda _: None)
    MonthsSaid(first=datetime.date(2026, 1, 1), months=10)
    >>> months_said("Year ended 31 March 2026", lambda _: date(2026, 3, 31))
    MonthsSaid(first=datetime.date(2025, 4, 1), months=12)
    """
    if (found := _MONTHS.fullmatch(text)) and (first := _month(found["first"])) and (last := _month(found["last"])):
        if (said := found["year"] or found["lead"]) is None or (found["year"] and found["lead"]):
            return None
        year = full_year(said)
        start = full_year(found["its"]) if found["its"] else year - (last < first)
        months = 12 * (year - start) + last - first + 1
        is_whole = found["day"] is None or int(found["day"]) == monthrange(year, last)[1]
        return MonthsSaid(date(start, first, 1), months) if 1 < months <= 12 and is_whole else None
    found = _ENDED.fullmatch(text)
    end = end_of(found["end"]) if found else None
    if found is None or end is None or (end + ONE_DAY).day != 1:
        return None
    number, kind = (found["number"] or "").casefold(), (found["kind"] or "year").casefold().split()[-1]
    months = int(NUMBERS.get(number, number)) if number else _KINDS[kind.partition("-")[0]]
    before = 12 * end.year + end.month - months
    return MonthsSaid(date(before // 12, before % 12 + 1, 1), months)


def span_said(text: str) -> str | None:
    """The span of months within a text that is no calendar year: 'six months ended 30 June 2026', 'Jan-Oct 2026'.

    >>> span_said("Results for the year ended 31 March 2026"), span_said("Year ended 31 December 2026")
    ('year ended 31 March 2026', None)
    >>> span_said("Profit and loss, January to October 2026"), span_said("Profit and loss 2026")
    ('January to October 2026', None)
    """
    for found in _SPAN_ENDED.finditer(text):
        number = (found["number"] or "").casefold()
        is_year = not number and found["kind"].casefold() == "year"
        month, is_twelve = _month(found["month"]), int(NUMBERS.get(number, number or 0)) == _KINDS["year"]
        if month is not None and not (month == 12 and (is_year or is_twelve)):
            return found[0]
    spans = (found[0].strip() for found in _MONTHS.finditer(text))
    return next((one for one in spans if (said := months_said(one, lambda _: None)) and said.months < 12), None)


def _month(name: str) -> int | None:
    return MONTHS.get(name.casefold().rstrip("."))
