"""Sources and sides that do not belong together: stopped before anything is asked for."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from datetime import date
from itertools import combinations, pairwise

from marvex.core.compare.plan import Plan
from marvex.core.compare.scenario_words import is_planned, scenario_meant
from marvex.core.errors import Mistake, listed, setting
from marvex.core.words.spelled_out import spelled_out
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import Source
from marvex.sources.scales import code_of
from marvex.sources.where import filter_text

_DOLLARS = frozenset({"USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN"})
# Of a column that says which version of the same numbers a row is.
_VERSIONS = re.compile(
    r"\b(?:version|revision|snapshot|iteration|vintage|(?:extract(?:ion)?|load|run) date)\b|"
    r"(?:extract(?:ion)?|upload)(?: (?:id|no|number))?$|(?:load|import) (?:id|no|number)$",
    re.I,
)
MOST_VERSIONS, SAME_DAYS = 12, 0.8


def check_sources(book: Ledger, request: Request) -> None:
    """Raises Mistake where scenarios, units or currencies of the sources are not what a figure can be made of."""
    _check_scenarios(book)
    if request.total_as.adds_up:
        _check_units(book)
    _check_currencies(book)


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
                is_sum = request.settings.total_as is not None
                if is_planned(scenario) or (not is_sum and _are_of_same_days(list(of_scenarios[scenario].values()))):
                    _check_apart(source, column, scenario, of_scenarios)


def _are_of_same_days(days: Sequence[set[date | None]]) -> bool:
    return 1 < len(days) <= MOST_VERSIONS and all(
        len(one & other) > SAME_DAYS * max(len(one), len(other)) for one, other in combinations(days, 2)
    )


def _check_apart(
    source: Source,
    column: str,
    scenario: str | None,
    of_scenarios: Mapping[str | None, Mapping[str, set[date | None]]],
) -> None:
    """Raises Mistake where two versions of a scenario have rows of one day; says how to keep the last of them."""
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
    if not is_planned(scenario):
        way += f" {setting('total_as', 'sum')} adds them all up."
    raise Mistake(f"{source.name}: {what} of several versions ({column} {listed(in_order, 4)})", way)


def _check_scenarios(book: Ledger) -> None:
    """Raises Mistake where two scenarios are named for the same: the rows of one of them would be passed by."""
    known: dict[str, str] = {}
    for name in (one.name for one in book.scenarios if one.name):
        if (alike := known.setdefault(scenario_meant(name), name)) != name:
            own = f"{scenario_meant(alike)}={book.first.name}"
            raise Mistake(
                f"{book.name}: {alike} and {name} are two names of one scenario",
                f"Write them alike; or say which one a source holds ({own}), which takes both.",
            )


def _check_units(book: Ledger) -> None:
    """Raises Mistake where rows of several units would be added up."""
    for one in book.sources:
        if one.units is not None:
            column, found = one.units
            raise Mistake(
                f"{one.name} holds several units: {listed(found, 4)}",
                f"Keep the rows of one with {setting('where', f'{column}={found[0]}')}.",
            )


def _check_currencies(book: Ledger) -> None:
    """Raises Mistake where the sources are in different currencies, as far as they say it."""
    known = [(one.name, code_of(one.currency)) for one in book.sources if one.currency]
    for (name, own), (other, its) in pairwise(known):
        if own != its and not ("$" in (own, its) and {own, its} & _DOLLARS):
            raise Mistake(
                f"{name} is in {own}, {other} in {its}, and they would be compared as they stand",
                f"Convert one of them, such as with {setting('amount', 'budget=net * 1.08')}.",
            )
