"""A request becomes comparisons, each is judged: what every command starts from, whatever it does with the points."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.app import comparing, panels
from marvex.app.adds_up import check_adds_up
from marvex.app.balances import check_balances
from marvex.app.checks import check_sources
from marvex.app.closing import lapsed_balances, with_closing
from marvex.app.comparing import CheckedComparison, in_arrangement
from marvex.app.fairness import (
    comparable,
    counted_as_nothing,
    not_comparable,
    unlike_sides,
    with_nothing,
)
from marvex.app.figure_format import figure_format
from marvex.app.good_news import check_good_news, good_news_caution, good_news_doubt
from marvex.app.kinds import check_kinds
from marvex.app.like_with_like import with_periods_checked
from marvex.app.narrowed import narrowed_in_one_only
from marvex.app.odd_months import odd_times_of
from marvex.app.own_variances import own_variance_cautions
from marvex.app.phasing import unlike_phasing
from marvex.app.rolled_forward import rolled_ends, with_ends
from marvex.app.session import Session
from marvex.app.subject import by_words, kept_words, subject
from marvex.app.to_date import check_left_out
from marvex.app.totals_among import totals_in_other_columns
from marvex.app.values_by_month import cancelled_caution, check_other_kinds
from marvex.app.verifying import verified
from marvex.app.versions import check_versions
from marvex.app.whole_periods import with_whole_periods
from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.comparison import Basis, Comparison
from marvex.core.compare.plan import Plan, plan_sides, sides_of_columns
from marvex.core.compare.point import Better, Point
from marvex.core.compare.ranking import with_contribution
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.result import Analysis, JudgedComparison, SourceFacts
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting, without
from marvex.core.rules import ready
from marvex.core.rules.bands import NamedRule, RuleSet
from marvex.core.rules.conditions import Quantity
from marvex.core.rules.judging import judged_points, judged_total
from marvex.core.structure.statement import Statement, check_lines, unexpected_signs
from marvex.core.words.adding_up import missing_in
from marvex.core.words.names_alike import names_alike
from marvex.core.words.side_names import SideNames, side_names
from marvex.core.words.units import FigureFormat
from marvex.core.words.wording import without_side
from marvex.request.axis import asks_for_time, has_period_panels, is_along_time
from marvex.request.request import Request
from marvex.request.settings import Settings
from marvex.request.values import Column
from marvex.sources.engine.ledger import Ledger


def analyse(session: Session, request: Request) -> Analysis:
    """Judges every comparison that a request asks for.

    Raises Mistake where the request, the input or the data are wrong.
    """
    return analysed(session.ledger(request), request, session)


def analysed(book: Ledger, request: Request, session: Session) -> Analysis:
    """The same of sources that have been read."""
    settings, total_as, statement = request.settings, request.total_as, book.statement
    planned = plans(book, request)
    ends = rolled_ends(book, planned, request)
    with _without_a_sum(request):
        found, kept_totals = _checked(book, planned, ends, request, session)
    compared = [with_ends(one, ends) for one in _arranged(book, found, request)]
    wholes = [with_ends(one, ends) for one in found]  # of which only a part may be kept to be shown
    kept_totals = _distinct(
        (*book.kept_totals, *(name for one in compared for name in one.kept_totals), *kept_totals)
    )
    counted = "cells" if any(one.roles.is_wide for one in book.sources) else "rows"
    used = max(one.rows_used for one in compared)
    facts = SourceFacts(
        name=book.name,
        rows_read=book.rows_read,
        rows_used=min(used, book.rows_read) if book.spread else used,  # of which each is of several periods then
        counted=counted,
        part=book.part,
    )
    figures = figure_format(
        [one.comparison for one in compared],
        settings,
        are_percentages=all(one.is_percentages for one in book.sources),
    )
    windows = {one.plan.current.window for one in compared}
    named = [side_names(one.comparison, figures.locale, with_window=len(windows) > 1) for one in compared]
    judged = tuple(_judged(one, request, names, statement) for one, names in zip(compared, named, strict=True))
    fairness = _distinct(session.word(one) for one in _cautions(book, wholes, named, figures))
    reserved = (*_reservations(book, compared, settings.as_of), *_unlike(book, request, wholes, figures))
    left_out = _distinct(one for made in compared for one in not_comparable(made, total_as, figures))
    doubt = good_news_doubt(book, request, wholes[0].comparison)
    reading = _reading_cautions(book, request, wholes, compared[0].comparison.points, reserved)
    if kept_totals and settings.walk != "movement":
        reading = (f"{listed(kept_totals, 4)} counts with its own parts ({setting('totals', 'keep')})", *reading)
    analysis = Analysis(
        source=facts,
        comparisons=judged,
        figures=figures,
        subject=subject(book, request, planned[0].every),
        by=by_words(book, request, planned[0]),
        filtered=" and ".join(one.spoken for one in book.first.narrowed),
        kept=kept_words(book),
        total_as=total_as,
        said=_distinct(session.word(one) for one in (*book.said, *_choices(planned))),
        cautions=_distinct(
            (
                *map(session.word, reading),
                *left_out,
                *fairness,
            )
        ),
        fairness=fairness,
        reservations=_distinct(map(session.word, (*_reserved(book, compared, reserved), *doubt))),
        left_out=left_out,
        statement=statement,
        kept_totals=kept_totals,
        show=settings.show,
        spread=book.spread,
        verified=verified(book, [one.comparison for one in judged], total_as) if settings.verify else None,
        notes_on_source=book.notes,
    )
    if missing := missing_in(analysis):
        raise Mistake(f"the points do not add up to their total: {missing} is missing", "")
    return analysis


def _checked(
    book: Ledger, planned: list[Plan], ends: Mapping[str, Decimal], request: Request, session: Session
) -> tuple[list[CheckedComparison], tuple[str, ...]]:
    """The comparisons, and the totals that count with their parts as was asked.

    Raises Mistake where amounts would be added up that do not.
    """
    summed = () if ends else planned  # of what rolls forward only the movements are added up
    check_left_out(book, planned)
    check_adds_up(book, summed, request)
    check_balances(book, summed, request)
    if request.total_as.adds_rows:
        check_versions(book, planned, request)
    kept_totals = totals_in_other_columns(session, request, book, planned, rolls=bool(ends))
    are_kept = bool(kept_totals or book.kept_totals)  # what is added up with its parts, as was asked, is of any kind
    if not are_kept:
        check_other_kinds(book, request)
    found = _compared(book, planned, request)
    kept_totals += _totals_of_both(book, request)
    whole = with_ends(found[0], ends).comparison  # with what Other may hold
    if not are_kept and not any(one.kept_totals for one in found):
        check_kinds(book, whole, request)
    check_good_news(book, request, whole)
    return found, kept_totals


def _totals_of_both(book: Ledger, request: Request) -> tuple[str, ...]:
    """The totals of others that a base shows which the call leaves out, kept as was asked; else raises Mistake."""
    settings = request.settings
    if settings.versus != ("none",) or settings.is_of_list or not book.width or not request.total_as.adds_rows:
        return ()
    planned: list[Plan] = []
    with contextlib.suppress(Mistake):  # there may be no base
        planned = _planned(book, request.with_settings(replace(settings, versus=())), along_time=False)
    with_base = (one for one in planned if one.base is not None)
    return tuple(name for plan in with_base for name in comparing.totals_of_both(book, plan, settings))


@contextlib.contextmanager
def _without_a_sum(request: Request) -> Iterator[None]:
    """Lets no mistake offer a sum where balances are asked for: it would add up their dates."""
    try:
        yield
    except Mistake as mistake:
        if request.total_as.way is Total.CLOSING:
            mistake.mend = without(mistake.mend, "total_as", Total.SUM.value)
        raise


def plans(book: Ledger, request: Request) -> list[Plan]:
    """The plan of every comparison that a request asks for, with its sides and periods checked.

    Raises Mistake where the sources cannot answer it.
    """
    settings, statement = request.settings, book.statement
    along_time = is_along_time(
        settings, request.place, has_categories=bool(book.width), has_statement=statement is not None
    )
    check_lines(statement, settings.lines)
    _check_fits(book, request, along_time=along_time)
    check_sources(book, request)
    planned = [with_periods_checked(book, plan, settings) for plan in _planned(book, request, along_time=along_time)]
    return [with_whole_periods(book, plan, settings) for plan in planned]


def _planned(book: Ledger, request: Request, *, along_time: bool) -> list[Plan]:
    """A plan for each window and each base, or for each group of columns."""
    settings = request.settings
    columns = settings.column or tuple(Column(window) for window in settings.for_)
    return [
        plan_of(book, _sides_asked(request, column, versus, along_time=along_time), settings)
        for column in columns or (None,)
        for versus in ((column.versus,) if column and column.versus else settings.versus or (None,))
    ]


def _compared(book: Ledger, planned: Sequence[Plan], request: Request) -> list[CheckedComparison]:
    """The comparison of each plan, with all that counts in it."""
    settings, total_as = request.settings, request.total_as
    found = [with_closing(book, comparing.compared(book, plan, total_as, settings), total_as) for plan in planned]
    if settings.comparable:
        found = [comparable(book, one, total_as) for one in found]
    return [with_nothing(one, total_as) for one in found]


def _arranged(book: Ledger, found: Sequence[CheckedComparison], request: Request) -> list[CheckedComparison]:
    """Comparisons arranged as asked, and walked through by their drivers."""
    settings = request.settings
    found = _in_panels(book, found, request)
    if request.total_as.adds_up and _asks_contribution(request):
        found = [replace(one, comparison=with_contribution(one.comparison)) for one in found]
    return [_driven(one, settings) for one in found] if settings.volume else list(found)


def _cautions(
    book: Ledger, compared: Sequence[CheckedComparison], named: Sequence[SideNames], figures: FigureFormat
) -> tuple[str, ...]:
    """What makes the comparison less than fair, for whoever reads the result."""
    cautions = book.found_in_one_only()
    for names, made in zip(named, compared, strict=True):
        cautions += made.plan.cautions
        cautions += without_side(made.comparison, names, figures)
        cautions += counted_as_nothing(made, figures)
    return cautions


def _unlike(
    book: Ledger, request: Request, compared: Sequence[CheckedComparison], figures: FigureFormat
) -> tuple[Reservation, ...]:
    """What makes the two sides unlike, or hides a part of one: it stands under every picture."""
    found = narrowed_in_one_only(book)
    for made in compared:
        found += lapsed_balances(made, figures) + unlike_sides(made, book, figures)
        found += unlike_phasing(book, made.comparison) if request.total_as.adds_up else ()
    return (*found, *book.undivided(figures))


def _reservations(book: Ledger, compared: Sequence[CheckedComparison], as_of: date | None) -> tuple[Reservation, ...]:
    sides = [side for one in compared for side in one.plan.sides]
    odd = (one for one in odd_times_of(book, as_of) if one.touches(sides))
    return (*book.reservations, *(one for made in compared for one in made.plan.reservations), *odd)


def _reserved(book: Ledger, compared: Sequence[CheckedComparison], reservations: Sequence[Reservation]) -> list[str]:
    """The reservations about what is compared, for whoever reads the result."""
    sides = [side for one in compared for side in one.plan.sides]
    is_one = len(book.sources) == 1
    return [one.note(names_source=not is_one) for one in reservations if one.touches(sides)]


def _reading_cautions(
    book: Ledger,
    request: Request,
    compared: Sequence[CheckedComparison],
    points: Sequence[Point],
    reservations: Sequence[Reservation],
) -> tuple[str, ...]:
    """What has to be said of how the source was read, to the one who runs the command.

    Parameters
    ----------
    points : those of the first comparison as they are shown, which are a statement's lines.
    """
    statement, cautions = book.statement, book.cautions
    for made in compared:
        cautions += names_alike(_categories(made.comparison))
    if statement is not None and not statement.is_found:
        cautions += unexpected_signs(points, statement)
    cautions += good_news_caution(book, request, compared[0].comparison)
    cautions += own_variance_cautions(book.first, compared[0].comparison)
    cautions += cancelled_caution(book, compared[0].comparison)
    return cautions + tuple(one.caution for one in reservations)


def _asks_contribution(request: Request) -> bool:
    """Whether the changes in points of the base total are asked for, by a rule or to be shown."""
    is_shown = "contribution" in (request.settings.show or ())
    return is_shown or (request.rules is not None and request.rules.asks_for(Quantity.CONTRIBUTION))


def _check_fits(book: Ledger, request: Request, *, along_time: bool) -> None:
    """Stops what the columns of the source cannot answer."""
    settings = request.settings
    has_dates = [one.roles.has_dates for one in book.sources]
    if (settings.every or request.place.only_time) and not any(has_dates):
        raise Mistake(
            "points along time need dates, and the data have none",
            f"Name the column with {setting('date')}"
            + ("." if request.place.only_time else f"; or compare categories with {setting('by')} alone."),
        )
    needs_categories = request.place.needs_categories or has_period_panels(settings)
    if (needs_categories and not book.width) or (along_time and not any(has_dates)):
        raise Mistake(
            "nothing says what to compare by",
            f"Name a column of categories with {setting('by')}: {book.categories or 'there is none yet'}.",
        )
    if request.total_as.is_each and not book.width:
        raise Mistake(
            f"{setting('total_as', 'closing:each')} takes each category's own last date, and there are no categories",
            f"Name a column with {setting('by')}.",
        )
    if request.total_as.per_day is not None and not all(has_dates):
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


def _sides_asked(request: Request, column: Column | None, versus: str | None, *, along_time: bool) -> SidesAsked:
    window, scenario = (column.window, column.scenario) if column else (None, None)
    asks_history = request.rules is not None and request.rules.asks_for(Quantity.UNUSUAL)
    return replace(
        request.sides_asked(window, versus, scenario, along_time=along_time),
        with_history=request.place.with_history or asks_history,
        with_beyond=request.place.with_beyond,
    )


def plan_of(book: Ledger, asked: SidesAsked, settings: Settings) -> Plan:
    """The sides that are asked for: two columns, or two scenarios or times."""
    if settings.current:
        amounts = [one.name for one in book.first.roles.amounts]
        return sides_of_columns(book.scenarios, amounts[0], amounts[1] if len(amounts) > 1 else None, asked)
    return plan_sides(book.scenarios, asked)


def _in_panels(book: Ledger, compared: Sequence[CheckedComparison], request: Request) -> list[CheckedComparison]:
    """The comparisons arranged as asked: a statement, panels of periods or of a column's values, or one order."""
    settings, total_as = request.settings, request.total_as
    if book.statement is not None:
        return [panels.of_statement(book, one, book.statement, settings) for one in compared]
    if has_period_panels(settings):
        return [panels.by_period(book, one, total_as, settings) for one in compared]
    if settings.panels_by is not None and settings.by and not asks_for_time(settings, request.place):
        return [panels.by_column(book, one, total_as, settings) for one in compared]
    return in_arrangement(book, compared, settings, total_as)


def _driven(one: CheckedComparison, settings: Settings) -> CheckedComparison:
    """The comparison with what drove each change, where it is one of items with a base, and whole."""
    comparison = one.comparison
    if comparison.base is None or comparison.every is not None or comparison.panel_totals:
        return one
    from marvex.core.structure.drivers import with_drivers

    points, whole = with_drivers(comparison.points, comparison.total, with_mix=not settings.no_mix)
    return replace(one, comparison=replace(comparison, points=points, total=whole))


def _judged(
    one: CheckedComparison, request: Request, names: SideNames, statement: Statement | None
) -> JudgedComparison:
    comparison = one.comparison
    rules = request.rules or _ready_rules(comparison, request, names, statement)
    return JudgedComparison(
        comparison=comparison,
        rules=rules,
        points=judged_points(comparison, rules),
        panel_totals=tuple(judged_total(comparison, total, rules) for total in comparison.panel_totals),
        total=judged_total(comparison, comparison.total, rules),
        names=names,
        ties_out=one.ties_out,
        rows_used=one.rows_used,
    )


def _ready_rules(comparison: Comparison, request: Request, names: SideNames, statement: Statement | None) -> RuleSet:
    better = Better(request.settings.better or "up")
    is_scenario = comparison.base is not None and comparison.basis is Basis.SCENARIO
    has_both = statement is not None and (statement.has_both_kinds or not statement.is_found)
    by_effect = "effect" if has_both else None
    match request.settings.rule or by_effect or ("budget" if is_scenario else "direction"):
        case "budget":
            rule = ready.budget(better, names.base_in_sentence)
        case "effect":
            rule = ready.effect()
        case _:
            rule = ready.direction(better)
    return RuleSet((NamedRule(rule=rule),), better, is_ready=True)


def _categories(comparison: Comparison) -> Iterator[str]:
    points = comparison.panel_totals if comparison.every else comparison.points
    return (point.panel or point.label for point in points)


def _choices(planned: Sequence[Plan]) -> tuple[str, ...]:
    chosen = _distinct(choice for plan in planned for choice in plan.choices)
    against = [choice for choice in chosen if choice.startswith("against")]
    others = tuple(choice for choice in chosen if choice not in against)
    return (*others, f"compared {', '.join(against)}") if against else others


def _distinct(texts: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(texts))
