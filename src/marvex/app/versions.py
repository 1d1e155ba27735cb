"""Several versions of the same numbers in one scenario, which would be added up: stopped."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from itertools import combinations, product

from marvex.app.columns_by_month import ColumnByMonth, columns_by_month, numbers_by_month
from marvex.core.compare.plan import Plan
from marvex.core.compare.scenario_words import is_planned, says_which
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.words.spelled_out import spelled_out
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import Source
from marvex.sources.where import filter_text

# Of a column that says which version of the same numbers a row is.
_VERSIONS = re.compile(
    r"\b(?:version|revision|snapshot|iteration|vintage|(?:extract(?:ion)?|load|run) date)\b|"
    r"(?:extract(?:ion)?|upload)(?: (?:id|no|number))?$|(?:load|import) (?:id|no|number)$",
    re.I,
)
MOST_VERSIONS, SAME_DAYS = 12, 0.8
_OF_SIZE = Decimal("0.7"), Decimal("1.5")  # a version beside the actuals that it is of; a part of them is smaller


def check_versions(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where a side has rows of several versions of the same days.

    Of a budget a day in common is enough. Actuals may come load by load: those are versions where they are of nearly
    the same days, unless a sum was asked for.
    """
    sides = {one.scenario for plan in planned for side in plan.sides for one in side.span.stretches}
    for source in book.sources:
        taken = {source.roles.scenario, source.roles.date, *source.roles.by}
        for column in source.headings:
            if column in taken or not _VERSIONS.search(spelled_out(column)):
                continue
            of_scenarios: dict[str | None, dict[str, set[date | None]]] = {}
            for version, scenario, day, *_ in book.met(source, column):
                of_scenarios.setdefault(scenario, {}).setdefault(version, set()).add(day)
            for scenario in sorted(of_scenarios.keys() & sides, key=str):
                days = list(of_scenarios[scenario].values())
                if is_planned(scenario) or (request.adds_unasked and _are_of_same_days(days)):
                    _check_apart(source, column, scenario, of_scenarios)
    if request.adds_unasked:
        _check_by_figures(book, sides)


def _are_of_same_days(days: Sequence[set[date | None]]) -> bool:
    return 1 < len(days) <= MOST_VERSIONS and all(
        len(one & other) > SAME_DAYS * max(len(one), len(other)) for one, other in combinations(days, 2)
    )


def _check_apart(
    source: Source,
    column: str,
    scenario: str | None,
    of_scenarios: Mapping[str | None, Mapping[str, set[date | None]]],
    *,
    can_add: bool = False,
) -> None:
    """Raises Mistake where two versions of a scenario have rows of one day; says how to keep the last of them.

    Parameters
    ----------
    can_add : they may all the same be added up, also of a plan.
    """
    found = of_scenarios[scenario]
    in_order = sorted(found, key=lambda one: (int(one) if one.isdecimal() else 0, one))
    *earlier, last = in_order
    if not any(found[one] & found[other] for one, other in combinations(found, 2)):
        return
    others = {version for other, its in of_scenarios.items() if other != scenario for version in its}
    if others & set(earlier):
        file = source.file.title
        alone = setting("where", f"{scenario}={filter_text(column, '=', [last])}")
        way = f"Keep the last: actual={file} {scenario}={file} {alone}."
    else:
        way = f"Keep the last with {setting('where', filter_text(column, '!=', earlier))}."
    what = f"{scenario} has rows" if scenario else "there are rows"
    if can_add or not is_planned(scenario):
        way += f" {setting('total_as', 'sum')} adds them all up."
    raise Mistake(f"{source.name}: {what} of several versions ({column} {listed(in_order, 4)})", way)


def _check_by_figures(book: Ledger, sides: set[str | None]) -> None:
    """The same of a column whose name does not say versions: a plan has several of its values, each of about what the
    actuals come to, which have one."""
    pairs = [pair for pair in product(sorted(sides, key=str), repeat=2) if [*map(is_planned, pair)] == [True, False]]
    for column in (*columns_by_month(book), *numbers_by_month(book, MOST_VERSIONS)) if pairs else ():
        of_scenarios: dict[str | None, dict[str, set[date | None]]] = {}
        for value, of_month in column.amounts.items():
            for scenario, month in of_month:
                of_scenarios.setdefault(scenario, {}).setdefault(value, set()).add(month)
        for plan, actual in pairs:
            its = of_scenarios.get(plan, {})
            if column.name in column.source.roles.by or not 1 < len(its) <= MOST_VERSIONS:
                continue
            is_one = len(of_scenarios.get(actual, {})) == 1
            if (
                is_one
                and all(map(_says_version, its))
                and _are_of_same_days(list(its.values()))
                and all(_shares(book, column, plan, actual))
            ):
                _check_apart(column.source, column.name, plan, of_scenarios, can_add=True)


def _says_version(value: str) -> bool:
    """Whether a value may be that of a version: a number, or a word such as 'Final', and not a route planned alone."""
    return value.isdecimal() or says_which(value) or value.casefold() == "draft"


def _shares(book: Ledger, column: ColumnByMonth, plan: str | None, actual: str | None) -> Iterator[bool]:
    """Of each value whether it comes to about what the actuals do, in the months that both have."""
    whole: dict[date, Decimal] = {}
    for one in book.kept_by_day():
        if one.scenario == actual:
            month = one.day.replace(day=1)
            whole[month] = EXACT.add(whole.get(month, ZERO), one.amount)
    for of_month in column.amounts.values():
        own = {month: amount for (its, month), amount in of_month.items() if its == plan and month in whole}
        base = total(whole[month] for month in own if month is not None)
        if own or any(its == plan for its, _ in of_month):
            yield bool(base) and _OF_SIZE[0] <= total(own.values()) / base <= _OF_SIZE[1]
