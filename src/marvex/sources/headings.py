"""What a heading says of the figures under it: a period, a scenario, and what is neither."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.compare.scenario_words import (
    ABBREVIATIONS,
    ACTUAL_NAMES,
    ACTUAL_WORDS,
    BASE_NAMES,
    PLANNED_WORDS,
    says_which,
    version_said,
)
from marvex.core.errors import Mistake, listed
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.cells import is_figure
from marvex.sources.dates import is_like_a_date, is_numeric_date, month_alone, period_alone, written
from marvex.sources.period_words import NUMBERS, MonthsSaid, may_say_a_period, months_said

_PLANNED_OF_YEAR = (f"{year} {one}" for year in ("cy", "ty", "current year", "this year") for one in PLANNED_WORDS)
SCENARIO_WORDS = frozenset((*ACTUAL_NAMES, *BASE_NAMES, *_PLANNED_OF_YEAR))  # of a whole heading or cell
_WITHIN = frozenset((*ACTUAL_WORDS, *PLANNED_WORDS))  # of a word beside others

# A span that holds others, in what a heading says beside its period and scenario.
TO_DATE = re.compile(
    r"\b(?:ytd|year[- ]to[- ]date|to date|cumulative|full year|whole year|year(?:[- ]end)?|ye|annual|q[1-4]|h[12])\b",
    re.IGNORECASE,
)
# What holds all that came before it.
RUNNING = re.compile(
    r"\b(?:ytd|qtd|itd|(?:year|quarter|inception)[- ]to[- ]date|to date|cumulative|"
    r"running (?:total|sum|balance))\b",
    re.IGNORECASE,
)
# What holds so many before it.
ROLLING = re.compile(
    r"\b(?:[lt]tm|(?-i:MAT)|[lr]12m|rolling(?! (?:re-?)?(?:forecast|budget|plan|stock))|trailing|annuali[sz]ed|"
    r"moving (?:annual|sum|total)|(?:last|past) (?:\d+|three|six|twelve) ?(?:m(?:ths?|onths?)?|weeks?|quarters?)?)\b",
    re.IGNORECASE,
)
# How long a span is, as headings say it.
_MONTHS = rf"\b(?P<number>\d{{1,2}}|{'|'.join(NUMBERS)})[ -]?m(?:(?:onths?|ths?)?\b|(?=\d))"
SEVERAL_MONTHS = re.compile(
    rf"{RUNNING.pattern}|{ROLLING.pattern}|{_MONTHS}|"
    r"\b(?:13|26|39|5[23])[ -]weeks?\b|"
    r"^(?:period |up )?to$|^(?:to|through|bis) .|\b(?:year|half(?:-year)?|quarter) (?:to|ended|ending)\b",
    re.IGNORECASE,
)
_FROM_TO = r"\b(?P<first>[^\W\d_]{3,9})\.?(?: \d{2,4})?\s*(?:[-–—/]|to|through)\s*(?P<last>[^\W\d_]{3,9})\b"
_PERIOD_TO = r"\b(?P<kind>year|period|quarter|half|month) (?:to|end(?:ed|ing)?)\b(?! date)"
_THIS_OR_LAST = r"(?:this|current|last|prior|previous) (?P<kind>year|quarter|month|week)"
_WHOLE_YEAR = r"\b(?:full|whole|entire)[- ]year\b|\bannual\b|\bfy\b"
_STATUS = r"(?:as )?(?:restated|re-?presented|(?:un)?audited|provisional|preliminary|draft|adjusted)"
_WHICH = r"[pcl]y|(?:prior|previous|last|current|this) year|comparatives?"
# At the period of a heading: `2025 (restated)`, `2025 (1)`, `2025 (PY)`, `Restated 2025`.
NOTE = re.compile(rf"\s*[\[(]\s*(?:{_STATUS}|{_WHICH}|\d\d?)\s*[\])]\s*$|\s{_STATUS}$|^{_STATUS}\s", re.IGNORECASE)
# `2025A`, `FY26E`: a period and the letter of its scenario.
_LETTERED = re.compile(r"(.*\d) ?([ABEFP])")
_LETTERED_PART = re.compile(r"([QHPqhp]\d\d?|[^\W\d_]{3,9}\.?(?= )) ?[ABEFP]")
_YEAR = re.compile(r"(?:19|20)\d\d")
SO_FAR = "YTD"  # what is said of a heading such as `Jan-Oct 2026` beside its last month
MOST_WORDS, FEW_WORDS = 8, 3  # of a period: `Six months ended 30 June 2026`; in figures
SUM_OF = re.compile(r"(?i)\bsum of\b ?")  # as a pivot table heads its columns
_LETTERS = {"A": "Actual", "B": "Budget", "E": "Estimate", "F": "Forecast", "P": "Plan"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Parted:
    """What a heading says: a period, a scenario, and the words that are neither."""

    period: str | None
    scenario: str | None
    rest: str

    @property
    def is_scenario(self) -> bool:
        """Whether it says a scenario and nothing else."""
        return self.scenario is not None and self.period is None and not self.rest

    @property
    def is_said(self) -> bool:
        return self.period is not None or self.scenario is not None


def parted(heading: str) -> Parted:
    """The period, the scenario and the rest that a heading says, in any order.

    >>> parted("North Budget Jan 2026")
    Parted(period='Jan 2026', scenario='Budget', rest='North')
    """
    text = _words(heading)
    if text.casefold() in SCENARIO_WORDS:
        return Parted(period=None, scenario=text, rest="")
    if lettered := _LETTERED.fullmatch(text):
        period, letter = lettered.groups()
        if written(period):
            return Parted(period=period, scenario=_LETTERS[letter], rest="")
    words = text.split()
    scenario = next((word for word in words if word.casefold().strip("().,") in _WITHIN), None)
    words = [word for word in words if word != scenario]
    if scenario is None and (side := _shortened(text)) and _months_from_to(side[1]):  # `Jan-Oct 2026 ACT`
        scenario, words = side[0], side[1].split()
    if several := _months_from_to(" ".join(words)):  # `Jan-Oct 2026`: what it has of October is of all before it
        if several.first.month == 1:
            return Parted(period=f"{several.last:%Y-%m}", scenario=scenario, rest=SO_FAR)
        return Parted(period=None, scenario=scenario, rest=" ".join(words))
    for size in range(min(MOST_WORDS, len(words)), 0, -1):
        for start in range(len(words) - size + 1):
            period = " ".join(words[start : start + size])
            if size > FEW_WORDS and not may_say_a_period(period):
                continue
            if any(map(str.isdecimal, period)) and (written(period) or is_numeric_date(period)):
                rest = " ".join((*words[:start], *words[start + size :]))
                said = version_said(rest) if scenario is None else None
                if said is not None and not said.rest:  # `Jan 2026 Bud`: what is short for one, beside a period
                    scenario, rest = rest, ""
                elif scenario is None and TO_DATE.search(rest) and (side := _shortened(rest)):  # `YTD 2026 ACT`
                    scenario, rest = side
                if scenario is not None and says_which(rest):  # `Jan 2026 Revised budget` is of a scenario of its own
                    scenario, rest = " ".join(sorted((scenario, rest), key=text.index)), ""
                return Parted(period=period, scenario=scenario, rest=rest)
    return Parted(period=None, scenario=scenario, rest=" ".join(words))


def _words(heading: str) -> str:
    """The words of a heading; what is written as one word is taken apart where it says a scenario or a year."""
    heading = SUM_OF.sub("", heading)
    apart = spelled_out(heading)
    words = apart.casefold().split()
    says_side = not (_WITHIN | ABBREVIATIONS).isdisjoint(words) or any(map(_YEAR.fullmatch, words))
    is_side = says_side or apart.casefold() in SCENARIO_WORDS
    return apart if is_side else " ".join(heading.replace("_", " ").split())


def _months_from_to(text: str) -> MonthsSaid | None:
    """The months that a text says from and to, where those are no quarter, half or year."""
    said = months_said(text, lambda _: None) if may_say_a_period(text) else None
    return said if said is not None and written(text) is None else None


def runs_to_date(heading: str) -> bool:
    """Whether a heading says that its figures hold all that came before, of its year at least.

    >>> [runs_to_date(one) for one in ("YTD 2026", "Jan-Oct 2026 Budget", "Jan-Mar 2026", "Jul-Oct 2026")]
    [True, True, False, False]
    """
    return RUNNING.search(spelled_out(heading)) is not None or parted(NOTE.sub("", heading)).rest == SO_FAR


def holds_several_months(text: str) -> bool:
    """Whether a text says several months that are no quarter, half or year: `9M 2026`, `Jan-Oct 2026`."""
    is_said = SEVERAL_MONTHS.search(text) is not None and written(text) is None
    return is_said or _months_from_to(text) is not None


def sided(name: str) -> tuple[str, str] | None:
    """The scenario that a name begins or ends with, whole or shortened, and what it is of.

    >>> sided("Fares budget"), sided("ACT fares"), sided("Budget"), sided("Acts of God")
    (('budget', 'Fares'), ('ACT', 'fares'), None, None)
    """
    found = parted(name)
    if found.scenario and found.rest and not found.period:
        return found.scenario, found.rest
    return _shortened(name)


def _shortened(name: str) -> tuple[str, str] | None:
    words = name.split()
    for side, rest in ((words[-1:], words[:-1]), (words[:1], words[1:])):
        said = version_said(side[0]) if side and rest and rest[0] != "of" else None
        if said is not None and not said.rest and side[0].casefold() in ABBREVIATIONS:
            return side[0], " ".join(rest)
    return None


def is_of_a_year(heading: str) -> bool:
    """Whether a heading is that of a year's amounts and of no date, though it says a year: 'Full year', 'Year Budget'.

    >>> [is_of_a_year(one) for one in ("Full year target", "Year Budget", "Annual", "Year", "Actual date")]
    [True, True, True, False, False]
    """
    is_amount = says_whole_year(heading) or sided(heading) is not None
    return is_amount and "date" not in heading.casefold()


def says_whole_year(heading: str) -> bool:
    """Whether a heading says that its amounts are a year's: 'Full year forecast', 'FY Budget'."""
    return re.search(_WHOLE_YEAR, spelled_out(heading), re.IGNORECASE) is not None


def part_beside_side(heading: str) -> tuple[str, str]:
    """The part of a year, without its year, that a heading says beside a scenario, and the kind of that part.

    >>> [part_beside_side(one) for one in ("Jan Act", "Budget Q1", "Q1A", "Mar F", "Jan 2026 Act", "Fares", "May B")]
    [('Jan', 'm'), ('Q1', 'q'), ('Q1', 'q'), ('Mar', 'm'), ('', ''), ('', ''), ('May', 'm')]
    """
    if lettered := _LETTERED_PART.fullmatch(" ".join(heading.split())):
        part = lettered[1]
    else:
        _, part = sided(heading) or ("", "")
    kind, _ = period_alone(part) or ("", 0)
    return (part, kind) if kind else ("", "")


def side_of(title: str) -> str | None:
    """The scenario that the title of a sheet says, whole or shortened.

    >>> side_of("Budget 2026"), side_of("BUD"), side_of("Notes")
    ('Budget', 'BUD', None)
    """
    said = version_said(title)
    return parted(title).scenario or (title if said is not None and not said.rest else None)


def unlike_spans(one: str, other: str) -> bool:
    """Whether two headings say spans that are not alike: a month and a year, or only one that it runs to date.

    >>> unlike_spans("Oct 2026", "Budget 2026"), unlike_spans("Actual YTD", "Budget"), unlike_spans("Actual", "Budget")
    (True, True, False)
    >>> unlike_spans("Jan-Sep 2026", "Jan-Dec 2025"), unlike_spans("Actual 9M 2026", "Actual 2025")
    (True, True)
    >>> unlike_spans("Q1 Actual", "Budget"), unlike_spans("Q1 Actual", "Q1 Budget")
    (True, False)
    """
    for several in (RUNNING, ROLLING):
        runs = [several.search(heading) is not None for heading in (one, other)]
        if any(runs):
            return not all(runs)
    alone = [_part_alone(heading) for heading in (one, other)]
    spans = [_span(heading) for heading in (one, other)]
    if any(alone) and not all(alone):
        return True  # `Q1 Actual` beside `Budget`
    return None not in spans and spans[0] != spans[1]


def _part_alone(heading: str) -> str:
    """The kind of a part of a year that a heading says without its year, `q` of a quarter; empty where it says none."""
    said = parted(heading)
    if said.period is not None or not re.search(rf"\b(?:{'|'.join(_WITHIN)})\b", heading.casefold()):
        return ""
    kinds = (period_alone(word) for word in heading.split() if not word.isdecimal())
    return next((kind[0] for kind in kinds if kind is not None), "")


def _span(heading: str) -> str | None:
    """How long a heading says that its figures are of: a number of months, or another grain; None where it does not."""
    text = heading.casefold()
    if months := re.search(_MONTHS, text):
        said = months["number"]
        return str(int(NUMBERS.get(said, said)))
    if run := re.search(_FROM_TO, text):
        first, last = (month_alone(run[end]) for end in ("first", "last"))
        return str((last - first) % 12 + 1) if first and last else None
    if period := re.search(_PERIOD_TO, text):
        return "12" if period["kind"] == "year" else period["kind"]
    if beside := re.fullmatch(_THIS_OR_LAST, text):
        return {"year": "12", "quarter": "3", "month": "1"}.get(beside["kind"], beside["kind"])
    its = written(period_said) if (period_said := parted(heading).period) else None
    if its is not None:
        return str(its.grain.months) if its.grain.months else its.grain.value
    return "12" if re.search(_WHOLE_YEAR, text) else None


def no_headings(names: Sequence[str], figures: Sequence[str], dates: Sequence[str], source: str) -> Mistake | None:
    """What is to be said where headings are a row of data: a date over dates, or a figure over figures.

    Parameters
    ----------
    names : the headings, of which `figures` stand over figures and `dates` over dates.
    """
    amounts = [one for one in figures if is_figure(one) and not is_like_a_date(one)]
    is_alone = len(figures) == 1 and not dates
    if not any(map(is_like_a_date, dates)) and not any("." in one or "," in one or is_alone for one in amounts):
        return None
    first = f"'{listed(names, 4)}'"
    return Mistake(f"{source}: {first} is a row of data, and no headings", "Put a line of headings above it.")


def split(heading: str) -> tuple[str | None, str | None]:
    """The period and the scenario that a heading says, in any order; no period where it says more than that.

    >>> split("Budget Jan 2026")
    ('Jan 2026', 'Budget')
    """
    found = parted(heading)
    return (None if found.rest else found.period), found.scenario
