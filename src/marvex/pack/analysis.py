"""A source becomes cells, cells become a comparison, the comparison is judged.

Every command starts here, whatever it does with the judged points.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from marvex.core import rules, sides
from marvex.core.comparison import Better, Comparison, Kind, Point, Side, compare, hidden_total
from marvex.core.errors import MarvexError, did_you_mean
from marvex.core.exact import ZERO, difference, total
from marvex.core.judging import judged_points, judged_total
from marvex.core.ranking import Keep, Order, arranged, arrangement
from marvex.core.result import Analysis, Check, JudgedComparison, SourceFacts
from marvex.core.rule_language import parse_rule
from marvex.core.rules import Rule
from marvex.core.sides import Sides
from marvex.core.totals import Total, TotalAs, parse_total_as
from marvex.core.trace import Trace, TracedSide, judged_at
from marvex.core.units import FigureFormat, Signs, Unit, fitting_decimals, fitting_unit
from marvex.core.wording import SideNames, capitalised, names_alike, side_names, without_side
from marvex.pack.asking import asked_of, is_name
from marvex.pack.settings import Settings, flag
from marvex.sources import ledger
from marvex.sources.ledger import Ledger

TRACED_ROWS = 5


def analyse(sources: Sequence[str], settings: Settings) -> Analysis:
    """Reads the sources once and judges every comparison asked for.

    Raises MarvexError where the call, the input or the data are wrong.
    """
    with reading(sources, settings) as (book, total_as):
        return _analysed(book, settings, total_as)


def traced(sources: Sequence[str], settings: Settings, label: str) -> tuple[Analysis, Trace]:
    """The analysis, and what stands behind one of its figures."""
    with reading(sources, settings) as (book, total_as):
        analysis = _analysed(book, settings, total_as)
        judged = judged_at(analysis, label)
        comparison = analysis.first.comparison
        among = None if judged.point.kind is Kind.TOTAL else judged.point.label
        current = _traced_side(book, comparison.current, judged.point.current, among)
        base = _traced_side(book, comparison.base, judged.point.base, among) if comparison.base else None
        return analysis, Trace(judged, current, base)


def _traced_side(book: Ledger, side: Side, amount: Decimal | None, among: str | None) -> TracedSide:
    rows = book.total(side.span, None if among is None else [among]).rows
    return TracedSide(side, amount, rows, book.largest_rows(side.span, among, TRACED_ROWS))


@contextlib.contextmanager
def reading(sources: Sequence[str], settings: Settings) -> Iterator[tuple[Ledger, TotalAs]]:
    """The sources read, after what the call says together has been checked."""
    _check_together(settings)
    total_as = parse_total_as(settings.total_as)
    with ledger.reading(asked_of(sources, settings, total_as), settings.names) as book:
        yield book, total_as


def _analysed(book: Ledger, settings: Settings, total_as: TotalAs) -> Analysis:
    better = Better(settings.better)
    if not book.width:
        raise MarvexError(
            "nothing says what to compare by",
            f"Name a column of categories with --by: {book.categories or 'there is none yet'}.",
        )
    keep_totals = settings.totals == "keep"
    planned = [_plan(book, settings, versus) for versus in settings.versus or (None,)]
    compared = _arranged(book, [_compared(book, plan, total_as, keep_totals) for plan in planned], settings, total_as)
    counted = "cells" if any(one.roles.is_wide for one in book.sources) else "rows"
    facts = SourceFacts(book.name, book.rows_read, max(one.rows_used for one in compared), counted)
    said = (*book.said, *_choices(planned))
    cautions = (*book.cautions, *book.found_in_one_only())
    cautions += _distinct(caution for plan in planned for caution in plan.cautions)
    subject = _subject(book, total_as)
    by = " and ".join(book.first.compared_by)
    filtered = " and ".join(one.spoken for one in book.first.filters)
    figures = _figure_format([one.comparison for one in compared], settings)
    judged = tuple(_judged(one, settings, better, figures) for one in compared)
    cautions += names_alike(point.label for one in judged for point in one.comparison.points)
    for one in judged:
        cautions += without_side(one.comparison.absent, one.names, figures)
    return Analysis(facts, judged, better, figures, subject, by, filtered, total_as, said, _distinct(cautions))


@dataclass(frozen=True, slots=True)
class _Compared:
    plan: Sides
    comparison: Comparison
    ties_out: Check
    rows_used: int


def _check_together(settings: Settings) -> None:
    if settings.base and not settings.current:
        raise MarvexError("--base names a column, but --current does not", "Name both columns.")
    if settings.current and (settings.of or settings.versus):
        raise MarvexError(
            "--current and --base exclude --of and --versus", "Name the two sides as columns or as scenarios."
        )
    for other in ("amount", "scenario", "headings_are"):
        if settings.current and getattr(settings, other):
            raise MarvexError(f"--current and --base exclude {flag(other)}", f"Leave {flag(other)} out.")
    if settings.rule and settings.rules:
        raise MarvexError("--rule and --rules exclude one another", "Use one of them.")


def _plan(book: Ledger, settings: Settings, versus: str | None) -> Sides:
    asked = sides.Asked(settings.for_, settings.of, versus, settings.as_of, settings.whole)
    if settings.current:
        amounts = [one.name for one in book.first.roles.amounts]
        return sides.sides_of_columns(book.scenarios, amounts[0], amounts[1] if len(amounts) > 1 else None, asked)
    return sides.plan_sides(book.scenarios, asked)


def _check_no_hidden_total(book: Ledger, comparison: Comparison, total_as: TotalAs, keep_totals: bool) -> None:
    """Stops where a category is the total of the others, which would be counted twice."""
    hidden = None if keep_totals or not total_as.adds_up else hidden_total(comparison.points)
    if hidden is not None:
        column = book.first.roles.by[0]
        raise MarvexError(
            f"{book.name}: {column} '{hidden.label}' is the sum of all others and would be counted twice",
            f"Leave it out with --where '{column}!={hidden.label}', or keep it with --totals keep.",
        )


def _compared(book: Ledger, plan: Sides, total_as: TotalAs, keep_totals: bool) -> _Compared:
    now = book.cells(plan.current.span)
    then = book.cells(plan.base.span) if plan.base else ()
    if not now and not then:
        raise MarvexError(
            "no rows in the window have an amount" + (" and pass --where" if book.first.filters else ""),
            "Ask for another window or keep more rows.",
        )
    whole = None if total_as.adds_up else _engine_point(book, plan, None)
    comparison = compare(plan.current, plan.base, now, then, book.in_given_order(now, then), whole)
    _check_no_hidden_total(book, comparison, total_as, keep_totals)
    rows_by_side = [sum(cell.rows for cell in cells) for cells in (now, then)]
    # Both sides of a row are one row where they are columns of it.
    rows = max(rows_by_side) if book.first.roles.sides_are_columns else sum(rows_by_side)
    return _Compared(plan, comparison, _ties_out(book, plan, comparison, total_as, rows_by_side), rows)


def _engine_point(book: Ledger, plan: Sides, among: Sequence[str] | None) -> Point:
    """The point over all rows, or those of some categories, worked out by the engine and not added up."""
    base = book.total(plan.base.span, among).amount if plan.base else None
    label = "Total (not a sum)" if among is None else ""
    return Point(label, book.total(plan.current.span, among).amount, base, Kind.TOTAL)


def _arranged(book: Ledger, compared: Sequence[_Compared], settings: Settings, total_as: TotalAs) -> list[_Compared]:
    order = Order(settings.order) if settings.order else None
    keep = Keep(settings.keep.count, settings.keep.word == "bottom") if settings.keep else None
    plan = arrangement([one.comparison for one in compared], order, keep)
    gathered = [label for _, label in plan.gathered]
    found = []
    for one in compared:
        other = None if total_as.adds_up or not gathered else _engine_point(book, one.plan, gathered)
        found.append(replace(one, comparison=arranged(one.comparison, plan, other)))
    return found


def _ties_out(
    book: Ledger, plan: Sides, comparison: Comparison, total_as: TotalAs, rows_by_side: Sequence[int]
) -> Check:
    """The points added up against the engine's own total of all rows; where they do not add up, their rows."""
    bases = (plan.current, plan.base) if plan.base else (plan.current,)
    missing = ZERO
    for place, side in enumerate(bases):
        whole = book.total(side.span)
        if not total_as.adds_up:
            missing += abs(whole.rows - rows_by_side[place])
            continue
        amounts = [point.base if place else point.current for point in comparison.points]
        missing += abs(difference(whole.amount or ZERO, total(amount for amount in amounts if amount is not None)))
    if missing:
        raise MarvexError(f"the points do not tie out with the source: {missing} is missing", "")
    return Check("ties out", missing)


def _figure_format(comparisons: Sequence[Comparison], settings: Settings) -> FigureFormat:
    _check_locale(settings.locale)
    currency = _checked_currency(settings.currency)
    points = [point for one in comparisons for point in (*one.points, one.total)]
    amounts = [amount for point in points for amount in (point.current, point.base) if amount is not None]
    changes = [point.movement for one in comparisons for point in one.points]
    unit = fitting_unit(amounts, changes) if settings.units == "auto" else Unit(settings.units)
    decimals = settings.decimals
    if decimals is None:
        decimals = fitting_decimals(amounts, changes, unit)
    return FigureFormat(unit, decimals, settings.locale, Signs(settings.signs), currency)


def _check_locale(locale: str) -> None:
    from babel import Locale, UnknownLocaleError
    from babel.localedata import locale_identifiers

    try:
        Locale.parse(locale)
    except (ValueError, UnknownLocaleError):
        hint = did_you_mean(locale, locale_identifiers(), "Write it as en_GB or de_CH.")
        raise MarvexError(f"--locale: there is no locale '{locale}'", hint) from None


def _checked_currency(currency: str | None) -> str | None:
    from babel.numbers import list_currencies

    if currency is None:
        return None
    if currency.upper() not in list_currencies():
        raise MarvexError(f"--currency: there is no currency '{currency}'", "Write its code, such as EUR.")
    return currency.upper()


def _judged(one: _Compared, settings: Settings, better: Better, figures: FigureFormat) -> JudgedComparison:
    comparison = one.comparison
    names = side_names(comparison, figures.locale)
    rule = _rule(comparison, settings, better, names)
    return JudgedComparison(
        comparison,
        rule,
        judged_points(comparison, rule, better),
        judged_total(comparison, rule, better),
        names,
        one.ties_out,
        one.rows_used,
    )


def _rule(comparison: Comparison, settings: Settings, better: Better, names: SideNames) -> Rule:
    if settings.rule:
        return parse_rule(settings.rule)
    base = comparison.base
    is_scenario = base is not None and base.scenario != comparison.current.scenario
    ready = settings.rules or ("budget" if is_scenario else "direction")
    if ready == "budget":
        return rules.budget(better, names.base_in_sentence)
    return rules.effect() if ready == "effect" else rules.direction(better)


def _subject(book: Ledger, total_as: TotalAs) -> str:
    """What the amounts are called: the one thing that the rows were narrowed to, else the column."""
    roles = book.first.roles
    narrowed = next((one for one in (f.names_one for f in reversed(book.first.filters)) if is_name(one)), None)
    if total_as.way is Total.DISTINCT:
        name = f"distinct {total_as.column}"
    elif total_as.way is Total.COUNT:
        name = "number of rows"
    elif len(roles.amounts) == 1:
        name = roles.amounts[0].name.replace("_", " ")
    else:
        name = "total"
    if total_as.way in (Total.MEAN, Total.HIGHEST, Total.LOWEST, Total.CLOSING):
        name = f"{total_as.way.value} {name}"
    if narrowed is None:
        return capitalised(name)
    return capitalised(narrowed) if total_as.way is Total.SUM else capitalised(f"{name}, {narrowed}")


def _choices(planned: Sequence[Sides]) -> tuple[str, ...]:
    chosen = [choice for plan in planned for choice in plan.choices]
    return (f"compared {', '.join(chosen)}",) if chosen else ()


def _distinct(texts: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(texts))
