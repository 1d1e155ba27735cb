"""A source becomes cells, cells become a comparison, the comparison is judged.

Every command starts here, whatever it does with the judged points.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from marvex.core import rules, sides
from marvex.core.comparison import Better, Comparison, compare
from marvex.core.errors import MarvexError, did_you_mean
from marvex.core.exact import difference, total
from marvex.core.judging import judged_points, judged_total
from marvex.core.ranking import Keep, Order, arranged, arrangement
from marvex.core.result import Analysis, Check, JudgedComparison, SourceFacts
from marvex.core.rule_language import parse_rule
from marvex.core.rules import Rule
from marvex.core.sides import Sides
from marvex.core.units import FigureFormat, Signs, Unit, fitting_decimals, fitting_unit
from marvex.core.wording import SideNames, capitalised, names_alike, side_names, without_side
from marvex.pack.settings import Settings
from marvex.sources import reader, roles
from marvex.sources.reader import Reader


def analyse(source: str, settings: Settings) -> Analysis:
    """Reads the source once and judges every comparison asked for.

    Raises MarvexError where the call, the input or the data are wrong.
    """
    _check_together(settings)
    better = Better(settings.better)
    with reader.reading(_asked_of_reader(source, settings)) as ledger:
        if not ledger.roles.by:
            raise MarvexError(
                "nothing says what to compare by",
                f"Name a column of categories with --by: {ledger.categories}.",
            )
        planned = [_plan(ledger, settings, versus) for versus in settings.versus or (None,)]
        compared = _arranged([_compared(ledger, plan, settings) for plan in planned], settings)
        facts = SourceFacts(ledger.name, ledger.rows_read, max(one.rows_used for one in compared))
        said = (ledger.taken_for, *_choices(planned))
        cautions = (*ledger.cautions, *_distinct(c for plan in planned for c in plan.cautions))
        subject = _subject(ledger)
        filtered = " and ".join(one.spoken for one in ledger.filters)
    figures = _figure_format([one.comparison for one in compared], settings)
    judged = tuple(_judged(one, settings, better, figures) for one in compared)
    cautions += names_alike(point.label for one in judged for point in one.comparison.points)
    for one in judged:
        cautions += without_side(one.comparison.absent, one.names, figures)
    return Analysis(facts, judged, better, figures, subject, filtered, said, _distinct(cautions))


@dataclass(frozen=True, slots=True)
class _Compared:
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
    if settings.current and (settings.amount or settings.scenario):
        other = "--amount" if settings.amount else "--scenario"
        raise MarvexError(f"--current and --base exclude {other}", f"Leave {other} out.")
    if settings.rule and settings.rules:
        raise MarvexError("--rule and --rules exclude one another", "Use one of them.")


def _asked_of_reader(source: str, settings: Settings) -> reader.Asked:
    columns = roles.Asked(
        settings.date,
        settings.amount,
        settings.scenario,
        settings.current,
        settings.base,
        settings.by or (),
    )
    return reader.Asked(
        source, columns, settings.where, settings.stored == "negative", settings.bad_cells == "blank"
    )


def _plan(ledger: Reader, settings: Settings, versus: str | None) -> Sides:
    asked = sides.Asked(settings.for_, settings.of, versus, settings.as_of, settings.whole)
    if ledger.roles.has_sides_as_columns or settings.current:
        amounts = ledger.roles.amounts
        return sides.sides_of_columns(
            ledger.scenarios, amounts[0], amounts[1] if len(amounts) > 1 else None, asked
        )
    return sides.plan_sides(ledger.scenarios, asked)


def _compared(ledger: Reader, plan: Sides, settings: Settings) -> _Compared:
    now = ledger.cells(plan.current.span)
    then = ledger.cells(plan.base.span) if plan.base else ()
    if not now and not then:
        raise MarvexError(
            f"no rows in the window {'pass --where' if settings.where else 'have an amount'}",
            "Ask for another window or keep more rows.",
        )
    comparison = compare(plan.current, plan.base, now, then, ledger.in_given_order(now, then))
    rows_by_side = [sum(cell.rows for cell in cells) for cells in (now, then)]
    # Both sides of a row are one row where they are columns of it.
    rows = max(rows_by_side) if ledger.roles.has_sides_as_columns else sum(rows_by_side)
    return _Compared(comparison, _ties_out(ledger, plan, comparison), rows)


def _arranged(compared: Sequence[_Compared], settings: Settings) -> list[_Compared]:
    order = Order(settings.order) if settings.order else None
    keep = Keep(settings.keep.count, settings.keep.word == "bottom") if settings.keep else None
    plan = arrangement([one.comparison for one in compared], order, keep)
    return [replace(one, comparison=arranged(one.comparison, plan)) for one in compared]


def _ties_out(ledger: Reader, plan: Sides, comparison: Comparison) -> Check:
    """The points added up against the engine's own total of all rows, on both sides."""
    missing = difference(
        ledger.total(plan.current.span).amount,
        total(point.current for point in comparison.points if point.current is not None),
    )
    if plan.base is not None and not missing:
        missing = difference(
            ledger.total(plan.base.span).amount,
            total(point.base for point in comparison.points if point.base is not None),
        )
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


def _subject(ledger: Reader) -> str:
    """What the amounts are called: the one thing that the rows were narrowed to, else the column."""
    for one in reversed(ledger.filters):
        value = one.names_one
        if value and not value.replace("-", "").isdecimal():
            return capitalised(value)
    if ledger.roles.has_sides_as_columns:
        return "Total"
    return capitalised(ledger.roles.amounts[0].replace("_", " "))


def _choices(planned: Sequence[Sides]) -> tuple[str, ...]:
    chosen = [choice for plan in planned for choice in plan.choices]
    return (f"compared {', '.join(chosen)}",) if chosen else ()


def _distinct(texts: Iterable[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(texts))
