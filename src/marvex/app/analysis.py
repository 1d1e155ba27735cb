"""A source becomes cells, cells become a comparison, the comparison is judged.

Every command starts here, whatever it does with the judged points.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from marvex.app import comparing, panels
from marvex.app.asking import asked_of, calendar_of, is_along_time, is_name, sides_asked
from marvex.app.comparing import CheckedComparison, in_arrangement
from marvex.app.figure_format import check_locale, figure_format
from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.plan import Plan, plan_sides, sides_of_columns
from marvex.core.compare.point import Better, Kind, Point
from marvex.core.compare.result import Analysis, JudgedComparison, SourceFacts
from marvex.core.compare.side import Side
from marvex.core.compare.totals import Total, TotalAs, parse_total_as
from marvex.core.compare.trace import Trace, TracedSide, judged_at
from marvex.core.errors import Mistake, listed, setting
from marvex.core.rules import ready
from marvex.core.rules.bands import NamedRule, RuleSet
from marvex.core.rules.conditions import Quantity
from marvex.core.rules.judging import judged_points, judged_total
from marvex.core.rules.language import parse_rule
from marvex.core.structure.drivers import with_drivers
from marvex.core.structure.statement import Statement, unexpected_signs
from marvex.core.time.calendar import Grain
from marvex.core.words.wording import SideNames, capitalised, names_alike, side_names, without_side
from marvex.request.rule_file import READY, rules_from
from marvex.request.settings import GRAINS, Settings
from marvex.sources.engine import ledger
from marvex.sources.engine.ledger import Ledger

TRACED_ROWS = 5


def analyse(
    sources: Sequence[str],
    settings: Settings,
    *,
    needs_categories: bool = False,
    with_history: bool = False,
    with_beyond: bool = False,
) -> Analysis:
    """Reads the sources once and judges every comparison asked for.

    Parameters
    ----------
    needs_categories : the view compares categories, and so cannot have time as its only axis.
    with_history : how unusual each change is will be said.
    with_beyond : the base will be shown where the current side has not come to.

    Raises Mistake where the call, the input or the data are wrong.
    """
    with reading(sources, settings) as (book, total_as):
        if needs_categories and not book.width:
            raise _nothing_to_compare_by(book)
        return _analysed(book, settings, total_as, with_history=with_history, with_beyond=with_beyond)


def traced(sources: Sequence[str], settings: Settings, label: str) -> tuple[Analysis, Trace]:
    """The analysis, and what stands behind one of its figures."""
    with reading(sources, settings) as (book, total_as):
        analysis = _analysed(book, settings, total_as)
        judged = judged_at(analysis, label)
        point, comparison = judged.point, analysis.first.comparison
        if analysis.statement is not None:
            _check_traceable(analysis.statement, point)
        among = point.panel if comparison.every else point.label
        if point.kind is Kind.TOTAL and not point.panel:
            among = None
        now, then = (point.pair.current, point.pair.base) if point.pair else (comparison.current, comparison.base)
        current = _traced_side(book, now or comparison.current, point.current, among)
        base = _traced_side(book, then or comparison.base, point.base, among) if comparison.base else None
        return analysis, Trace(judged, current, base)


def _driven(one: CheckedComparison, settings: Settings) -> CheckedComparison:
    """The comparison with what drove each change, where it is one of items with a base, and whole."""
    comparison = one.comparison
    if comparison.base is None or comparison.every is not None or comparison.panel_totals:
        return one
    points, whole = with_drivers(comparison.points, comparison.total, with_mix=not settings.no_mix)
    return replace(one, comparison=replace(comparison, points=points, total=whole))


def _check_traceable(statement: Statement, point: Point) -> None:
    """Stops where a line has no rows of its own: it is made of lines."""
    line = statement.line(point.panel or point.label)
    if not line.accounts and (line.total_of or line.ratio):
        parts = listed(line.total_of or line.ratio or ())
        raise Mistake(
            f"{setting('at')}: '{line.label}' is made of lines, not of rows", f"Trace one of them: {parts}."
        )


def _traced_side(book: Ledger, side: Side | None, amount: Decimal | None, among: str | None) -> TracedSide:
    assert side is not None
    if amount is None:
        return TracedSide(side=side, amount=None, rows=0, largest=())
    rows = book.total(side.span, None if among is None else [among]).rows
    return TracedSide(side=side, amount=amount, rows=rows, largest=book.largest_rows(side.span, among, TRACED_ROWS))


@contextlib.contextmanager
def reading(sources: Sequence[str], settings: Settings) -> Iterator[tuple[Ledger, TotalAs]]:
    """The sources read, after what the call says together has been checked."""
    check_locale(settings.locale)
    _check_together(settings)
    if (settings.account or settings.unmapped) and settings.statement is None:
        said = "account" if settings.account else "unmapped"
        raise Mistake(f"{said} is about the accounts of a statement", f"Name its file with {setting('statement')}.")
    total_as = parse_total_as(settings.total_as, settings.per, settings.per_day)
    calendar = calendar_of(settings)
    with ledger.reading(asked_of(sources, settings, total_as, calendar), settings.name_map, calendar) as book:
        yield book, total_as


def _analysed(
    book: Ledger, settings: Settings, total_as: TotalAs, *, with_history: bool = False, with_beyond: bool = False
) -> Analysis:
    asked_rules = _rules_asked(settings)
    with_history |= asked_rules is not None and asked_rules.asks_for(Quantity.UNUSUAL)
    along_time = is_along_time(settings) or not book.width
    if along_time and not any(one.roles.has_dates for one in book.sources):
        raise _nothing_to_compare_by(book)
    if total_as.per_day is not None and not all(one.roles.has_dates for one in book.sources):
        raise Mistake(
            f"{setting('per_day')} divides by days, and the data have no dates",
            f"Name the column with {setting('date')}.",
        )
    if along_time and len(settings.for_) > 1:
        raise Mistake(
            f"{setting('for_')} is given twice, and points along time are of one window",
            f"Name categories with {setting('by')} instead.",
        )
    if settings.cumulative and not along_time:
        raise Mistake(f"{setting('cumulative')} is of points along time", f"Add {setting('every', 'month')}.")

    def asked(window: str | None, versus: str | None) -> SidesAsked:
        said = sides_asked(settings, window, versus, book.calendar)
        return replace(said, along_time=along_time, with_history=with_history, with_beyond=with_beyond)

    planned = [
        _plan(book, asked(window, versus), settings)
        for window in settings.for_ or (None,)
        for versus in settings.versus or (None,)
    ]
    compared = [comparing.compared(book, plan, total_as, settings) for plan in planned]
    statement = book.first.statement
    if statement is not None:
        compared = [panels.of_statement(book, one, statement, settings.panels_by) for one in compared]
    else:
        compared = _in_panels(book, compared, settings, total_as) or in_arrangement(
            book, compared, settings, total_as
        )
    if settings.volume:
        compared = [_driven(one, settings) for one in compared]
    counted = "cells" if any(one.roles.is_wide for one in book.sources) else "rows"
    facts = SourceFacts(
        name=book.name, rows_read=book.rows_read, rows_used=max(one.rows_used for one in compared), counted=counted
    )
    figures = figure_format([one.comparison for one in compared], settings)
    windows = {one.plan.current.window for one in compared}
    named = [side_names(one.comparison, figures.locale, with_window=len(windows) > 1) for one in compared]
    judged = tuple(_judged(one, settings, asked_rules, names) for one, names in zip(compared, named, strict=True))
    cautions = (*book.cautions, *book.found_in_one_only())
    for plan, one, made in zip(planned, judged, compared, strict=True):
        cautions += plan.cautions
        cautions += names_alike(_categories(one.comparison))
        cautions += without_side(one.comparison.absent, one.names, figures)
        cautions += comparing.fairness_cautions(made, total_as, figures)
    cautions += book.undivided_cautions(figures)
    if statement is not None:
        cautions += unexpected_signs(compared[0].comparison.points, statement)
    return Analysis(
        source=facts,
        comparisons=judged,
        figures=figures,
        subject=_subject(book, total_as, settings, planned[0].every),
        by=_lines_in_panels(statement, settings) if statement else _axis_in_panels(book, planned[0], settings),
        filtered=" and ".join(one.spoken for one in book.first.filters),
        total_as=total_as,
        said=(*book.said, *_choices(planned)),
        cautions=_distinct(cautions),
        statement=statement,
    )


def _in_panels(
    book: Ledger, compared: Sequence[CheckedComparison], settings: Settings, total_as: TotalAs
) -> list[CheckedComparison] | None:
    """The comparisons in panels, where a call asks for panels other than those that points along time have."""
    if settings.panels_by in GRAINS:
        if not book.width:
            raise _nothing_to_compare_by(book)
        return [panels.by_period(book, one, total_as, settings) for one in compared]
    if settings.panels_by is None or not settings.by:
        return None
    if is_along_time(settings):
        raise Mistake(
            f"{setting('panels_by')} {settings.panels_by} and {setting('by')} make panels of time, and only one of them can",
            f"Leave one of them out, or {setting('every')}.",
        )
    return [panels.by_column(book, one, total_as, settings) for one in compared]


def _nothing_to_compare_by(book: Ledger) -> Mistake:
    return Mistake(
        "nothing says what to compare by",
        f"Name a column of categories with {setting('by')}: {book.categories or 'there is none yet'}.",
    )


def _categories(comparison: Comparison) -> Iterator[str]:
    points = comparison.panel_totals if comparison.every else comparison.points
    return (point.panel or point.label for point in points)


def _axis(book: Ledger, plan: Plan) -> str:
    """What the points are, in words: the columns compared by, and the grain along time."""
    parts = [one.replace("_", " ") for one in book.first.compared_by]
    return " and ".join([*parts, plan.every.value] if plan.every else parts)


def _axis_in_panels(book: Ledger, plan: Plan, settings: Settings) -> str:
    """The same, where each value of a column or each period has a panel of its own."""
    if settings.panels_by is None or not settings.by:
        return _axis(book, plan)
    names = [one.replace("_", " ") for one in book.first.roles.by]
    if settings.panels_by in GRAINS:
        return f"{' and '.join(names)}, a panel for each {settings.panels_by}"
    return f"{' and '.join(names[book.width :])}, a panel for each {' and '.join(names[: book.width])}"


def _lines_in_panels(statement: Statement, settings: Settings) -> str:
    """What the points of a statement are, in words."""
    panels_by = (settings.panels_by or "").replace("_", " ")
    return statement.name + (f", a panel for each {panels_by}" if panels_by else "")


def _check_together(settings: Settings) -> None:
    if settings.base and not settings.current:
        raise Mistake(f"{setting('base')} names a column, but {setting('current')} does not", "Name both columns.")
    if settings.current and (settings.of or settings.versus):
        raise Mistake(
            f"{setting('current')} and {setting('base')} exclude {setting('of')} and {setting('versus')}",
            "Name the two sides as columns or as scenarios.",
        )
    for other in ("amount", "scenario", "headings_are"):
        if settings.current and getattr(settings, other):
            raise Mistake(
                f"{setting('current')} and {setting('base')} exclude {setting(other)}", f"Leave {setting(other)} out."
            )
    if settings.current and not parse_total_as(settings.total_as).needs_amounts:
        raise Mistake(
            f"{setting('current')} names amounts, and {setting('total_as')} {settings.total_as} takes none",
            "Leave one of them out.",
        )
    if settings.then_by and not parse_total_as(settings.total_as, settings.per, settings.per_day).adds_up:
        raise Mistake(
            f"{setting('then_by')} names the parts of a sum, and these figures do not add up", "Leave it out."
        )
    if settings.volume and (settings.per or settings.total_as != "sum" or settings.statement or settings.current):
        raise Mistake(
            f"{setting('volume')} is of sums with a column beside them",
            f"Leave {setting('per')}, {setting('total_as')}, {setting('statement')} and {setting('current')} out.",
        )
    if settings.no_mix and not settings.volume:
        raise Mistake(
            f"{setting('no_mix')} is about volume and price", f"Name the column of volumes with {setting('volume')}."
        )
    if settings.volume and settings.keep:
        raise Mistake(f"{setting('keep')} would gather items of unlike prices", "Leave it out.")
    if settings.band and settings.rule:
        raise Mistake(f"{setting('band')} and {setting('rule')} exclude one another", "Use one of them.")


def _plan(book: Ledger, asked: SidesAsked, settings: Settings) -> Plan:
    if settings.current:
        amounts = [one.name for one in book.first.roles.amounts]
        return sides_of_columns(book.scenarios, amounts[0], amounts[1] if len(amounts) > 1 else None, asked)
    return plan_sides(book.scenarios, asked)


def _judged(one: CheckedComparison, settings: Settings, asked: RuleSet | None, names: SideNames) -> JudgedComparison:
    comparison = one.comparison
    rule_set = asked or _ready_rules(comparison, settings, names)
    return JudgedComparison(
        comparison=comparison,
        rules=rule_set,
        points=judged_points(comparison, rule_set),
        panel_totals=tuple(judged_total(comparison, total, rule_set) for total in comparison.panel_totals),
        total=judged_total(comparison, comparison.total, rule_set),
        names=names,
        ties_out=one.ties_out,
        rows_used=one.rows_used,
    )


def _rules_asked(settings: Settings) -> RuleSet | None:
    """The rules that the call gives in words or in a file; None where a ready one is to be taken."""
    better = Better(settings.better) if settings.better else None
    if settings.band:
        return RuleSet((NamedRule(rule=parse_rule(settings.band)),), better)
    if settings.rule and settings.rule not in READY:
        return RuleSet(rules_from(settings.rule), better)
    return None


def _ready_rules(comparison: Comparison, settings: Settings, names: SideNames) -> RuleSet:
    better = Better(settings.better or "up")
    is_scenario = comparison.base is not None and comparison.basis is Basis.SCENARIO
    by_effect = "effect" if settings.statement is not None else None
    match settings.rule or by_effect or ("budget" if is_scenario else "direction"):
        case "budget":
            rule = ready.budget(better, names.base_in_sentence)
        case "effect":
            rule = ready.effect()
        case _:
            rule = ready.direction(better)
    return RuleSet((NamedRule(rule=rule),), better, is_ready=True)


def _subject(book: Ledger, total_as: TotalAs, settings: Settings, every: Grain | None) -> str:
    """What the amounts are called: the one thing that the rows were narrowed to, else the column; and the rate."""
    statement = book.first.statement
    name = statement.result.label if statement and statement.result else _amounts(book, total_as)
    if total_as.per is not None:
        name = f"{name} per {total_as.per.replace('_', ' ')}"
    if total_as.per_day is not None:
        name = f"{name} per {total_as.per_day.value} day"
    if settings.cumulative and every is not None:
        word, _, count = settings.cumulative.partition(":")
        name = f"{name}, {f'rolling {count} {every.plural}' if count else word.replace('-', ' ')}"
    return name


def _amounts(book: Ledger, total_as: TotalAs) -> str:
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


def _choices(planned: Sequence[Plan]) -> tuple[str, ...]:
    chosen = _distinct(choice for plan in planned for choice in plan.choices)
    against = [choice for choice in chosen if choice.startswith("against")]
    others = tuple(choice for choice in chosen if choice not in against)
    return (*others, f"compared {', '.join(against)}") if against else others


def _distinct(texts: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(texts))
