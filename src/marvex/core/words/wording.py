"""Windows, sides and findings in words: what titles, subtitles and standing bars say."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import TYPE_CHECKING

from babel.dates import format_date, format_interval, format_skeleton

from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.point import Kind, Point, State
from marvex.core.compare.side import Side
from marvex.core.errors import listed
from marvex.core.exact import difference, total
from marvex.core.time.base_window import year_before
from marvex.core.time.calendar import CIVIL, Grain, MonthYears, month_end
from marvex.core.time.notation import LETTERS
from marvex.core.time.window import Window
from marvex.core.words.units import ABSENT, NOT_MEANINGFUL, FigureFormat

if TYPE_CHECKING:
    from marvex.core.structure.walk import Walk


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


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SideNames:
    """What the two sides are called: in full, and what the base is in a sentence ('budget', 'last year')."""

    current: str
    base: str
    base_in_sentence: str
    both: str


def side_names(comparison: Comparison, locale: str, *, with_window: bool = False) -> SideNames:
    """Names of the sides, by what tells them apart: the time, the scenario, or both.

    Parameters
    ----------
    with_window : the window is always named, since other comparisons beside it have another.
    """
    current, base = comparison.current, comparison.base
    now = _in_full(current, locale)
    if base is None:
        return SideNames(current=now, base="", base_in_sentence="", both=now)
    if comparison.every is not None and comparison.basis is Basis.PRIOR:
        return _chained_names(comparison, comparison.every, locale)
    same_time = current.window is None or current.window == base.window
    same_scenario = current.scenario == base.scenario
    if same_time and current.window is not None:
        window = window_text(current.window, locale)
        names = _heading(current), _heading(base)
        if with_window:
            names = f"{window} {scenario_words(current, locale)}", f"{window} {scenario_words(base, locale)}"
        both = f"{window}, {scenario_words(current, locale)} against {scenario_words(base, locale)}"
        return SideNames(current=names[0], base=names[1], base_in_sentence=in_sentence(base.scenario), both=both)
    if same_time:
        now, then = current.scenario or "Current", base.scenario or "Base"
        both = f"{now} against {in_sentence(then)}"
        return SideNames(current=now, base=then, base_in_sentence=in_sentence(base.scenario), both=both)
    assert current.window is not None and base.window is not None
    now, then = window_text(current.window, locale), window_text(base.window, locale)
    spoken = "last year" if same_scenario and _is_last_year(current.window, base.window) else then
    if not same_scenario:
        now, then = f"{now} {scenario_words(current, locale)}", f"{then} {scenario_words(base, locale)}"
        spoken = then
    return SideNames(current=now, base=then, base_in_sentence=spoken, both=f"{now} against {then}")


def _chained_names(comparison: Comparison, every: Grain, locale: str) -> SideNames:
    """The names where each point is measured against the one before it."""
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


def _heading(side: Side) -> str:
    """A scenario as the heading of a column."""
    return "Outlook" if _is_mixed(side) else capitalised(scenario_words(side))


def _is_mixed(side: Side) -> bool:
    return len({one.scenario for one in side.stretches}) > 1


def scenario_words(side: Side, locale: str = "en_GB") -> str:
    """A side's scenario as it is said; of an outlook, where the one goes over into the other.

    >>> from marvex.core.compare.side import Stretch
    >>> outlook = Stretch("actual", date(2026, 1, 1), date(2026, 9, 30)), Stretch("forecast", date(2026, 10, 1))
    >>> scenario_words(Side("actual+forecast", None, outlook))
    'outlook (actual to 30 Sept 2026, then forecast)'
    """
    if not _is_mixed(side):
        return side.in_use or ""
    first, then = side.stretches[0], side.stretches[-1]
    to = format_date(first.last, "d MMM y", locale) if first.last else ""
    return f"outlook ({first.scenario} to {to}, then {then.scenario})"


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
    figures, one = figures.in_words, comparison.headline
    is_chained = comparison.every is not None and comparison.basis is Basis.PRIOR
    has_panels = len(comparison.panel_totals) > 1
    if has_panels and comparison.total.current is not None and (is_chained or (one.pair and one.panel)):
        # No panel stands for all of them, and chained points have no total to measure.
        return (
            f"{subject}{',' if ',' in subject else ''} {figures.headline(comparison.total.current)}, {names.current}"
        )
    current = ABSENT if one.current is None else figures.headline(one.current)
    when = f" {_in_or_on(one)} {point_name(one, figures.locale)}" if one.pair else ""
    start = f"{subject}{',' if ',' in subject else ''} {current}{when}"
    if comparison.base is None or (one.current is None and one.base is None):
        return start if when else f"{start}, {names.current}"
    if one.pair and one.base is None:
        return f"{start}, with nothing to measure it against"
    change = one.movement
    words = movement_words(comparison, _base_of(one, comparison, names), change)
    if not change:
        return f"{start}, {words}"
    ratio = figures.ratio(one)
    behind = f" ({ratio})" if ratio != NOT_MEANINGFUL and one.change is not None else ""
    mover = "" if one.pair else _mover(comparison, figures)
    return f"{start}, {figures.size_of_change(change)} {words}{behind}{mover}"


def walk_finding(walk: Walk, subject: str, figures: FigureFormat) -> str:
    """What a walk of movements or balances comes to: 'Crew 125, 5 above Opening (120), led by Hires (+14)'."""
    if not walk.bars:
        return ""
    opening, closing = walk.bars[0], walk.bars[-1]
    text = f"{subject} {figures.headline(closing.end)}"
    if opening.point.kind is Kind.OPENING:
        moved = difference(closing.end, opening.end)
        size = figures.headline(abs(moved))
        than = f"{opening.label} ({figures.headline(opening.end)})"
        text += f", {size} {'above' if moved > 0 else 'below'} {than}" if moved else f", level with {than}"
    largest = max(walk.steps, key=lambda bar: abs(bar.movement), default=None)
    if largest is None or not largest.movement or len(walk.steps) < 2:
        return text
    name = point_name(largest.point, figures.locale)
    return f"{text}, the largest step being {name} ({figures.signed_headline(largest.movement)})"


def small_finding(total: Point, figures: FigureFormat) -> str:
    """A panel's own finding: its figure, its change and the ratio: '412k, +41k (+11.1%)'."""
    figures = figures.in_words
    current = figures.headline(total.current) if total.current is not None else ABSENT
    if total.change is None:
        return current
    ratio = figures.ratio(total)
    return f"{current}, {figures.signed_headline(total.change)}{f' ({ratio})' if ratio != NOT_MEANINGFUL else ''}"


def _in_or_on(point: Point) -> str:
    return "on" if point.pair and point.pair.period.grain is Grain.DAY else "in"


def _base_of(one: Point, comparison: Comparison, names: SideNames) -> str:
    """What the headline's base is called: its own period where the points are chained or run on."""
    if one.pair is None or one.pair.base is None or comparison.basis is Basis.SCENARIO:
        return names.base_in_sentence
    if comparison.basis is Basis.YEAR_AGO:
        return "the year before"
    return names.base_in_sentence


EVERYTHING = "All rows"  # a side without dates or scenarios
LEAST_MOVER = Decimal("0.05")  # of the whole change: less explains nothing


def _mover(comparison: Comparison, figures: FigureFormat) -> str:
    """The category or period that moved most, where there are several and it stands out."""
    points = comparison.panel_totals or comparison.points
    ranked = [point for point in points if point.movement and not point.gathered and not point.is_beside]
    if any(point.kind is Kind.LINE for point in points):
        ranked = [point for point in ranked if point.kind is Kind.LINE]
    # Along time a side that is absent is a gap, not a movement.
    ranked = [point for point in ranked if point.change is not None or point.pair is None]
    if len(ranked) < 2:
        return ""
    largest = max(ranked, key=lambda point: abs(point.movement))
    if abs(largest.movement) < LEAST_MOVER * abs(comparison.total.movement):
        return ""
    led = (largest.effect > 0) == (comparison.total.movement > 0)
    name = point_name(largest, figures.locale)
    return f", {'led by' if led else 'in spite of'} {name} ({figures.signed_headline(largest.movement)})"


def point_name(point: Point, locale: str) -> str:
    """What a point is called in a picture: its category, or its period as the locale writes it."""
    is_whole = point.kind is Kind.TOTAL and point.is_cost is None
    if point.in_panel:
        panel = window_text(point.pair.period, locale) if point.pair else point.panel
        return str(panel) if is_whole else f"{point.label}, {panel}"
    if point.pair is None:
        return point.panel or point.label
    name = window_text(point.pair.period, locale)
    return f"{point.panel}, {name}" if point.panel else name


def weekday(day: date, locale: str) -> str:
    """The short name of a day of the week: 'Thu'."""
    return str(format_date(day, "EEE", locale))


STATE_WORDS = {State.NEW: "new", State.ENDED: "ended", State.NO_BASE: "no base", State.NO_CURRENT: "no current"}


def point_sentence(point: Point, band: str | None, names: SideNames, figures: FigureFormat) -> str:
    """One point in words: 'Fuel: 412k against 371k, +41k (+11.1%), Over budget'."""
    figures = figures.in_words
    name = point_name(point, figures.locale)
    if point.base is None:
        where = "" if point.pair else f" in {names.current}"
        text = f"{name}: {figures.amount_of(point, point.current)}{where}, {STATE_WORDS[point.state]}"
    elif point.current is None:
        text = f"{name}: {STATE_WORDS[point.state]}, {figures.amount_of(point, point.base)} in {names.base}"
    else:
        text = (
            f"{name}: {figures.amount_of(point, point.current)} against {figures.amount_of(point, point.base)}, "
            f"{figures.change_of(point)}{f' ({ratio})' if (ratio := figures.ratio(point)) else ''}"
        )
    return f"{text}, {band}" if band else text


def without_side(points: Sequence[Point], names: SideNames, figures: FigureFormat) -> tuple[str, ...]:
    """Cautions about new and ended categories: how many, and how much they are in all."""
    cautions = []
    for absent_base, word, where in ((True, "new", names.base), (False, "ended", names.current)):
        found = [p for p in points if p.state is (State.NEW if absent_base else State.ENDED)]
        if found:
            amounts = [p.current if absent_base else p.base for p in found]
            amount = figures.headline(total(a for a in amounts if a is not None))
            labels = listed((point_name(one, figures.locale) for one in found), 3)
            cautions.append(f"{len(found)} {word} ({labels}): no figure in {where}, {amount} in all")
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
