"""Income and costs that are both positive, and what takes from one another by name: not to be added up."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from decimal import Decimal

from marvex.app.line_names import check_names
from marvex.app.own_variances import own_variances
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import JOINS
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.cost_names import (
    ACCOUNT_CODES,
    ACCOUNT_NAMES,
    COST,
    INCOME,
    KINDS,
    income_and_costs,
)
from marvex.core.structure.opposite_names import opposed
from marvex.request.request import Request
from marvex.sources.columns_asked import UNNAMED_HEADINGS
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.met import met
from marvex.sources.engine.source import Source
from marvex.sources.where import filter_text


def check_kinds(book: Ledger, comparison: Comparison, request: Request) -> None:
    """Raises Mistake where income and costs that are both stored as positive would be added up, by the names that are
    shown or by those that the source has for them."""
    if not is_added_up(book, request) or not book.width:
        return
    points = comparison.panel_totals if comparison.every else comparison.points
    labels = tuple(one.category or "" for one in points)
    for names in dict.fromkeys((labels, tuple(map(book.name_in_source, labels)))):
        amounts = {name: one.current or one.base or ZERO for name, one in zip(names, points, strict=True)}
        _check_kinds_by(book, comparison, request, amounts, dict(zip(names, labels, strict=True)))


def _check_kinds_by(
    book: Ledger, comparison: Comparison, request: Request, amounts: dict[str, Decimal], shown: Mapping[str, str]
) -> None:
    """The same by some names, with what each is shown as."""
    settings = request.settings
    lowering = [name for name in amounts if shown[name] in settings.deductions]
    amounts |= {name: -amounts[name] for name in lowering}
    if request.adds_unasked:
        roles = book.first.roles
        width = len(roles.by)
        may_stand = settings.is_of_list or _can_deduct(comparison, request)
        joined = [name.rsplit(JOINS, width - 1) for name in amounts]
        for place, column in enumerate(roles.by):
            names = dict.fromkeys(one[place] for one in joined if len(one) == width)
            # Headings that nothing names a column after are chosen by their columns.
            are_headings = roles.headings == column == UNNAMED_HEADINGS
            columns = {one.name: one.category or "" for one in roles.amounts} if are_headings else {}
            check_names(book.name, column, list(names), columns, may_stand=may_stand)
        if asks_of_opposites(request):
            _check_opposites(book, amounts, roles.by[0], can_deduct=_can_deduct(comparison, request))
    if settings.statement:
        return
    column = book.first.roles.by[0]
    for of_kind, income, costs, so in _kinds_said(book, comparison, amounts):
        added = [one for one in costs if one not in lowering]
        if _are_both_positive(book.first, of_kind, income, added):
            can_deduct = _can_deduct(comparison, request)
            named = setting("deductions", ",".join(shown.get(one, one) for one in costs))
            deducted = f"{named} names what lowers a total; " if can_deduct else ""
            raise _mixed_kinds(book.name, book.first, column, (income[0], added[0]), deducted, so)
        if settings.deductions:
            return  # they say it where names do not
    both = next((one.file.both_kinds for one in book.sources if one.file.both_kinds), None)
    if both is not None:
        raise _mixed_kinds(book.name, book.first, book.first.roles.by[-1], both, "")


def _kinds_said(
    book: Ledger, comparison: Comparison, amounts: Mapping[str, Decimal]
) -> Iterator[tuple[Mapping[str, Decimal], Sequence[str], Sequence[str], str]]:
    """Amounts, which of them are income and which costs, by name, a column of kinds or variances, and what says so."""
    income, costs = income_and_costs(list(amounts))
    yield amounts, income, costs, ""
    if (not income or not costs) and all(amount >= 0 for amount in amounts.values()):
        of_kind = _by_kind(book, comparison)
        yield of_kind, *kinds_of(KINDS[0], list(of_kind)), ""
    if signs := own_variances(book.first, comparison):
        yield amounts, signs.income, signs.costs, f" by the signs of {signs.heading}"


def _can_deduct(comparison: Comparison, request: Request) -> bool:
    """Whether what lowers a total can be named."""
    return comparison.base is None and "deductions" in request.place.takes


def _check_opposites(book: Ledger, amounts: Mapping[str, Decimal], column: str, *, can_deduct: bool) -> None:
    """Raises Mistake where what is compared takes from one another by its names, and would be added up."""
    sides = opposed(list(amounts), alone=False)
    if sides is None or not any(_are_both_positive(book.first, amounts, sides[:1], [one]) for one in sides[1:]):
        return
    deducted = f"{setting('deductions', ','.join(sides[1:]))} names what lowers a total; " if can_deduct else ""
    raise Mistake(
        f"{book.name}: '{sides[0]}' and '{sides[1]}' take from one another by name, both are positive, and would be "
        "added up",
        f"{deducted}{setting('where', filter_text(column, '!=', sides[1:]))} keeps one side; a statement "
        f"({setting('statement')}) says which is subtracted; {setting('total_as', 'sum')} adds up all the same.",
    )


def asks_of_opposites(request: Request) -> bool:
    """Whether what takes from one another by its names is asked about: a sum by name lets it be added up, and of
    balances a call for no statement."""
    return request.adds_unasked and (request.total_as.way is Total.SUM or not request.settings.statement)


def is_added_up(book: Ledger, request: Request) -> bool:
    return book.statement is None and request.total_as.way in (Total.SUM, Total.CLOSING)


def check_kinds_of(source: Source, column: str, amounts: Mapping[str, Decimal], request: Request) -> None:
    """The same of a column that nothing is compared by, with what each of its values comes to."""
    income, costs = kinds_of(column, list(amounts))
    if not request.settings.statement and _are_both_positive(source, amounts, income, costs):
        kept = setting("where", filter_text(column, "=", income[:1]))
        raise _mixed_kinds(source.name, source, column, (income[0], costs[0]), f"{kept} keeps one; ")
    sides = opposed(list(amounts), alone=not source.names_rows(column)) if asks_of_opposites(request) else None
    if sides is not None and _are_both_positive(source, amounts, sides[:1], sides[1:]):
        raise Mistake(
            f"{source.name}: {column} says '{sides[0]}' and '{sides[1]}', both are positive, and would be added up",
            f"Keep one with {setting('where', filter_text(column, '=', sides[:1]))}; "
            f"{setting('total_as', 'sum')} adds them up all the same.",
        )


def kinds_of(column: str, names: Sequence[str]) -> tuple[list[str], list[str]]:
    """The names that say income, and those that say costs."""
    if column.strip().casefold() not in KINDS:
        return income_and_costs(names)
    return [one for one in names if one.casefold() in INCOME], [one for one in names if one.casefold() in COST]


def _mixed_kinds(name: str, source: Source, column: str, both: tuple[str, str], way: str, so: str = "") -> Mistake:
    """What is to be said of income and costs that would be added up, with one more way on."""
    file, account = accounts_listed(source, column)
    begun = f"marvex begin {file} {setting('write', 'statement')}"
    if account is not None:
        begun += f" {setting('account', account)}"
    return Mistake(
        f"{name}: '{both[0]}' is income and '{both[1]}' a cost{so}, both are positive, and would be added up",
        f"{begun} writes a statement for {setting('statement')}; {way}"
        f"{setting('statement', 'none')} adds them up all the same.",
    )


def accounts_listed(source: Source, column: str) -> tuple[str, str | None]:
    """The file that a statement is begun from, and its column of accounts, where a column says what is a cost.

    A column that says only kinds is no column of accounts; one that a lookup has is read there. No statement is
    begun from a database.
    """
    own = source.file.layout.headings if source.file.layout is not None else ()
    if source.asked.lookup is not None and column not in own:
        return source.asked.lookup, source.asked.lookup_column
    if source.file.store is not None:
        return "ACCOUNTS.csv", None
    if column.strip().casefold() in (*KINDS, *ACCOUNT_NAMES):
        known = {heading.strip().casefold(): heading for heading in source.headings}
        names = (known[one] for one in (*ACCOUNT_CODES, *ACCOUNT_NAMES) if one in known)
        column = next(names, column)
    return source.file.title, column


def _are_both_positive(
    source: Source, amounts: Mapping[str, Decimal], income: Sequence[str], costs: Sequence[str]
) -> bool:
    """Whether income and costs are both above zero, or are so in the source where a call turns all of it."""
    if not income or not costs:
        return False
    stored = {name: source.asked.signed(amount) for name, amount in amounts.items()}
    return any(_positive(its, income) and _positive(its, costs) for its in (amounts, stored))


def _positive(amounts: Mapping[str, Decimal], names: Sequence[str]) -> bool:
    return sum(amounts[one] for one in names) > 0


def _by_kind(book: Ledger, comparison: Comparison) -> dict[str, Decimal]:
    """What the current side's rows of each kind come to, where a column of a small source says kinds."""
    found: dict[str, Decimal] = {}
    for source in book.sources if all(one.file.is_small for one in book.sources) else ():
        column = next((one for one in source.headings if one.strip().casefold() in KINDS), None)
        for kind, scenario, _, _, amount in met(source, [column], source.filters, book.engine) if column else ():
            if scenario == comparison.current.scenario:
                found[kind] = EXACT.add(found.get(kind, ZERO), amount or ZERO)
    return found
