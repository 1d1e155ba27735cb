"""Balances: what is there on a date, which several dates do not add up to."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.app.adds_up import holds_several
from marvex.app.columns_by_month import amounts_of_values
from marvex.core.compare.plan import Plan
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import is_end, is_line_of_sheet, is_total_of_sheet
from marvex.core.structure.running import LEAST_VALUES
from marvex.core.structure.total_names import is_balance_name, is_of_a_day
from marvex.request.request import Request
from marvex.sources.engine.by_month import Amounts
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import Source
from marvex.sources.where import filter_text

LEAST_NAMES = 3  # so many lines of a balance sheet are no chance


def check_balances(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where several dates of what is there on a date would be added up, unless a sum was asked for."""
    is_sum = request.total_as.way is Total.SUM and request.total_as.per is None
    if is_sum and request.adds_unasked and any(holds_several(book, plan) for plan in planned):
        _check_sheet(book)
        for source in book.sources if not request.settings.keeps_totals else ():
            _check_ends(source)


def _check_sheet(book: Ledger) -> None:
    """Raises Mistake where the lines are of a balance sheet."""
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


def _check_ends(source: Source) -> None:
    """Raises Mistake where one of the lines says what was there at first, or in the end: 'Opening cash'."""
    across = {one.name: one.category for one in source.roles.amounts}
    named = (one.name for one in source.columns if source.names_rows(one.name))
    column = next(iter(source.roles.compared_by), None) or source.roles.headings or next(named, "")
    if column in source.headings:
        is_found = source.statement is not None and source.statement.is_found
        is_sheet = source.roles.is_wide and source.names_rows(column)
        if not is_found and not source.roles.each_row and not is_sheet:
            return
        place = source.headings.index(column)
        kept = [row for row in source.sample if all(one.keeps_row(row, source.headings) for one in source.filters)]
        names = [(row[place] or "").strip() for row in kept]
        names += [line.label for line in source.statement.lines] if source.statement is not None else []
    else:  # the lines stand side by side
        names = [name for name in across.values() if name]
    found = list(dict.fromkeys(filter(is_end_of_list, names)))
    if not found or len(found) == len(names):
        return
    are, them = ("is a balance", "it") if len(found) == 1 else ("are balances", "them")
    way = f"Leave {them} out with {setting('where', filter_text(column, '!=', found))}"
    if column not in source.headings:
        others = ",".join(one for one, its in across.items() if its not in found)
        steps = f"A waterfall walks them with {setting('headings_are', 'step')}; n" if source.file.led_across else "N"
        way = f"{steps}ame the others with {setting('amount', others)}"
    raise Mistake(
        f"{source.name}: {listed(found, 3)} {are} by name, whose dates do not add up",
        f"{way}; {setting('total_as', 'sum')} adds up all the same.",
    )


def is_end_of_list(name: str) -> bool:
    """Whether a line is of what there was at first or is in the end, by its name: 'Opening cash', 'Balance c/f'."""
    return is_balance_name(name) or is_end(name) or is_of_a_day(name)


def _lasting(amounts: Amounts) -> list[str]:
    """The names that are of a balance sheet, where none ever changes its sign, as postings of such accounts do."""
    names = [one for one in amounts if is_line_of_sheet(one)]
    if len(names) < LEAST_NAMES or any(len(amounts[one]) < LEAST_VALUES for one in names):
        return []
    signs = [{figure > 0 for figure in amounts[one].values() if figure} for one in names]
    return names if all(len(one) == 1 for one in signs) else []
