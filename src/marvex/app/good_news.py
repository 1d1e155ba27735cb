"""Which direction is good news: what is said where costs are compared, and nothing tells it, or the wrong thing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal

from marvex.app.columns_by_month import sums_of_values
from marvex.app.own_variances import own_variances
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Better
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO
from marvex.core.structure.cost_names import (
    could_be_department,
    income_and_costs,
    looks_like_cost,
    looks_like_debt,
    speaks_of_cost,
    speaks_of_spending,
)
from marvex.core.structure.found_statement import costs_as_income, may_be_of_costs
from marvex.core.values import dataclass
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.sources.headings import parted

_AS_INCOME = "taken for income, as the result adds them"
_IS_BAD = "more is bad news, and up was taken as good"  # of debits less credits


def good_news_caution(book: Ledger, request: Request, comparison: Comparison) -> tuple[str, ...]:
    """That up was taken as good news, where what is compared looks like costs and nothing says its direction; and that
    down was said to be, where some of it are costs that are stored as negative."""
    said = _said(request)
    down = setting("better", "down")
    if doubts := good_news_doubt(book, request, comparison):
        way = f"{setting('source_sign', 'credit')} turns them" if are_of_debits(doubts) else f"{down} if it is not"
        if doubts[0].startswith(_AS_INCOME):
            way = f"{down} if they are costs" if book.statement and may_be_of_costs(book.statement) else ""
        return tuple(": ".join(filter(None, (told, way))) for told in doubts)
    if _says_kinds(book) or comparison.base is None or said not in (set(), {Better.DOWN}):
        return ()
    found = _costs(book, comparison)
    if said:
        below = [label for label in found.names if found.amounts.get(label, ZERO) < 0]
        told = f"{listed(below, 3)} look like costs and are negative: with {down} a larger one is good news"
        return (told,) if below else ()
    if found.are_all:
        return ()
    are_most = 2 * len(found.names) > len(found.amounts)
    some = [
        label for label in found.names if found.amounts[label] > 0 and (are_most or not could_be_department(label))
    ]
    if not some:
        return ()
    are, they_are = ("looks like a cost", "it is") if len(some) == 1 else ("look like costs", "they are")
    added = f", with which {they_are} added up" if request.total_as.adds_up else ""
    told = f"{listed(some, 3)} {are}, and up was taken as good news for all{added}"
    return (f"{told}: {down} where all are costs, a statement ({setting('statement')}) where others are income",)


def good_news_doubt(book: Ledger, request: Request, comparison: Comparison) -> tuple[str, ...]:
    """The same where all that is compared looks like costs, or some of it like debts, for whoever sees the colours."""
    statement = book.statement
    if _said(request) or comparison.base is None:
        return ()
    if statement is not None and statement.has_both_kinds:
        taken = costs_as_income(statement) if statement.is_found else []
        return (f"{_AS_INCOME}: {listed(taken, 3)}",) if taken else ()
    owed = [one.label for one in comparison.points if looks_like_debt(one.label) and (one.current or ZERO) > 0]
    if owed:
        look = "looks like a debt" if len(owed) == 1 else "look like debts"
        return (f"{listed(owed, 3)} {look}, and up was taken as good news",)
    if _says_kinds(book):
        return ()
    found = _costs(book, comparison)
    for amounts in (found.amounts, *found.by_value):
        income, costs = income_and_costs(list(amounts))
        are_debits = all(amounts[one] < 0 for one in income) and all(amounts[one] > 0 for one in costs)
        if income and costs and are_debits:
            signed = f"{listed(income, 2)} below zero, {listed(costs, 2)} above it"
            return (f"amounts are signed as debits ({signed}): {_IS_BAD}",)
    # Costs that are stored as negative are good news upward, as they lower the sum.
    if _sides(comparison)[0] <= 0:
        return ()
    own = None if found.are_all else own_variances(book.first, comparison)
    if own is not None and own.are_turned and not income_and_costs(list(found.amounts))[0]:
        return (f"by the signs of {own.heading} these are costs, and up was taken as good news",)
    if found.are_all:
        return (f"these look like costs ({listed(found.names, 3)}), and up was taken as good news",)
    spent = [one for one in book.first.roles.by if speaks_of_cost(one)]
    spent += [one for one in book.first.headings if speaks_of_spending(one)]
    if not spent or income_and_costs(list(found.amounts))[0]:
        return ()
    return (f"these look like a budget that is spent (column '{spent[0]}'), and up was taken as good news",)


def _is_surely_cost(label: str) -> bool:
    return speaks_of_cost(label) and not could_be_department(label)


def _says_kinds(book: Ledger) -> bool:
    """Whether a statement says what is income and what a cost; one that was found of lines of one kind does not."""
    statement = book.statement
    return statement is not None and (not statement.is_found or statement.has_both_kinds)


def are_of_debits(doubts: Sequence[str]) -> bool:
    """Whether what `good_news_doubt` says is that amounts are debits less credits, which can be turned."""
    return any(one.endswith(_IS_BAD) for one in doubts)


def check_good_news(book: Ledger, request: Request, comparison: Comparison) -> None:
    """Raises Mistake where down is said to be good news of costs that are negative: a larger one would be; or what is
    said is not so of the result of a found statement."""
    _check_result(book, request.settings.better)
    if _said(request) != {Better.DOWN} or book.statement is not None or comparison.base is None:
        return
    sides = _sides(comparison)
    if max(sides) > 0 or min(sides) == 0:
        return
    found = _costs(book, comparison)
    if found.are_all:
        down, said = setting("better", "down"), request.settings.source_sign
        turns = any(one.rpartition("=")[2] in ("negative", "credit") for one in said)
        sign = setting("source_sign") if turns else setting("source_sign", "negative")
        mend = f"Leave {sign} out" if turns else f"Turn them with {sign}"
        raise Mistake(
            f"these are costs ({listed(found.names, 3)}) and negative: with {down} a larger cost would be good news",
            f"{mend}, or leave {down} out.",
        )


def _check_result(book: Ledger, said: str | None) -> None:
    statement = book.statement
    if said is None or statement is None or not statement.is_found or not statement.has_both_kinds:
        return
    result = statement.result
    if result is not None and Better(said) is not (Better.DOWN if result.is_cost else Better.UP):
        raise Mistake(
            f"{book.name}: the statement that was found says of each line whether more of it is good news, and "
            f"{result.label} counts as {'a cost' if result.is_cost else 'income'}, against {setting('better', said)}",
            f"Leave {setting('better')} out; or {setting('statement', 'none')} takes the lines for a plain list.",
        )


def _sides(comparison: Comparison) -> tuple[Decimal, Decimal]:
    """What both sides come to, or their points where they have no total."""
    total, points = comparison.total, comparison.points
    if total.current is None and total.base is None:
        return sum((one.current or ZERO for one in points), ZERO), sum((one.base or ZERO for one in points), ZERO)
    return total.current or ZERO, total.base or ZERO


def _said(request: Request) -> set[Better]:
    """The directions that the call or its rules say."""
    if request.settings.better is not None:
        return {Better(request.settings.better)}
    return {one.better for one in (request.rules.rules if request.rules else ()) if one.better}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Costs:
    """What is compared, with its amounts, and which of it looks like costs; `by_value` of other columns the same."""

    names: list[str]
    amounts: Mapping[str, Decimal]
    by_value: tuple[Mapping[str, Decimal], ...]
    are_all: bool


def _costs(book: Ledger, comparison: Comparison) -> _Costs:
    narrowed = [one for one in (found.names_one for found in book.first.narrowed) if one]
    headings = [one.name for one in book.first.roles.amounts]
    headings = [one for one in headings if parted(one).rest or not parted(one).is_said]
    narrowed += headings if headings and all(map(speaks_of_cost, headings)) else []
    points = comparison.panel_totals if comparison.every else comparison.points
    totals = {line.label for line in book.statement.lines if not line.accounts} if book.statement else ()
    compared = {one.panel or one.label: one.current or ZERO for one in points if one.label not in totals}
    by_value = tuple(sums_of_values(book))
    known = (compared,) if book.width else by_value
    amounts = next((one for one in known if any(map(looks_like_cost, one))), {})
    # What all rows are of says it, too, of what is compared by something else.
    amounts = amounts or next((one for one in by_value if all(map(looks_like_cost, one))), {})
    amounts = amounts or next((one for one in by_value if any(map(_is_surely_cost, one))), {})
    if told := [label for label in narrowed if speaks_of_cost(label)]:
        return _Costs(names=told, amounts=amounts, by_value=by_value, are_all=True)
    names = [label for label in amounts if looks_like_cost(label)]
    are_all = bool(names) and len(names) == len(amounts)
    return _Costs(names=names, amounts=amounts, by_value=by_value, are_all=are_all)
