"""Windows, sides and findings in words: what titles, subtitles and standing bars say."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from babel.dates import format_date, format_interval, format_skeleton

from marvex.core.comparison import Comparison, Point, Side
from marvex.core.exact import ZERO, total
from marvex.core.period import Grain, Window, month_end, year_before
from marvex.core.units import NOT_MEANINGFUL, FigureFormat


def window_text(window: Window, locale: str) -> str:
    """What a window is called in a picture: 'Jan–Oct 2026', 'Q2 2026', '1–17 Oct 2026'.

    >>> window_text(Window(date(2026, 1, 1), date(2026, 12, 31), Grain.YEAR, date(2026, 10, 31)), "en_GB")
    'Jan–Oct 2026'
    """
    first, end = window.first, window.end
    if window.months() is None or end != month_end(end):
        return _days_text(window, locale)
    months = (end.year - first.year) * 12 + end.month - first.month + 1
    if months % 12 == 0 and first.month == 1:
        return str(first.year) if months == 12 else f"{first.year}–{end.year}"
    if window.grain in (Grain.QUARTER, Grain.HALF) and months == window.grain.months:
        letter = "Q" if window.grain is Grain.QUARTER else "H"
        return f"{letter}{(first.month - 1) // months + 1} {first.year}"
    return _range_text(first, end, "yMMM", locale)


def _days_text(window: Window, locale: str) -> str:
    first, end = window.first, window.end
    if window.grain is Grain.WEEK and (window.last - first).days == 6 and not window.is_cut:
        year, week, _ = first.isocalendar()
        return f"week {week} of {year}"
    return format_date(first, "d MMM y", locale) if first == end else _range_text(first, end, "yMMMd", locale)


def _range_text(first: date, end: date, skeleton: str, locale: str) -> str:
    if skeleton == "yMMM" and (first.year, first.month) == (end.year, end.month):
        return str(format_skeleton(skeleton, first, locale=locale))
    text = str(format_interval(first, end, skeleton, locale=locale))
    # Locales put thin spaces about the dash; between bare months and days none is wanted.
    for space in ("\u2009", " "):
        if locale.startswith("en"):
            text = text.replace(f"{space}–{space}", "–")
    return text


@dataclass(frozen=True, slots=True)
class SideNames:
    """What the two sides are called: in full, and what the base is in a sentence ('budget', 'last year')."""

    current: str
    base: str
    base_in_sentence: str
    both: str


def side_names(comparison: Comparison, locale: str) -> SideNames:
    """Names of the sides, by what tells them apart: the time, the scenario, or both."""
    current, base = comparison.current, comparison.base
    now = _in_full(current, locale)
    if base is None:
        return SideNames(now, "", "", now)
    same_time = current.window is None or current.window == base.window
    same_scenario = current.scenario == base.scenario
    if same_time and current.window is not None:
        window = window_text(current.window, locale)
        names = capitalised(current.scenario or ""), capitalised(base.scenario or "")
        return SideNames(*names, in_sentence(base.scenario), f"{window}, {current.scenario} against {base.scenario}")
    if same_time:
        names = current.scenario or "Current", base.scenario or "Base"
        return SideNames(*names, in_sentence(base.scenario), f"{names[0]} against {in_sentence(names[1])}")
    assert current.window is not None and base.window is not None
    now, then = window_text(current.window, locale), window_text(base.window, locale)
    spoken = "last year" if same_scenario and _is_last_year(current.window, base.window) else then
    if not same_scenario:
        now, then = f"{now} {current.scenario}", f"{then} {base.scenario}"
        spoken = then
    return SideNames(now, then, spoken, f"{now} against {then}")


def _is_last_year(window: Window, base: Window) -> bool:
    return base.first.year == window.first.year - 1 and base.end == year_before(window).end


def _in_full(side: Side, locale: str) -> str:
    if side.window is None:
        return capitalised(side.scenario or "All rows")
    text = window_text(side.window, locale)
    return f"{text}, {side.scenario}" if side.scenario else text


def side_title(side: Side, locale: str) -> str:
    """What a side is called by itself: its window, or its scenario in a table without dates."""
    return window_text(side.window, locale) if side.window else capitalised(side.scenario or "All rows")


def capitalised(text: str) -> str:
    """The text with a capital first letter, the rest as it is."""
    return text[:1].upper() + text[1:]


def in_sentence(name: str | None) -> str:
    """A name as it stands within a sentence: 'Budget' as 'budget', but 'FY26' as it is."""
    if not name:
        return "the base"
    return name.lower() if name[1:].islower() else name


def movement_words(comparison: Comparison, base_words: str, change: Decimal) -> str:
    """'over budget', 'below last year', 'level with Jan–Oct 2025'."""
    assert comparison.base is not None
    over, under = ("above", "below")
    if (
        comparison.base.scenario != comparison.current.scenario
        and comparison.current.window == comparison.base.window
    ):
        over, under = ("over", "under")
    if not change:
        return f"level with {base_words}"
    return f"{over if change > 0 else under} {base_words}"


def finding(comparison: Comparison, subject: str, figures: FigureFormat, names: SideNames) -> str:
    """The default title: what, how much, against what, and what moved most.

    'Fuel 412k, 41k over budget (+11.1%)'
    """
    whole = comparison.total
    current = whole.current if whole.current is not None else ZERO
    start = f"{subject} {figures.headline(current)}"
    if comparison.base is None:
        return f"{start}, {names.current}"
    change = whole.movement
    words = movement_words(comparison, names.base_in_sentence, change)
    if not change:
        return f"{start}, {words}"
    ratio = figures.ratio(whole)
    behind = f" ({ratio})" if ratio != NOT_MEANINGFUL and whole.change is not None else ""
    return f"{start}, {figures.headline(abs(change))} {words}{behind}{_mover(comparison, figures)}"


def _mover(comparison: Comparison, figures: FigureFormat) -> str:
    """The point that moved most, where there are several to choose from and it stands out."""
    ranked = [point for point in comparison.points if point.is_ranked and point.movement]
    if len(ranked) < 2:
        return ""
    largest = max(ranked, key=lambda point: abs(point.movement))
    led = (largest.movement > 0) == (comparison.total.movement > 0)
    return f", {'led by' if led else 'in spite of'} {largest.label} ({figures.signed_headline(largest.movement)})"


def point_sentence(point: Point, band: str | None, names: SideNames, figures: FigureFormat) -> str:
    """One point in words: 'Fuel: 412k against 371k, +41k (+11.1%), Over budget'."""
    if point.base is None:
        text = f"{point.label}: {figures.amount(point.current)} in {names.current}, new"
    elif point.current is None:
        text = f"{point.label}: ended, {figures.amount(point.base)} in {names.base}"
    else:
        text = (
            f"{point.label}: {figures.amount(point.current)} against {figures.amount(point.base)}, "
            f"{figures.change(point.change)} ({figures.ratio(point)})"
        )
    return f"{text}, {band}" if band else text


def without_side(points: Sequence[Point], names: SideNames, figures: FigureFormat) -> tuple[str, ...]:
    """Cautions about new and ended categories: how many, and how much they are in all."""
    cautions = []
    for absent_base, word, where in ((True, "new", names.base), (False, "ended", names.current)):
        found = [p for p in points if (p.base if absent_base else p.current) is None]
        if found:
            amounts = [p.current if absent_base else p.base for p in found]
            amount = figures.headline(total(a for a in amounts if a is not None))
            labels = ", ".join(p.label for p in found[:3]) + (" …" if len(found) > 3 else "")
            cautions.append(f"{len(found)} {word} ({labels}): no rows in {where}, {amount} in all")
    return tuple(cautions)


def names_alike(labels: Iterable[str]) -> tuple[str, ...]:
    """A caution for each set of names that are alike but for case, and so are categories of their own.

    >>> names_alike(["Fuel", "fuel", "Crew"])
    ('Fuel and fuel are alike but for case, and were kept apart',)
    """
    by_folded: dict[str, list[str]] = {}
    for label in dict.fromkeys(labels):
        by_folded.setdefault(label.casefold(), []).append(label)
    return tuple(
        f"{' and '.join(alike)} are alike but for case, and were kept apart"
        for alike in by_folded.values()
        if len(alike) > 1
    )
