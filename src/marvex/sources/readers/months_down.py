"""Months down and years across, as tables that set seasons side by side are: each cell is of a month of its year."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.sources.dates import month_alone
from marvex.sources.readers.grid import SheetRow
from marvex.sources.years_said import YEAR, runs_on

DATE, AMOUNT = "date", "amount"  # the columns that the cells become


def month_column(headings: Sequence[str], rows: Sequence[SheetRow], amounts: Sequence[int]) -> int | None:
    """The column of months, where all columns of amounts are headed by years; None of another table."""
    if len(amounts) < 2 or not all(YEAR.fullmatch(headings[place]) for place in amounts):
        return None
    for place in range(len(headings)):
        months = [month_alone(row.cells[place]) for row in rows]
        known = [month for month in months if month is not None]
        in_order = list(dict.fromkeys(known))
        if place not in amounts and len(known) == len(rows) and len(in_order) > 1 and not runs_on(in_order):
            return place
    return None


def by_month(
    headings: Sequence[str], letters: Sequence[str], rows: Sequence[SheetRow], amounts: Sequence[int], month: int
) -> tuple[tuple[str, ...], tuple[str, ...], tuple[SheetRow, ...]]:
    """Headings, letters and rows with a row for each cell that is filled, its date and its amount behind the others."""
    others = [place for place in range(len(headings)) if place not in amounts]
    found = tuple(
        SheetRow(
            row.number,
            (*(row.cells[one] for one in others), f"{row.cells[month]} {headings[place]}", row.cells[place]),
            row.indent,
        )
        for row in rows
        for place in amounts
        if row.cells[place]
    )
    names = tuple(headings[one] for one in others)
    return (*names, DATE, AMOUNT), (*(letters[one] for one in others), "", ""), found
