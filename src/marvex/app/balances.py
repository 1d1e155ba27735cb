"""Balances: what is there on a date, which several dates do not add up to."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.app.checks import holds_several
from marvex.app.values_by_month import amounts_of_values
from marvex.core.compare.plan import Plan
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import is_line_of_sheet, is_total_of_sheet
from marvex.core.structure.running import LEAST_VALUES
from marvex.request.request import Request
from marvex.sources.engine.by_month import Amounts
from marvex.sources.engine.ledger import Ledger

LEAST_NAMES = 3  # so many lines of a balance sheet are no chance


def check_balance_sheets(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where several dates of a balance sheet would be added up, unless a sum was asked for."""
    is_sum = request.total_as.way is Total.SUM and not request.total_as.is_divided
    if not is_sum or request.settings.total_as is not None or not any(holds_several(book, plan) for plan in planned):
        return
    lines = [line.label for line in book.statement.lines] if book.statement else []
    names = [one for one in lines if is_total_of_sheet(one)]
    if not names:
        names = next((found for one in amounts_of_values(book) if (found := _lasting(one))), [])
    if names:
        are = "is a line" if len(names) == 1 else "are lines"
        raise Mistake(
            f"{book.name}: {listed(names, 3)} {are} of a balance sheet, whose dates do not add up",
            f"Say {setting('total_as', 'closing')}, which takes the last of a window; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )


def _lasting(amounts: Amounts) -> list[str]:
    """The names that are of a balance sheet, where none ever changes its sign, as postings of such accounts do."""
    names = [one for one in amounts if is_line_of_sheet(one)]
    if len(names) < LEAST_NAMES or any(len(amounts[one]) < LEAST_VALUES for one in names):
        return []
    signs = [{figure > 0 for figure in amounts[one].values() if figure} for one in names]
    return names if all(len(one) == 1 for one in signs) else []
