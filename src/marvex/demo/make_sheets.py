"""Makes two sheets of the demo data as people keep them: totals among the lines, months across, thousands rounded.

Their figures are the ledger's own: the results of 2026 in whole euros, and October beside the year to date.
"""

from __future__ import annotations

import csv
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from decimal import ROUND_HALF_UP, Decimal
from pathlib import Path
from typing import TypeAlias

from marvex.demo.make_data import bookings
from marvex.demo.make_more import MONTHS

RESULTS, OCTOBER = "results.csv", "october.csv"
YEAR, LAST_MONTH = 2026, 10
LINES = (
    ("Passenger fares", (4010,)),
    ("Vehicle fares", (4020,)),
    ("Freight", (4030,)),
    ("Café and charter", (4040, 4050)),
    ("Other income", (4060, 4070)),
    ("Fuel", (5010,)),
    ("Crew", (5020, 5030)),
    ("Port dues", (5040,)),
    ("Maintenance and repairs", (5050, 5060)),
    ("Café supplies and cleaning", (5070, 5080)),
    ("Insurance and marketing", (5110, 5120)),
    ("Office", (5130, 5140, 5150, 5160, 5170)),
    ("Depreciation", (5210,)),
    ("Interest and tax", (5310, 5410)),
)
INCOME, RUNNING, OVERHEADS = 5, 10, 13  # how many lines come before each total

Column: TypeAlias = list[Decimal]


def write_results(folder: Path) -> None:
    """Writes `results.csv`: the profit and loss by month, costs positive, in whole euros."""
    sums = _sums("actual")
    months = [[abs(sums[line, month]) for line in range(len(LINES))] for month in range(1, LAST_MONTH + 1)]
    columns = [_with_totals([_rounded(one, 0) for one in month]) for month in months]
    columns.append([sum((one[place] for one in columns), Decimal(0)) for place in range(len(columns[0]))])
    with (folder / RESULTS).open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["Ostrey Sound Ferries"])
        writer.writerow([f"Profit and loss, January to October {YEAR}"])
        writer.writerow([])
        writer.writerow(["", *MONTHS[:LAST_MONTH], "Total"])
        for label, *figures in _rows(columns, lambda figure: f"{figure}"):
            writer.writerow([label, *figures])


def write_october(folder: Path) -> None:
    """Writes `october.csv`: October and the year to date against budget, in thousands that do not quite add up."""
    sides = [_sums("budget"), _sums("actual")]
    columns: list[Column] = []
    for months in (range(LAST_MONTH, LAST_MONTH + 1), range(1, LAST_MONTH + 1)):
        budget, actual = (
            _with_totals(
                [abs(sum((sums[line, month] for month in months), Decimal(0))) for line in range(len(LINES))]
            )
            for sums in sides
        )
        columns += [budget, actual, [now - then for now, then in zip(actual, budget, strict=True)]]
    with (folder / OCTOBER).open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["", *["Oct 2026"] * 3, *["Year to date"] * 3])
        writer.writerow(["EUR '000", *["Budget", "Actual", "Variance"] * 2])
        for label, *figures in _rows(columns, lambda figure: f"{_rounded(figure / 1000, 0)}"):
            if not label.endswith("%"):
                writer.writerow([label, *figures])


def _sums(scenario: str) -> dict[tuple[int, int], Decimal]:
    """What each line comes to in each month."""
    places = {code: place for place, (_, codes) in enumerate(LINES) for code in codes}
    sums: dict[tuple[int, int], Decimal] = defaultdict(Decimal)
    for one in bookings():
        if one.scenario == scenario and one.day.year == YEAR:
            sums[places[one.account.code], one.day.month] += one.net
    return sums


def _with_totals(lines: Column) -> Column:
    """The lines of a column with its four totals behind them."""
    revenue = sum(lines[:INCOME], Decimal(0))
    margin = revenue - sum(lines[INCOME:RUNNING], Decimal(0))
    operating = margin - sum(lines[RUNNING:OVERHEADS], Decimal(0))
    return [*lines, revenue, margin, operating, operating - lines[OVERHEADS]]


def _rows(columns: Sequence[Column], text: Callable[[Decimal], str]) -> Iterator[list[str]]:
    """The rows in the order of a statement, each total under its parts."""
    count = len(LINES)

    def row(label: str, place: int) -> list[str]:
        return [label, *(text(column[place]) for column in columns)]

    for place, (label, _) in enumerate(LINES):
        yield row(label, place)
        if place == INCOME - 1:
            yield row("Revenue", count)
        if place == RUNNING - 1:
            yield row("Gross margin", count + 1)
            shares = (_rounded(100 * column[count + 1] / column[count], 1) for column in columns)
            yield ["Gross margin %", *(f"{share}%" for share in shares)]
        if place == OVERHEADS - 1:
            yield row("Operating result", count + 2)
    yield row("Net result", count + 3)


def _rounded(figure: Decimal, decimals: int) -> Decimal:
    return figure.quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP)
