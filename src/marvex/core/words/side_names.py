"""What windows and sides are called: 'Jan–Oct 2026', 'Budget', 'outlook (actual to 30 Sept, then forecast)'."""

from __future__ import annotations

from datetime import date

from babel.dates import format_date, format_interval, format_skeleton

from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.scenario_words import ABBREVIATIONS
from marvex.core.compare.side import Side
from marvex.core.errors import listed
from marvex.core.time.base_window import year_before
from marvex.core.time.calendar import CIVIL, Grain, MonthYears, month_end
from marvex.core.time.notation import LETTERS
from marvex.core.time.window import Window
from marvex.core.values import dataclass
from marvex.core.words.printable import printable

YEAR = 366  # days, and more than one year has
EVERYTHING = "All rows"  # a side without dates or scenarios


def window_text(window: Window, locale: str) -> str:
    """What a window is called in a picture: 'Jan–Oct 2026', 'Q2 2026', '1–17 Oct 2026', 'P03 FY2026'.

    >>> year = Window(first=date(2026, 1, 1), last=date(2026, 12, 31), grain=Grain.YEAR)
    >>> window_text(year.cut(date(2026, 10, 31)), "en_GB")
    'Jan–Oct 2026'
    """
    first, end, calendar = window.first, window.end, window.calendar
    if calendar.is_reporting and (named := _reporting_text(window)):
        return named
    if calendar.weeks_make_years or window.months() is None or end != month_end(end):
        return _days_text(window, locale)
    months = (end.year - first.year) * 12 + end.month - first.month + 1
    if months % 12 == 0 and first.month == 1:
        return str(first.year) if months == 12 else f"{first.year}–{end.year}"
    if window.grain in (Grain.QUARTER, Grain.HALF) and months == window.grain.months and calendar == CIVIL:
        letter = "Q" if window.grain is Grain.QUARTER else "H"
        return f"{letter}{(first.month - 1) // months + 1} {first.year}"
    return _range_text(first, end, "yMMM", locale)


def _reporting_text(window: Window) -> str:
    """Whole periods of a reporting calendar by name, where a range of months would not say it as well."""
    calendar = window.calendar
    has_months = isinstance(calendar, MonthYears)
    for grain in (Grain.YEAR, Grain.HALF, Grain.QUARTER, Grain.MONTH, Grain.WEEK):
        is_whole = (
            calendar.start(window.first, grain) == window.first and calendar.end(window.end, grain) == window.end
        )
        if not is_whole or (has_months and grain in (Grain.MONTH, Grain.WEEK)):
            continue
        start, end = calendar.place(window.first, grain), calendar.place(window.end, grain)
        if grain is Grain.YEAR:
            return f"FY{start.year}" if start == end else f"FY{start.year}–FY{end.year}"
        # Several quarters of a year of months read better as a range of its months.
        if start.year != end.year or (has_months and start != end):
            continue
        width = 1 if grain.is_coarser_than_month else 2
        first, last = (f"{LETTERS[grain]}{one.number:0{width}}" for one in (start, end))
        return f"{first if start == end else f'{first}–{last}'} FY{start.year}"
    return ""


def _days_text(window: Window, locale: str) -> str:
    first, end = window.first, window.end
    if window.grain is Grain.WEEK and (window.last - first).days == 6 and not window.is_cut:
        year, week, _ = first.isocalendar()
        return f"week {week} of {year}"
    return day_text(first, locale) if first == end else _range_text(first, end, "yMMMd", locale)


def _range_text(first: date, end: date, skeleton: str, locale: str) -> str:
    if skeleton == "yMMM" and (first.year, first.month) == (end.year, end.month):
        return str(format_skeleton(skeleton, first, locale=locale))
    text = str(format_interval(first, end, skeleton, locale=locale))
    # Locales put thin spaces about the dash; between bare months and days none is wanted.
    for space in ("\u2009", " "):
        if locale.startswith("en"):
            text = text.replace(f"{space}–{space}", "–")
    return text


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SideNames:
    """What the two sides are called: in full, and what the base is in a sentence ('budget', 'last year').

    Parameters
    ----------
    current_scenario, base_scenario : the scenario of each within a sentence.
    """

    current: str
    base: str
    base_in_sentence: str
    both: str
    current_scenario: str = "figure"
    base_scenario: str = "the base"


def side_names(comparison: Comparison, locale: str, *, with_window: bool = False) -> SideNames:
    """Names of the sides, by what tells them apart: the time, the scenario, or both.

    Parameters
    ----------
    with_window : the window is always named, since other comparisons beside it have another.
    """
    names = _names(comparison, locale, with_window=with_window)
    if comparison.base is None:
        return names
    said = (names.current, names.base, names.base_in_sentence, names.both)
    current, base, in_words, both = map(printable, said)
    now, then = (printable(in_sentence(one.in_use)) for one in (comparison.current, comparison.base))
    return SideNames(
        current=current, base=base, base_in_sentence=in_words, both=both, current_scenario=now, base_scenario=then
    )


def _names(comparison: Comparison, locale: str, *, with_window: bool) -> SideNames:
    current, base = comparison.current, comparison.base
    now = _in_full(current, locale)
    if base is None:
        return SideNames(current=now, base="", base_in_sentence="", both=now)
    if comparison.every is not None and comparison.basis is Basis.PRIOR:
        return _chained_names(comparison, comparison.every, locale)
    years = (current.window.end - current.window.first).days / YEAR if current.window else 0
    # A picture along time shows the whole of both windows; all else is of the days that are summed.
    are_points = comparison.every is not None
    same_time = current.window is None or (
        current.window == base.window if are_points else current.summed == base.summed
    )
    same_scenario = current.scenario == base.scenario
    if same_time and current.window is not None:
        window = window_text(current.window, locale) if are_points else summed_text(current, locale)
        names = side_heading(current), side_heading(base)
        if with_window:
            names = f"{window} {_short(current)}", f"{window} {_short(base)}"
        both = f"{window}, {scenario_words(current, locale)} against {scenario_words(base, locale)}"
        return SideNames(current=names[0], base=names[1], base_in_sentence=in_sentence(base.scenario), both=both)
    if same_time:
        now, then = current.scenario or "Current", base.scenario or "Base"
        both = f"{now} against {in_sentence(then)}"
        return SideNames(current=now, base=then, base_in_sentence=in_sentence(base.scenario), both=both)
    assert current.window is not None and base.window is not None
    now, then = (
        window_text(side.window, locale) if are_points and side.window else summed_text(side, locale)
        for side in (current, base)
    )
    spoken = then
    if _is_last_year(current.window, base.window):
        spoken = "last year" if years < 2 else then
    if comparison.basis is Basis.YEAR_AGO and comparison.every is not None and years >= 2:
        # Each of several years is measured against the one before it, which is among them.
        spoken = f"the year before in each {comparison.every.value}"
    if not same_scenario or current.is_mixed:
        both = f"{now} {scenario_words(current, locale)} against {then} {scenario_words(base, locale)}"
        now, then = f"{now} {_short(current)}", f"{then} {_short(base)}"
        spoken = then if spoken == summed_text(base, locale) else spoken
        return SideNames(current=now, base=then, base_in_sentence=spoken, both=both)
    return SideNames(current=now, base=then, base_in_sentence=spoken, both=f"{now} against {then}")


def days_of_total(comparison: Comparison, locale: str) -> str:
    """The periods that a total along time is of, where some of those shown are in none; else empty."""
    return summed_text(comparison.current, locale) if comparison.every and comparison.unmatched else ""


def summed_text(side: Side, locale: str) -> str:
    """What the days are called that a side is made of: 'Jan–May 2026 and Jul–Dec 2026'."""
    texts = [window_text(one, locale) for one in side.runs]
    return " and ".join([listed(texts[:-1], 3), texts[-1]] if len(texts) > 1 else texts)


def _chained_names(comparison: Comparison, every: Grain, locale: str) -> SideNames:
    """The names where each point is measured against the one before it."""
    pairs = [point.pair for point in comparison.points if point.pair and point.pair.base and point.pair.base.window]
    if len(pairs) == 1 and len({point.pair for point in comparison.points}) == 1:
        window = pairs[0].base.window if pairs[0].base else None
        now, then = window_text(pairs[0].period, locale), window_text(window, locale) if window else ""
        return SideNames(current=now, base=then, base_in_sentence=then, both=f"{now} against {then}")
    now, before = _in_full(comparison.current, locale), f"{every.value} before"
    return SideNames(
        current=now,
        base=before.capitalize(),
        base_in_sentence=f"the {before}",
        both=f"{now}, each {every.value} against the one before",
    )


def _is_last_year(window: Window, base: Window) -> bool:
    before = year_before(window)
    return before is not None and (before.first, before.end) == (base.first, base.end)


def _in_full(side: Side, locale: str) -> str:
    if side.window is None:
        return capitalised(side.scenario or EVERYTHING)
    text = window_text(side.window, locale)
    return f"{text}, {scenario_words(side, locale)}" if side.scenario else text


def side_heading(side: Side) -> str:
    """A scenario as the heading of a column."""
    return capitalised(_short(side))


def _short(side: Side) -> str:
    """A side's scenario where the join of an outlook is said elsewhere."""
    return "outlook" if side.is_mixed else scenario_words(side)


def scenario_words(side: Side, locale: str = "en_GB") -> str:
    """A side's scenario as it is said; of an outlook, where the one goes over into the other.

    >>> from marvex.core.compare.side import Stretch
    >>> outlook = Stretch("actual", date(2026, 1, 1), date(2026, 9, 30)), Stretch("forecast", date(2026, 10, 1))
    >>> scenario_words(Side("actual+forecast", None, outlook, joined_at=date(2026, 9, 30)))
    'outlook (actual to 30 Sept 2026, then forecast)'
    """
    if not side.is_mixed:
        return side.in_use or ""
    first, then = side.stretches[0], side.stretches[-1]
    to = day_text(side.joined_at, locale) if side.joined_at else ""
    return f"outlook ({first.scenario} to {to}, then {then.scenario})"


def day_text(day: date, locale: str) -> str:
    return str(format_date(day, "d MMM y", locale))


def closing_text(comparison: Comparison, locale: str) -> str:
    """The closing dates of balances: 'closing on 31 Oct 2026 and 31 Oct 2025'."""
    dates = [day_text(day, locale) for day in comparison.closing if day is not None]
    return f"closing on {' and '.join(dict.fromkeys(dates))}" if dates else ""


def side_title(side: Side, locale: str) -> str:
    """What a side is called by itself: its window, or its scenario in a table without dates."""
    return window_text(side.window, locale) if side.window else capitalised(side.scenario or EVERYTHING)


def capitalised(text: str) -> str:
    """The text with a capital first letter, the rest as it is."""
    return text[:1].upper() + text[1:]


def in_sentence(name: str | None) -> str:
    """A name as it stands within a sentence: 'Budget' as 'budget', but 'FY26' and 'Bud' as they are."""
    if not name:
        return "the base"
    is_word = name[1:].islower() and not any(sign.isdigit() for sign in name) and name.casefold() not in ABBREVIATIONS
    return name.lower() if is_word else name


def weekday(day: date, locale: str) -> str:
    """The short name of a day of the week: 'Thu'."""
    return str(format_date(day, "EEE", locale))
