"""Findings, points and what is to be noted of them, in words: what titles and notes say."""

from __future__ import annotations

import re
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.point import NO_NAME, Kind, Point, State, total_of
from marvex.core.errors import listed
from marvex.core.exact import difference, total
from marvex.core.time.calendar import Grain
from marvex.core.words.printable import printable
from marvex.core.words.side_names import EVERYTHING, SideNames, day_text, scenario_words, summed_text, window_text
from marvex.core.words.units import ABSENT, MINUS, NOT_MEANINGFUL, FigureFormat, Signs

if TYPE_CHECKING:
    from marvex.core.structure.walk import Walk


def direction_word(is_up: bool, *, is_spending: bool) -> str:
    """Which side of its base an amount is on: spending is over or under, all else above or below."""
    if is_spending:
        return "over" if is_up else "under"
    return "above" if is_up else "below"


def be_of(name: str) -> str:
    """'was', or 'were' of a name whose first noun is a plural: 'Production wages', 'Costs of sale'."""
    words = re.split(r" (?:of|in|for|on|at|from|to|by|with|per|and|&) |[,(/:]", name.strip())[0].split()
    last = words[-1] if words else ""
    if re.search(r" (?:and|&) ", name):
        return "were"
    is_plural = last.endswith("s") and last[-2:-1].islower() and not last.endswith(("ss", "us", "is"))
    return "were" if is_plural else "was"


def finding(
    comparison: Comparison, subject: str, figures: FigureFormat, names: SideNames, *, is_spending: bool = False
) -> str:
    """The default title: what, how much, against what, and what moved most the way that the whole went.

    'Fuel 412k, 41k over budget (+11.1%)'
    """
    figures, one = figures.in_words, comparison.headline
    current = ABSENT if one.current is None else figures.headline(one.current)
    when = f" {in_or_on(one)} {window_text(one.pair.period, figures.locale)}" if one.pair else ""
    if comparison.unmatched and not when:
        when = f" in {summed_text(comparison.current, figures.locale)}"
    of_outlook = ", outlook" if comparison.current.is_mixed and not one.pair else ""
    start = f"{subject}{of_outlook}{',' if ',' in subject and not of_outlook else ''} {current}{when}"
    if comparison.base is None or (one.current is None and one.base is None):
        return start if when or names.current == EVERYTHING else f"{start}, {names.current}"
    if one.change is None:
        where = "" if one.pair else f" in {names.base if one.base is None else names.current}"
        nothing = "with nothing to measure it against" if one.base is None else "with nothing"
        return f"{start}, {nothing}{where}"
    change = one.movement
    than = base_of(one, comparison, names, figures.locale)
    if not change:
        return f"{start}, level with {than}"
    words = f"{direction_word(change > 0, is_spending=is_spending)} {than}"
    behind = ratio_words(one, figures) if one.change is not None else ""
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
    if total.pair is not None and total.is_period:
        current = f"{window_text(total.pair.period, figures.locale)}: {current}"
    if total.change is None:
        return current
    return f"{current}, {figures.signed_headline(total.change)}{ratio_words(total, figures)}"


def ratio_words(point: Point, figures: FigureFormat) -> str:
    """The ratio in brackets, with that of the part for which both sides have rows: ' (+63.3%; +19.2% in …)'."""
    parts = [ratio] if (ratio := figures.ratio(point)) not in (NOT_MEANINGFUL, ABSENT, "") else []
    if point.matched is not None:
        part = replace(point, current=point.matched.current, base=point.matched.base)
        where = summed_text(point.matched.sides[0], figures.locale)
        parts.append(f"{figures.ratio(part)} in {where}, where both sides have rows")
    return f" ({'; '.join(parts)})" if parts else ""


def matched_notes(comparison: Comparison, figures: FigureFormat, *, adds_up: bool) -> tuple[str, ...]:
    """What stands beside a total of unlike spans: what one side alone has, and the parts that both have rows for.

    Parameters
    ----------
    adds_up : the figures of periods add up to that of all of them.
    """
    unmatched = unmatched_notes(comparison, figures, adds_up=adds_up)
    return (*unmatched, *_parted_notes(comparison, figures))


def unmatched_notes(comparison: Comparison, figures: FigureFormat, *, adds_up: bool) -> tuple[str, ...]:
    """What each side has in periods that the other lacks: 'Jan–Mar 2025 adds 415k with nothing to compare, …'."""
    base, notes = comparison.base, []
    with_names = base is not None and base.scenario != comparison.current.scenario
    for is_base in (False, True):
        found = [one for one in comparison.unmatched if one.is_base is is_base]
        if not found:
            continue
        when = listed((summed_text(one.side, figures.locale) for one in found), 3)
        if with_names:
            when = f"{when} {scenario_words(found[0].side, figures.locale)}"
        amount = figures.in_words.headline(total(one.amount for one in found))
        verb, has = ("adds", "has") if len(found) == 1 else ("add", "have")
        what = f"{verb} {amount} with" if adds_up else has
        notes.append(f"{when} {what} nothing to compare")
    return tuple(notes)


def not_shown_notes(comparison: Comparison, figures: FigureFormat, *, adds_up: bool) -> tuple[str, ...]:
    """What is left out beside the points that are kept: 'Left out: 5 others, 112k against 98k (+14k)'."""
    found = comparison.not_shown
    if not found:
        return ()
    size = found[0].gathered
    others = f"Left out: {size} other{'s' if size > 1 else ''}"
    if not adds_up and len(found) > 1:
        return (others,)
    whole = found[0] if len(found) == 1 else total_of(found)
    words = figures.in_words
    now, then = (ABSENT if side is None else words.headline(side) for side in (whole.current, whole.base))
    in_panels = " in all panels" if len(found) > 1 else ""
    if comparison.base is None:
        return (f"{others}, {now}{in_panels}",)
    return (f"{others}, {now} against {then} ({words.signed_headline(whole.movement)}){in_panels}",)


def _parted_notes(comparison: Comparison, figures: FigureFormat) -> tuple[str, ...]:
    """The matched part of the totals and categories that begin or end within the window, the largest first."""
    figures, notes = figures.in_words, []
    wholes = [comparison.total, *(comparison.panel_totals or comparison.points)]
    parted = sorted((one for one in wholes if one.matched), key=lambda one: -abs(one.movement))
    for one in parted[:MOST_PARTED]:
        part = one.matched
        assert part is not None
        now, then = (figures.headline(side) if side is not None else ABSENT for side in (part.current, part.base))
        ratio = figures.ratio(replace(one, current=part.current, base=part.base))
        notes.append(
            f"{point_name(one, figures.locale)}: {now} against {then} ({ratio}) in "
            f"{summed_text(part.sides[0], figures.locale)}, where both sides have rows"
        )
    return tuple(notes)


def in_or_on(point: Point) -> str:
    """'on' a day, 'in' a longer period."""
    return "on" if point.pair and point.pair.period.grain is Grain.DAY else "in"


def base_of(one: Point, comparison: Comparison, names: SideNames, locale: str) -> str:
    """What a point's base is called: 'budget', 'last year'; of a period 'the year before', of a part its days."""
    if one.pair is None or one.pair.base is None or comparison.basis is Basis.SCENARIO:
        return names.base_in_sentence
    if comparison.basis is Basis.YEAR_AGO:
        return "the year before"
    # A quarter that has begun is measured against as much of the one before.
    is_part = comparison.basis is Basis.PRIOR and one.pair.period.is_cut
    return summed_text(one.pair.base, locale) if is_part else names.base_in_sentence


MOST_PARTED = 3  # categories whose matched part is noted
LEAST_MOVER = Decimal("0.05")  # of the whole change: less explains nothing


def _mover(comparison: Comparison, figures: FigureFormat) -> str:
    """What moved most of all that went the way of the whole, where there are several and it stands out."""
    points = comparison.panel_totals or comparison.points
    ranked = [point for point in points if point.movement and not point.gathered and not point.is_beside]
    lines = [point for point in points if point.kind is Kind.LINE]
    if any(point.category == comparison.total.category for point in lines):
        return ""  # the whole is one of several lines
    if lines:
        ranked = [point for point in ranked if point.kind is Kind.LINE]
    # Along time a side that is absent is a gap, not a movement.
    ranked = [one for one in ranked if one.pair is None or (one.change is not None and one.pair.is_matched)]
    is_up = comparison.total.effect > 0
    largest = max(
        (one for one in ranked if (one.effect > 0) == is_up), key=lambda one: abs(one.movement), default=None
    )
    if len(ranked) < 2 or largest is None:
        return ""
    if sum(one.movement == largest.movement for one in ranked) > 1:
        return ""  # several lead together
    if abs(largest.movement) < LEAST_MOVER * abs(comparison.total.movement):
        return ""
    return f", led by {point_name(largest, figures.locale)}{_by_how_much(largest, figures)}"


def _by_how_much(point: Point, figures: FigureFormat) -> str:
    """A change in a title: with its sign, or of a statement's line, whose effect may have the other one, in words."""
    if point.is_cost is None:
        return f" ({figures.signed_headline(point.movement)})"
    return f", {sized_words(point, figures, figures.size_of_change(point.movement))}"


def sized_words(point: Point, figures: FigureFormat, size: str) -> str:
    """The change of a statement's line without a sign: '206k over (20.2%)'."""
    ratio = figures.ratio(point).lstrip(f"+{MINUS}").removeprefix("(").removesuffix(")")
    behind = f" ({ratio})" if ratio not in (NOT_MEANINGFUL, ABSENT, "") else ""
    return f"{size} {direction_word(point.movement > 0, is_spending=bool(point.is_cost))}{behind}"


def point_name(point: Point, locale: str) -> str:
    """What a point is called in a picture: its category, or its period as the locale writes it."""
    is_whole = point.kind is Kind.TOTAL and point.is_cost is None
    if point.in_panel:
        panel = window_text(point.pair.period, locale) if point.pair else point.panel
        return str(panel) if is_whole else f"{point.label}, {panel}"
    if point.pair is None:
        return printable(point.panel or point.label)
    name = window_text(point.pair.period, locale)
    return f"{point.panel}, {name}" if point.panel else name


NO_RATIO = {NOT_MEANINGFUL: f" ({NOT_MEANINGFUL})"}
STATE_WORDS = {State.NEW: "new", State.ENDED: "ended", State.NO_BASE: "no base", State.NO_CURRENT: "no current"}


def state_words(point: Point, names: SideNames) -> str:
    """What is said of a point with one side only: 'new', 'no base'; against a scenario 'not in budget', 'no actual'."""
    if point.state is State.NOT_IN_BASE:
        return f"not in {names.base_scenario}"
    if point.state is State.NOT_IN_CURRENT:
        return f"no {names.current_scenario}"
    return STATE_WORDS.get(point.state, "")


def point_sentence(point: Point, band: str | None, names: SideNames, figures: FigureFormat) -> str:
    """One point in words: 'Fuel: 412k against 371k, +41k (+11.1%), Over budget'."""
    figures = figures.in_words
    name = point_name(point, figures.locale)
    is_step = point.kind is Kind.STEP and point.is_cost is None
    if is_step and (point.name is not None or not names.base) and not (point.current and point.base):
        # It moves the total and has no sides of its own: of a list, or volume, mix and price.
        text = f"{name}: {figures.change(point.movement)}"
    elif not names.base and point.base is None:
        text = f"{name}: {figures.amount_of(point, point.current)}"
    elif point.base is None:
        where = "" if point.pair else f" in {names.current}"
        text = f"{name}: {figures.amount_of(point, point.current)}{where}, {state_words(point, names)}"
    elif point.current is None:
        text = f"{name}: {state_words(point, names)}, {figures.amount_of(point, point.base)} in {names.base}"
    else:
        text = (
            f"{name}: {figures.amount_of(point, point.current)} against {figures.amount_of(point, point.base)}"
            f"{_of_own_base(point, figures.locale)}, {_change_words(point, figures)}"
        )
        if point.nothing is not None:
            text = f"{text}, {state_words(point, names)}"
    return f"{text}, {band}" if band else text


def _change_words(point: Point, figures: FigureFormat) -> str:
    """A point's change: '+41 (+11.1%)', or of a statement's line '41 over (11.1%)'."""
    if point.is_cost is None or point.kind is Kind.RATIO or not point.change:
        return f"{figures.change_of(point)}{ratio_words(point, figures) or NO_RATIO.get(figures.ratio(point), '')}"
    return sized_words(point, figures, replace(figures, signs=Signs.UNSIGNED).change(point.change))


def _of_own_base(point: Point, locale: str) -> str:
    """The days of a period's own base, where they are others than its own: ' in Oct 2025'."""
    then = point.pair.base if point.pair else None
    window = then.summed if then else None
    if then is None or window is None or point.pair is None:
        return ""
    period = point.pair.period
    if (window.first, window.end) == (period.first, period.end):
        return ""
    return f" {'on' if window.first == window.end else 'in'} {summed_text(then, locale)}"


def without_side(one: Comparison, names: SideNames, figures: FigureFormat) -> tuple[str, ...]:
    """Cautions about categories that one side lacks, such as new ones: how many, and how much they are in all."""
    cautions, points = [], one.absent
    for state, where in (
        (State.NEW, names.base),
        (State.ENDED, names.current),
        (State.NOT_IN_BASE, names.base),
        (State.NOT_IN_CURRENT, names.current),
    ):
        found = [p for p in points if p.state is state and (p.current or p.base)]  # of nothing nothing is lacking
        if found:
            absent_base = state in (State.NEW, State.NOT_IN_BASE)
            word = state_words(found[0], names)
            word = f"with {word}" if word.startswith("no ") else word
            amounts = [p.current if absent_base else p.base for p in found]
            amount = figures.headline(total(a for a in amounts if a is not None))
            labels = listed((point_name(point, figures.locale) for point in found), 3)
            when = when_absent(one, where, figures.locale, of_base=absent_base)
            told = f"{len(found)} {word} ({labels}): no figure {when}, {amount} in all"
            unnamed = next((p for p in one.of_categories if p.category == NO_NAME and p not in found), None)
            beside = None if unnamed is None else unnamed.base if absent_base else unnamed.current
            theirs = f"; {NO_NAME} has {figures.headline(beside)} there, which may be of them" if beside else ""
            cautions.append(f"{told}{theirs}")
    return tuple(cautions)


def when_absent(one: Comparison, side: str, locale: str, *, of_base: bool) -> str:
    """When there is nothing on a side: 'in Jan–Oct 2026'; of balances, which may have been before, 'on 31 Oct 2026'."""
    closing = one.closing[1 if of_base else 0]
    return f"in {side}" if closing is None else f"on {day_text(closing, locale)}"
