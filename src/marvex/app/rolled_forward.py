"""A list that rolls forward: what is there at first, the movements of each period, and what they come to in the end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise

from marvex.app.balances import is_end_of_list
from marvex.app.comparing import CheckedComparison
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import total_of
from marvex.core.compare.side import Span
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO
from marvex.core.structure.statement import Statement
from marvex.core.structure.total_names import is_opening_name
from marvex.core.time.calendar import Grain
from marvex.core.time.notation import notation
from marvex.core.time.period import period_of
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.sources.where import filter_text

_MOST_PERIODS = 400  # of a window, each of which is asked for


def is_rolled(statement: Statement) -> bool:
    """Whether a statement that was found is of a list that rolls forward, as a cash flow is."""
    labels = [line.label for line in statement.lines if is_end_of_list(line.label)]
    return statement.is_found and any(map(is_opening_name, labels)) and not all(map(is_opening_name, labels))


def rolled_ends(book: Ledger, planned: Sequence[Plan], request: Request) -> Mapping[str, Decimal]:
    """What a window of several periods starts from and comes to, by the names of those lines.

    It is what there is before its first period and after its last. None where the call is not of the movements of a
    list, or no line says what there was at first and another what there is in the end.

    Raises Mistake where a period does not start from what the one before it came to.
    """
    settings, plan = request.settings, planned[0]
    is_list = settings.walk == "movement" and settings.total_as is None and request.total_as.way is Total.SUM
    if not is_list or settings.panels_by is not None or plan.base is not None or plan.every is not None:
        return {}
    spans = list(_periods(book, plan))
    if book.width != 1 or not 0 < len(spans) <= _MOST_PERIODS:
        return {}
    amounts: dict[str, dict[int, Decimal]] = {}
    cells = book.cells(spans)
    for cell in cells:
        amounts.setdefault(cell.category, {})[cell.place] = cell.amount or ZERO
    ends = [one for one in amounts if is_end_of_list(one)]
    openings = [one for one in ends if is_opening_name(one)]
    closings = [one for one in ends if one not in openings]
    if len(openings) != 1 or len(closings) != 1:
        return {}
    opening, closing = amounts[openings[0]], amounts[closings[0]]
    for before, after in pairwise(range(len(spans))):
        # A period that says only one of them says nothing against the other.
        if before in closing and after in opening and closing[before] != opening[after]:
            now, then = (_written(book, spans[one]) for one in (after, before))
            raise Mistake(
                f"{book.name}: {openings[0]} of {now} is {opening[after]:,}, "
                f"and {closings[0]} of {then} before it {closing[before]:,}",
                f"Mend it; or take one period with {setting('for', now)}.",
            )
    if book.first.file.store is None:  # a database has its rows in no order
        _check_below(book, [label for _, label in book.in_given_order(cells)], closings[0])
    return {openings[0]: opening.get(0, ZERO), closings[0]: closing.get(len(spans) - 1, ZERO)}


def _written(book: Ledger, span: Span) -> str:
    """A date with what it stands for, as a call names it."""
    (only,) = span.stretches
    grain = next(one.grain for one in book.scenarios if one.name == only.scenario) or Grain.DAY
    return notation(period_of(only.first, grain, book.calendar)) if only.first else ""


def _check_below(book: Ledger, in_order: Sequence[str], closing: str) -> None:
    """Raises Mistake where lines stand below the last, as interest does below a loan."""
    if below := in_order[in_order.index(closing) + 1 :]:
        are, them = ("stands", "it") if len(below) == 1 else ("stand", "them")
        raise Mistake(
            f"{book.name}: {listed(below, 3)} {are} below {closing}, and would be added to it",
            f"{setting('where', filter_text(book.first.roles.by[0], '!=', below))} leaves {them} out.",
        )


def _periods(book: Ledger, plan: Plan) -> list[Span]:
    """Each date of a window with the scenario that it has there, in order."""
    known = {one.name: one for one in book.scenarios}
    return [
        Span((replace(one, first=day, last=day),))
        for one in plan.current.span.stretches
        if one.scenario in known
        for day in known[one.scenario].days_within(one.first, one.last)
    ]


def with_ends(one: CheckedComparison, ends: Mapping[str, Decimal]) -> CheckedComparison:
    """The comparison with what the window starts from and comes to, where it had the sum of its periods.

    What it starts from goes before all else, which in a cash flow statement stands above the last line.
    """
    if not ends:
        return one
    comparison = one.comparison
    points = [replace(point, current=ends.get(point.label, point.current)) for point in comparison.points]
    points.sort(key=lambda point: 0 if point.label not in ends else -1 if is_opening_name(point.label) else 1)
    return replace(one, comparison=replace(comparison, points=tuple(points), total=total_of(points)))
