"""Months down and years across, or years down and months across: each cell is of a month of its year."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.values import dataclass
from marvex.sources.cells import is_figure
from marvex.sources.dates import month_alone, period_alone, years_of
from marvex.sources.readers.grid import SheetRow
from marvex.sources.years_said import YEAR, runs_on

DATE, AMOUNT = "date", "amount"  # the columns that the cells become


@dataclass(frozen=True, slots=True)
class Crossed:
    """The column of months, or of years, whose rows meet headings that are the other, and the columns of amounts.

    Parameters
    ----------
    first : the month that each year begins with, where its months run past December; else 0.
    by_start : a reporting year of one name, `FY26`, is called by the year in which it begins.
    """

    place: int
    amounts: tuple[int, ...]
    are_years: bool
    first: int = 0
    by_start: bool = False

    def date(self, own: str, heading: str) -> str:
        """The date of a cell, by what stands before its row and above its column."""
        if self.first and (years := years_of(own, by_start=self.by_start)):
            return f"{heading} {years[(month_alone(heading) or 0) < self.first]}"
        if not self.are_years or years_of(own):  # `Q1 2026`, but `FY2025/26 Q1`
            return f"FY{own} {heading}" if own[:1].isdecimal() and self.are_years else f"{own} {heading}"
        return f"{heading} {own}"

    def told(self, headings: Sequence[str], rows: Sequence[SheetRow]) -> str:
        """What is said of it."""
        across = "what stands across" if self.are_years else "the years across"
        said = f"{headings[self.place]} and {across} are read as dates"
        if not self.first:
            return said
        own = rows[0].cells[self.place]
        ends = [self.date(own, headings[place]) for place in (self.amounts[0], self.amounts[-1])]
        return f"{said}: {own} from {ends[0]} to {ends[1]}"


def crossed(
    headings: Sequence[str], rows: Sequence[SheetRow], amounts: Sequence[int], *, by_start: bool
) -> Crossed | None:
    """The column that says half of each date, where the headings of all columns of amounts say the other half."""
    cells = {place: [row.cells[place] for row in rows] for place in range(len(headings))}
    own = [place for place in amounts if YEAR.fullmatch(headings[place])]
    if 1 < len(own) == len(amounts):
        months = (one for one in cells if one not in own and _are_months(list(map(month_alone, cells[one]))))
        return next((Crossed(place, tuple(own), are_years=False) for place in months), None)
    # A month of which a cell cannot be read is one still, and is told of.
    figures = {place for place in cells if any(map(is_figure, cells[place]))}
    own = [place for place in sorted({*amounts} | figures) if period_alone(headings[place])]
    parts = [named for place in own if (named := period_alone(headings[place]))]
    numbers, letters = [number for _, number in parts], {letter for letter, _ in parts}
    goes_on = letters == {"m"} and runs_on(numbers)
    if len(own) < 2 or letters not in ({"m"}, {"q"}) or not (goes_on or numbers == sorted(set(numbers))):
        return None
    # The years are figures as well, and may have been taken for amounts.
    years = (one for one in cells if one not in own and _are_years(cells[one], goes_on=goes_on))
    place = next(years, None)
    if place is None or {*amounts} - {*own, place}:
        return None
    return Crossed(place, tuple(own), are_years=True, first=numbers[0] if goes_on else 0, by_start=by_start)


def _are_years(texts: Sequence[str], *, goes_on: bool) -> bool:
    """Whether each says its year, and they say several: of months that run past December two, as `2025/26` does."""
    if len(set(texts)) < 2:
        return False
    return all(years_of(text) or (not goes_on and YEAR.fullmatch(text)) for text in texts)


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
