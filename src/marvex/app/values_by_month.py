"""What it says of the values of a column what they come to month by month: sums of others, running totals, copies."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from functools import partial
from itertools import chain, combinations

from marvex.app.columns_by_month import (
    ColumnByMonth,
    codes_by_month,
    columns_by_month,
    first_rows,
    is_few,
    names_of,
    outlines_by_month,
)
from marvex.app.kinds import check_kinds_of, is_added_up, kinds_of
from marvex.app.line_names import check_names
from marvex.app.totals_of_periods import check_totals_of_periods
from marvex.app.values_by_row import sums_of_other_headings, sums_of_others
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.scenario_words import says_planned
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.structure.amount_names import is_end
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.opposite_names import opposed
from marvex.core.structure.parents import MOST_LINES, parents_by_code, parents_by_figures
from marvex.core.structure.running import LEAST_VALUES, runs_to_date
from marvex.core.structure.total_names import Naming, is_balance_name, is_opening_name, naming
from marvex.request.request import Request
from marvex.sources.engine.by_month import Month
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.signs import SignedSide, disagreement, opposite_lines
from marvex.sources.engine.source import Source
from marvex.sources.where import filter_text

# By how much they may be apart, and where half of the months are the same; and how many different months.
_NEARLY, _NEAR, _LEAST_NEAR = Decimal("0.002"), Decimal("0.02"), 6
MOST_COPIES = 6  # values of a column that could all say the same
AS_FIGURES_SAY = ("its own parts, as its figures say", "their own parts, as their figures say")


def check_values(book: Ledger, request: Request, *, rolls: bool) -> tuple[str, ...]:
    """The values of columns that are sums of others, and count with them as was asked.

    Parameters
    ----------
    rolls : what there was at first and is in the end is not added up.

    Raises Mistake where that was not asked, or where values would be added up that are of another kind: balances,
    counts, running totals.
    """
    total_as, is_kept = request.total_as, request.settings.keeps_totals
    may_hold = is_kept or request.settings.is_of_list  # totals, which stand or are left out in a list
    is_across = request.adds_unasked and total_as.per is None  # also of one date
    is_sum = is_across and total_as.way is Total.SUM
    for source in book.sources if is_sum and not is_kept and not rolls else ():
        _check_balances(source)
    for source in book.sources if request.adds_unasked else ():
        for name, names, _ in () if is_few(source) else first_rows(source):
            if name not in source.roles.taken:
                check_names(source.name, name, list(dict.fromkeys(names)))
    for source in filter(is_few, book.sources) if is_sum and not is_kept else ():
        check_totals_of_periods(source, names_of(source), book.engine)
    found: list[str] = []
    for source in book.sources if is_sum else ():
        if source.roles.headings and (of_others := sums_of_other_headings(source)):
            found += of_others
            if not may_hold:
                raise counted_with(source.name, source.roles.headings, of_others, AS_FIGURES_SAY[len(of_others) > 1])
        for name, of_others in sums_of_others(source, names_of(source)):
            found += of_others
            if not may_hold:
                raise counted_with(source.name, name, of_others, AS_FIGURES_SAY[len(of_others) > 1])
    for column in chain(columns_by_month(book), outlines_by_month(book), codes_by_month(book)):
        key = "sums of others", column.found, column.source.roles.each_row
        if of_others := column.source.rows.gathered.once(key, partial(_sums_of_others, column)):
            found += of_others
            if not may_hold:
                raise counted_with(column.source.name, column.name, of_others, AS_FIGURES_SAY[len(of_others) > 1])
        if is_across and not is_kept:
            _check_copies(column)
            _check_rest(column)
        # A statement says which of its lines are added up.
        if request.adds_unasked and (book.statement is None or column.name not in column.source.roles.by):
            check_names(column.source.name, column.name, list(column.amounts))
        if is_sum:
            _check_running(column)
    return tuple(found)


def check_other_kinds(book: Ledger, request: Request) -> None:
    """Raises Mistake where income and costs are both positive in a column that nothing is compared by, or where two
    sides sign its values in opposite ways."""
    if not is_added_up(book, request) or request.settings.deductions:
        return
    for source in book.sources:
        for name, names, sums in () if is_few(source) else first_rows(source):
            different = list(dict.fromkeys(names))
            if all(kinds_of(name, different)) or opposed(different):
                check_kinds_of(source, name, sums(), request)
    for column in columns_by_month(book):
        if column.name not in column.source.roles.compared_by:
            check_kinds_of(column.source, column.name, column.sums, request)
    if not request.settings.statement:
        _check_signs(book)


def cancelled_caution(book: Ledger, comparison: Comparison) -> tuple[str, ...]:
    """That all points come to nothing, where the values of a column do not: a ledger with both sides of each entry."""
    amounts = [amount for one in comparison.points for amount in (one.current, one.base) if amount is not None]
    if not amounts or any(amounts):
        return tuple(_taken_back(book, comparison))
    for column in columns_by_month(book):
        if any(column.sums.values()):
            told = f"all amounts come to nothing, but by {column.name} they do not, as in a ledger of double entries"
            return (f"{told}: {setting('by', column.name)} shows them",)
    return tuple(_taken_back(book, comparison))


def _taken_back(book: Ledger, comparison: Comparison) -> Iterator[str]:
    """That a side comes to nothing, and its months do not: entries that close a year take back all of it."""
    whole = comparison.total
    sides = ((comparison.current, whole.current), (comparison.base, whole.base))
    for side in (side for side, amount in sides if amount is not None and not amount):
        column = next(columns_by_month(book), None)
        if side is None or side.window is None or column is None:
            continue
        sums: dict[date, Decimal] = {}
        for of_month in column.amounts.values():
            for (scenario, month), its in of_month.items():
                if scenario == side.scenario and month and side.window.first <= month <= side.window.end:
                    sums[month] = EXACT.add(sums.get(month, ZERO), its or ZERO)
        if sum(map(bool, sums.values())) >= LEAST_VALUES:
            months = f"{min(sums):%Y-%m} to {max(sums):%Y-%m}"
            yield f"{months} come to nothing together, and alone do not, as where entries close a year"


def counted_with(source: str, column: str, names: Sequence[str], own: str) -> Mistake:
    """What is to be said of categories that would count with their own parts."""
    shown = sorted(one or NO_NAME for one in names)
    without = setting("where", filter_text(column, "!=", shown))
    return Mistake(
        f"{source}: {column} {listed(shown, 3)} would be counted with {own}",
        f"Leave {'it' if len(names) == 1 else 'them'} out with {without}, "
        f"or keep totals with {setting('totals', 'keep')}.",
    )


def _sums_of_others(column: ColumnByMonth) -> tuple[str, ...]:
    """The values whose amounts are those of other values together, in every month."""
    if len(column.amounts) > MOST_LINES:
        return ()
    keys = sorted({key for of_month in column.amounts.values() for key in of_month}, key=str)
    lines = [
        TableLine(
            label=one,
            figures=tuple(of_month.get(key) for key in keys),
            naming=naming(one) if one else Naming.WHOLE,  # exports leave the names of totals blank
        )
        for one, of_month in column.amounts.items()
    ]
    # Of lines in their order more is known, and they have been looked at as such.
    parents = parents_by_code(lines) if column.source.roles.each_row else parents_by_figures(lines)
    return tuple(lines[one].label for one in sorted(parents))


def _check_copies(column: ColumnByMonth) -> None:
    """Raises Mistake where all values of a column have the same amounts: levels of one hierarchy, loads of one file.

    A plan may well be alike for all.
    """
    of_values = list(column.amounts.values())
    if not 1 < len(of_values) <= MOST_COPIES:
        return
    figures = {amount for (scenario, _), amount in of_values[0].items() if amount and not says_planned(scenario)}
    are_same = len(figures) >= LEAST_VALUES and all(one == of_values[0] for one in of_values)
    is_near = column.name not in column.source.roles.by and opposed(list(column.amounts)) is None
    if are_same or (is_near and _are_nearly_same(of_values)):
        first, nearly = next(iter(column.amounts)), "" if are_same else "nearly "
        names = listed((one or NO_NAME for one in column.amounts), 3)
        keep = setting("where", filter_text(column.name, "=", [first or NO_NAME]))
        raise Mistake(
            f"{column.source.name}: each {column.name} ({names}) has {nearly}the same amounts in every month, and they "
            "would be added up",
            f"Keep one with {keep}; {setting('total_as', 'sum')} adds up all the same.",
        )


def _are_nearly_same(of_values: Sequence[Mapping[Month, Decimal]]) -> bool:
    """Whether all values have nearly the same actuals in each of many months, as two loads of the same books have."""
    first, *others = ({of: one for of, one in its.items() if one and not says_planned(of[0])} for its in of_values)
    if len(set(first.values())) < _LEAST_NEAR or any(its.keys() != first.keys() for its in others):
        return False
    apart = [[abs(one - first[of]) / abs(first[of]) for of, one in its.items()] for its in others]
    return all(max(its) <= _NEARLY or (max(its) <= _NEAR and 2 * its.count(ZERO) >= len(its)) for its in apart)


def _check_rest(column: ColumnByMonth) -> None:
    """Raises Mistake where the rows that say nothing are the totals of those that do, on several levels."""
    rest = column.amounts.get("", {})
    named = [of_month for name, of_month in column.amounts.items() if name]
    if not rest:
        return
    sums = {month: total(one[month] for one in named if month in one) for of_month in named for month in of_month}
    times = {rest[month] / amount if month in rest and amount else None for month, amount in sums.items()}
    levels = next(iter(times)) if len(times) == 1 and len(set(sums.values())) >= LEAST_VALUES else None
    if len(named) > 1 and levels is not None and levels in range(2, MOST_COPIES) and rest.keys() == sums.keys():
        without = setting("where", filter_text(column.name, "!=", [NO_NAME]))
        raise Mistake(
            f"{column.source.name}: rows without a {column.name} come to {levels} times all others in every month, "
            "as the totals of several levels do",
            f"Leave them out with {without}; {setting('total_as', 'sum')} adds up all the same.",
        )


def _check_signs(book: Ledger) -> None:
    """Raises Mistake where two sides sign the values of a column in opposite ways, whatever is compared."""
    sides: list[tuple[str, SignedSide]] = []
    for column in columns_by_month(book):
        of_scenarios: dict[str | None, dict[str, Decimal]] = {}
        months: dict[str | None, set[date | None]] = {}
        for name, of_month in column.amounts.items():
            for (its, month), amount in of_month.items():
                scenario = its or column.source.scenario
                of_scenario = of_scenarios.setdefault(scenario, {})
                of_scenario[name] = EXACT.add(of_scenario.get(name, ZERO), amount or ZERO)
                months.setdefault(scenario, set()).add(month)
        for scenario, amounts in sorted(of_scenarios.items(), key=lambda one: str(one[0])):
            filled = {name: column.source.asked.signed(amount) for name, amount in amounts.items() if amount}
            side = SignedSide(column.source, scenario, filled, len(months[scenario]))
            sides.append((column.name, side))
    for (name, one), (others, other) in combinations(sides, 2):
        # Two sources may head the column of the same lines in two ways.
        is_of_both = name == others or one.source is not other.source
        if is_of_both and (names := opposite_lines(one, other)):
            raise disagreement(one, other, names, are_several=len(book.sources) > 1)


def _check_running(column: ColumnByMonth) -> None:
    """Raises Mistake where months would be added up that hold those before them."""
    source = column.source
    for scenario in sorted({one for of_month in column.amounts.values() for one, _ in of_month}, key=str):
        values = {
            name: {
                12 * month.year + month.month: amount
                for (its, month), amount in of_month.items()
                if its == scenario and month is not None
            }
            for name, of_month in column.amounts.items()
        }
        having = [name for name, of_month in values.items() if of_month]
        if len(having) >= LEAST_VALUES and runs_to_date([values[name] for name in having]):
            of = f"{scenario} of " if scenario and len(source.roles.amounts) != 1 else ""
            raise Mistake(
                f"{source.name}: each month of {of}{listed(having, 3)} holds those before it, as running totals do",
                f"Say {setting('total_as', 'closing')}, which takes the last of a window; "
                f"{setting('total_as', 'sum')} adds up all the same.",
            )


def _check_balances(source: Source) -> None:
    """Raises Mistake where rows among dated movements say what those start from or come to."""
    if not source.roles.has_dates or source.roles.each_row:
        return
    for column in source.columns:
        if not column.is_text:
            continue
        kept = [one for one in source.filters if one.column == column.name]
        names = {name for name in source.values(column.name) if name and all(one.keeps(name) for one in kept)}
        are_both = len({is_opening_name(one) for one in names if is_end(one)}) > 1  # one alone may be a department's
        found = sorted(one for one in names if is_balance_name(one) or (are_both and is_end(one)))
        if not found or len(found) == len(names):
            continue
        are, them = ("is a balance", "it") if len(found) == 1 else ("are balances", "them")
        raise Mistake(
            f"{source.name}: {column.name} {listed(found, 3)} {are} by name, and would be added up with movements",
            f"Leave {them} out with {setting('where', f'{column.name}!=' + ','.join(found))}; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )
