"""The waterfall's bars from an analysis: one walk, or one for each panel, with cut, closing and brackets."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import groupby
from typing import Any

from marvex.app.panels import panel_words
from marvex.app.subject import says_nothing
from marvex.app.walk_checks import both_sided, check_can_walk, check_no_total_is_a_step, check_periods_add_up
from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis, Check
from marvex.core.compare.shown import Shown, ShownPoint
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO, difference, rounded_ratio
from marvex.core.rules.judging import judged_steps
from marvex.core.structure.drivers import Drivers, drivers
from marvex.core.structure.matched_walk import MATCHED, matched_change, stepwise
from marvex.core.structure.movements import Marked, walk_movement
from marvex.core.structure.total_names import is_plain_total
from marvex.core.structure.walk import (
    Walk,
    can_cut_at,
    fitting_cut,
    gathered_lines,
    in_two_stretches,
    judged_walk,
    walk_balance,
    walk_change,
    walk_down,
    walk_drivers,
    walk_statement,
    with_subtotals,
)
from marvex.core.values import dataclass
from marvex.core.words.side_names import capitalised, summed_text, window_text
from marvex.core.words.units import FigureFormat
from marvex.core.words.wording import walk_finding
from marvex.request.settings import Settings

Walks = tuple[tuple[str | None, Walk], ...]  # the walk of each panel by its name


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """The walks to draw, what is shown of them, and where their standing bars are cut.

    Parameters
    ----------
    groups : the group of each step's category, for the brackets.
    note : what the picture has to say of a cut, for the foot.
    finding, subtitle : the title, and what stands under it, where they are not the comparison's.
    """

    walks: Walks
    shown: Shown
    cuts: Mapping[str | None, Decimal]
    note: str
    finding: str
    subtitle: str
    groups: Mapping[str, str]

    def panels(self, analysis: Analysis) -> list[Any]:
        from marvex.views.drawing.panel import Panel

        totals = {total.point.panel: total for total in analysis.first.panel_totals}
        found = []
        for panel, walk in self.walks:
            name, finding = panel_words(analysis, panel, [bar.judged for bar in walk.steps], totals.get(panel))
            found.append(Panel(points=walk.bars, name=name, finding=finding))
        return found


def walked(
    analysis: Analysis,
    settings: Settings,
    word: Callable[[str], str],
    parts: tuple[Analysis, Analysis] | None = None,
) -> Walked:
    """The walk that the settings ask for, in every panel.

    Parameters
    ----------
    word : how a setting is called where it was said.
    parts : the two comparisons of `--via`, whose walks become one.
    """
    check_can_walk(analysis, settings)
    walks: Walks = tuple((name, _walk(analysis, comparison, settings)) for name, comparison in _by_panel(analysis))
    if parts is not None:
        # Each of the three sides is in two of the three comparisons.
        used = sum(part.source.rows_used for part in (analysis, *parts)) // 2
        analysis = replace(analysis, source=replace(analysis.source, rows_used=used))
        one, other = (_walk(part, part.first.comparison, settings) for part in parts)
        walks = ((None, in_two_stretches(one, other)),)
    if settings.walk in ("movement", "balance") and len(walks) == 1:
        analysis = replace(analysis, subject=_moved(walks[0][1], analysis))
    if settings.walk == "movement":
        check_no_total_is_a_step(analysis, settings, [walk for _, walk in walks])
        analysis = _closed(analysis, [walk for _, walk in walks])
    # On one scale a cut in one panel would make its bars as high as others that stand for more.
    cuttable = walks if len(walks) == 1 or settings.own_scale else ()
    cuts = {name: cut for name, walk in cuttable if (cut := _cut(walk, settings)) is not None}
    shown = _shown(analysis, walks)
    for caution in _cautions(analysis, settings, walks):
        shown = shown.with_caution(word(caution))
    finding, subtitle = _title(analysis, settings, walks)
    return Walked(
        walks=walks,
        shown=shown,
        cuts=cuts,
        note=". ".join(part for part in _notes(analysis, settings, walks, cuts) if part),
        finding=finding,
        subtitle=subtitle,
        groups=_groups(analysis.first.comparison) if settings.brackets else {},
    )


def _shown(analysis: Analysis, walks: Walks) -> Shown:
    """The bars of all walks as points, and whether they foot."""
    totals = {total.panel: total for total in analysis.first.comparison.panel_totals}
    missing = sum((abs(walk.difference) for _, walk in walks), Decimal(0))
    points = tuple(
        ShownPoint(
            judged=replace(bar.judged, point=bar.point.within(totals[name]) if name in totals else bar.point),
            comparison=0,
            start=bar.start,
            end=bar.end,
        )
        for name, walk in walks
        for bar in walk.bars
    )
    checks = (analysis.checks[0], Check("foots", missing), *analysis.checks[1:])
    return Shown(view="waterfall", analysis=analysis, points=points, checks=checks)


def _cautions(analysis: Analysis, settings: Settings, walks: Walks) -> Iterator[str]:
    """Which rows of a list are its totals by their figures, and which items have a negative volume."""
    for label in dict.fromkeys(label for _, walk in walks for label in walk.left_out):
        yield f"'{label}' is a sum of other rows, and was left out"
    for label in dict.fromkeys(label for _, walk in walks for label in walk.by_sum):
        way_out = f"{setting('standing', 'none')} takes it for a step"
        yield f"'{label}' is the sum of the rows before it, and stands: {way_out}"
    negative = _drivers(analysis.first.comparison, settings).negative if settings.volume and len(walks) == 1 else ()
    if negative:
        yield f"{listed(negative, 4)} has a negative {settings.volume}, and counts as it stands"


def _notes(analysis: Analysis, settings: Settings, walks: Walks, cuts: Mapping[str | None, Decimal]) -> Iterator[str]:
    """What the picture has to say of itself: what stands beside its steps, volumes and prices, and a cut."""
    if settings.walk == "statement":
        yield _beside_result(analysis)
    if settings.volume and len(walks) == 1:
        yield _units_of(_drivers(analysis.first.comparison, settings), analysis, settings.volume)
    if cuts and len(walks) == 1:
        left_out = analysis.figures.headline(cuts[walks[0][0]])
        yield f"The standing bars are cut: all up to {left_out} is left out"
    elif cuts:
        yield "The standing bars are cut in each panel where its steps are small beside them"


def _title(analysis: Analysis, settings: Settings, walks: Walks) -> tuple[str, str]:
    """The title and what stands under it, empty where they are the comparison's."""
    if len(walks) != 1:
        return "", ""
    walk = walks[0][1]
    if settings.walk in ("movement", "balance"):
        return walk_finding(walk, analysis.subject, analysis.figures), ""
    if settings.walk == "matched":
        return _matched_words(walk, analysis)
    if settings.volume:
        steps = replace(analysis.first.comparison, points=tuple(bar.point for bar in walk.steps))
        return analysis.finding_of(steps), ""
    return "", ""


def _drivers(comparison: Comparison, settings: Settings) -> Drivers:
    return drivers(comparison.points, with_mix=not settings.no_mix)


def _beside_result(analysis: Analysis) -> str:
    """The lines that have figures and are in nothing that leads to the result, which the steps do not show."""
    statement, points = analysis.statement, analysis.first.comparison.points
    if statement is None or statement.result is None:
        return ""
    lines = dict.fromkeys(one.label for one in points if one.kind is Kind.LINE and (one.current or one.base))
    apart = [one for one in lines if not statement.effect_on_result(one)]
    are = "is no step" if len(apart) == 1 else "are no steps"
    return f"{listed(apart, 4)} {are}: not in {statement.result.label}" if apart else ""


def _moved(walk: Walk, analysis: Analysis) -> str:
    """What a walk of movements comes to: what is analysed, or the row that closes a list of which no heading says."""
    rows = {one.label for one in analysis.first.comparison.points}
    closing = walk.bars[-1].label if walk.bars else ""
    is_named = closing in rows and not is_plain_total(closing)
    return closing if is_named and says_nothing(analysis.subject) else analysis.subject


def _closed(analysis: Analysis, walks: Sequence[Walk]) -> Analysis:
    """The analysis of a list: what its rows come to where some of them stand is its closing, and no sum of them all."""
    one = analysis.first
    rows = {point.label for point in one.comparison.points}
    bars = [bar for walk in walks for bar in walk.bars]
    if not any(walk.left_out for walk in walks) and not any(
        bar.point.kind is not Kind.STEP and bar.label in rows for bar in bars
    ):
        return analysis
    whole = one.comparison.total
    if len(walks) == 1 and bars:
        whole = replace(whole, current=bars[-1].end)
    comparison = replace(one.comparison, total=whole, has_total=False)
    first = replace(one, comparison=comparison, total=replace(one.total, point=whole))
    return replace(analysis, comparisons=(first, *analysis.comparisons[1:]))


def _matched_words(walk: Walk, analysis: Analysis) -> tuple[str, str]:
    """'Net 35,751 in 2026, 14,191 above 2025, of which +5 is matched', and what the steps tell apart."""
    figures, (opening, *_, closing) = analysis.figures.in_words, walk.bars
    moved = difference(closing.end, opening.end)
    where = "above" if moved > 0 else "below"
    matched = next((one.movement for one in walk.steps if one.label == MATCHED), ZERO)
    moves = f"{figures.headline(abs(moved))} {where} {opening.label}" if moved else f"level with {opening.label}"
    title = f"{analysis.subject} {figures.headline(closing.end)} in {closing.label}, {moves}, of which "
    title += f"{figures.signed_headline(matched)} is matched"
    subtitle = (
        f"{closing.label} against {opening.label}: the change where both sides have rows, and what one alone has"
    )
    return title, ", ".join(part for part in (subtitle, figures.unit_words) if part)


def _units_of(found: Drivers, analysis: Analysis, volume: str) -> str:
    """Volume and price of both sides, over the items that have volume on both."""
    locale = analysis.figures.locale
    whole, fine = (FigureFormat(decimals=decimals, locale=locale) for decimals in (0, 2))
    volumes = [whole.amount(one) for one in found.volumes[::-1]]
    prices = [fine.amount(rounded_ratio(one, 2)) for one in found.prices[::-1]]
    return f"{capitalised(volume)} {volumes[0]} against {volumes[1]}, at {prices[0]} each against {prices[1]}"


def _by_panel(analysis: Analysis) -> list[tuple[str | None, Comparison]]:
    """The comparison of each panel, with the panel's own total; the whole one where there are none."""
    whole = analysis.first.comparison
    if not whole.panel_totals:
        return [(None, whole)]
    totals = {total.panel: total for total in whole.panel_totals}
    return [
        (name, replace(whole, points=tuple(group), total=totals[name]))
        for name, group in groupby(whole.points, key=lambda point: point.panel)
    ]


def _walk(analysis: Analysis, comparison: Comparison, settings: Settings) -> Walk:
    one, statement = analysis.first, analysis.statement
    opening, closing = _standing_names(analysis, comparison)
    opening = settings.opening_name or opening
    if settings.closing_name not in (None, "none"):
        closing = str(settings.closing_name)
    match settings.walk:
        case "movement":
            standing = () if settings.standing == ("none",) else settings.standing
            marked = Marked(standing, settings.deductions, settings.plug)
            walk = judged_walk(walk_movement(comparison.points, marked, settings.closing_name or "Total"), one.rules)
        case "balance":
            names = _balance_names(comparison, settings, analysis.figures.locale)
            walk = judged_walk(walk_balance(comparison.points, names), one.rules)
        case "statement" if comparison.base is None and statement is not None:
            if settings.keep is not None:
                raise Mistake(
                    f"{setting('keep')} gathers changes, and this walk goes down one side, its totals between",
                    f"Leave it out, or name a base with {setting('versus')}.",
                )
            walk = walk_down(comparison.points, statement)
        case "statement" if statement is not None:
            points = [one for one in comparison.points if one.kind is Kind.LINE]
            if settings.keep is not None:
                points = gathered_lines(points, statement, settings.keep.count, largest=settings.keep.word == "top")
            lines = replace(comparison, points=tuple(points))
            walk = walk_statement(comparison, judged_steps(lines, one.rules), statement, (opening, closing))
        case "drivers":
            found = _drivers(comparison, settings)
            walk = judged_walk(walk_drivers(comparison, found, opening, closing), one.rules)
        case "matched":
            locale = analysis.figures.locale
            told = matched_change(comparison, *_lone_names(comparison, locale))
            steps = stepwise(comparison, told)
            opening, closing = _whole_names(comparison, locale, (opening, closing))
            walk = walk_change(steps, judged_steps(steps, one.rules), opening, closing)
        case _:
            steps = both_sided(comparison)
            walk = walk_change(steps, judged_steps(steps, one.rules), opening, closing)
            check_periods_add_up(steps, walk)
    groups = _groups(comparison) if settings.brackets else {}
    walk = with_subtotals(walk, settings.subtotal_after, groups)
    is_closed = bool(walk.bars) and walk.bars[-1].point.kind is Kind.CLOSING
    return replace(walk, bars=walk.bars[:-1]) if settings.closing_name == "none" and is_closed else walk


def _standing_names(analysis: Analysis, comparison: Comparison) -> tuple[str, str]:
    """What the base and the current side are called; a panel that is a period has sides of its own."""
    names, pair = analysis.first.names, comparison.total.pair
    if pair is None or comparison.basis is Basis.SCENARIO:
        return names.base, names.current
    locale = analysis.figures.locale
    then, now = (
        window_text(side.window, locale) if side and side.window else name
        for side, name in ((pair.base, names.base), (pair.current, names.current))
    )
    return then, now


def _lone_names(comparison: Comparison, locale: str) -> tuple[str, str]:
    """What the periods are called that the base alone has, and those that the current side alone has."""
    found = []
    for is_base in (True, False):
        sides = [one.side for one in comparison.unmatched if one.is_base is is_base]
        found.append(f"Only in {listed((summed_text(side, locale) for side in sides), 2)}")
    return found[0], found[1]


def _whole_names(comparison: Comparison, locale: str, names: tuple[str, str]) -> tuple[str, str]:
    """The standing bars called by the whole of both windows, where those are of different times."""
    now, then = comparison.current, comparison.base
    if then is None or now.window is None or then.window is None or now.window == then.window:
        return names
    return window_text(then.window, locale), window_text(now.window, locale)


def _balance_names(comparison: Comparison, settings: Settings, locale: str) -> tuple[str, str]:
    """What the first and the last balance are called."""
    known = [point.pair.period for point in comparison.points if point.current is not None and point.pair]
    if not known:
        raise Mistake(
            "there is no balance to walk from: nothing that is kept has a row on a closing date",
            f"{setting('total_as', 'closing:each')} takes each category's own last date in the period.",
        )
    first, last = (window_text(period, locale) for period in (known[0], known[-1]))
    return first, settings.closing_name or f"Closing {last}"


def _groups(comparison: Comparison) -> dict[str, str]:
    """The group of each category, by the column that the brackets are of; stops where one is in several."""
    groups = {}
    for point in comparison.points:
        names: list[Point] = list(point.parts)
        if len(names) > 1:
            raise Mistake(
                f"{setting('brackets')}: '{point.label}' is in {len(names)} groups, "
                f"such as {names[0].label} and {names[1].label}",
                "Name a column in which each category has one value.",
            )
        if names:
            groups[point.label] = names[0].label
    return groups


def _cut(walk: Walk, settings: Settings) -> Decimal | None:
    """Where the standing bars are cut: as asked, or where that is needed."""
    if isinstance(settings.axis_break, str):
        return fitting_cut(walk) if settings.axis_break == "auto" and settings.axis is None else None
    if not can_cut_at(walk, settings.axis_break):
        raise Mistake(
            f"{setting('axis_break')} {settings.axis_break} does not lie between zero and the lowest step",
            "Give an amount nearer to zero.",
        )
    return settings.axis_break
