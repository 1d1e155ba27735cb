"""Months down and years across, or years down and months across: each cell is of a month of its year."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.sources.dates import month_alone, period_alone
from marvex.sources.readers.grid import SheetRow
from marvex.sources.years_said import YEAR, runs_on

DATE, AMOUNT = "date", "amount"  # the columns that the cells become


@dataclass(frozen=True, slots=True)
class Crossed:
    """The column of months, or of years, whose rows meet headings that are the other, and the columns of amounts."""

    place: int
    amounts: tuple[int, ...]
    are_years: bool

    def date(self, own: str, heading: str) -> str:
        """The date of a cell, by what stands before its row and above its column."""
        return f"{heading} {own}" if self.are_years else f"{own} {heading}"

    def told(self, headings: Sequence[str]) -> str:
        """What is said of it."""
        across = "what stands across" if self.are_years else "the years across"
        return f"{headings[self.place]} and {across} are read as dates"


def crossed(headings: Sequence[str], rows: Sequence[SheetRow], amounts: Sequence[int]) -> Crossed | None:
    """The column that says half of each date, where the headings of all columns of amounts say the other half."""
    cells = {place: [row.cells[place] for row in rows] for place in range(len(headings))}
    own = [place for place in amounts if YEAR.fullmatch(headings[place])]
    if 1 < len(own) == len(amounts):
        months = (one for one in cells if one not in own and _are_months(list(map(month_alone, cells[one]))))
        return next((Crossed(place, tuple(own), are_years=False) for place in months), None)
    own = [place for place in amounts if period_alone(headings[place])]
    parts = [named for place in own if (named := period_alone(headings[place]))]
    numbers = [number for _, number in parts]
    if len(own) < 2 or {letter for letter, _ in parts} not in ({"m"}, {"q"}) or numbers != sorted(set(numbers)):
        return None
    # The years are figures as well, and may have been taken for amounts.
    years = (one for one in cells if all(map(YEAR.fullmatch, cells[one])) and len(set(cells[one])) > 1)
    place = next((one for one in years if one not in own), None)
    return (
        Crossed(place, tuple(own), are_years=True) if place is not None and not {*amounts} - {*own, place} else None
    )


def _are_months(months: Sequence[int | None]) -> bool:
    known = [month for month in months if month is not None]
    in_order = list(dict.fromkeys(known))
    return len(known) == len(months) and len(in_order) > 1 and not runs_on(in_order)


def by_date(
    headings: Sequence[str], letters: Sequence[str], rows: Sequence[SheetRow], found: Crossed
) -> tuple[tuple[str, ...], tuple[str, ...], tuple[SheetRow, ...]]:
    """Headings, letters and rows with a row for each cell that is filled, its date and its amount behind the others."""
    others = [place for place in range(len(headings)) if place not in found.amounts]
    cells = tuple(
        SheetRow(
            row.number,
            (
                *(row.cells[one] for one in others),
                found.date(row.cells[found.place], headings[place]),
                row.cells[place],
            ),
            row.indent,
        )
        for row in rows
        for place in found.amounts
        if row.cells[place]
    )
    names = tuple(headings[one] for one in others)
    return (*names, DATE, AMOUNT), (*(letters[one] for one in others), "", ""), cells
