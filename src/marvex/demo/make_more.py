"""Makes the demo data beside the ledger: tickets, headcount, and the budget as a workbook.

The budget in the workbook is the ledger's own, to the cent, set out as people set budgets out: a
title, two heading rows, months across, totals, and brackets for costs.
"""

from __future__ import annotations

import csv
import gzip
import io
import random
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path

from marvex.demo.make_data import ACCOUNTS, FIRST, GALE, GROWTH, LAST, ROUTES, SEASON, Account, bookings

TICKETS, HEADCOUNT, PLAN, FARES = "tickets.csv.gz", "headcount.csv", "plan.xlsx", "fares.csv"
SEED = 20261101
KINDS = (
    ("Adult", Decimal("14.50"), 0.62),
    ("Child", Decimal("7.00"), 0.22),
    ("Resident", Decimal("9.80"), 0.16),
)
PLANNED = 2026
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def tickets() -> Iterator[tuple[object, ...]]:
    """A sample of tickets sold each day; a family's ticket stands on a row for each passenger kind."""
    chance = random.Random(SEED)
    number = 100_000
    day = FIRST
    while day <= LAST:
        for route in ROUTES:
            if not route.opened <= day <= route.closed or day == GALE:
                continue
            expected = 3.4 * route.size * SEASON[day.month - 1] * GROWTH[day.year]
            for _ in range(max(0, round(chance.gauss(expected, 1.1)))):
                number += 1
                first = chance.choices(KINDS, [share for _, _, share in KINDS])[0]
                kinds = [first] if chance.random() > 0.18 else [KINDS[0], KINDS[1]]
                for kind, fare, _ in kinds:
                    yield day, number, route.name, kind, fare + Decimal(day.year - 2023) * Decimal("0.40")
        day += timedelta(days=1)


def headcount() -> Iterator[tuple[object, ...]]:
    """The people of each department at each month's end."""
    chance = random.Random(SEED + 1)
    sizes = {
        "Deck crew": 46,
        "Engine crew": 21,
        "Café": 24,
        "Ticket office": 13,
        "Maintenance": 11,
        "Office": 17,
    }
    month = FIRST
    while month <= LAST:
        following = date(month.year + month.month // 12, month.month % 12 + 1, 1)
        for department, size in sizes.items():
            season = 1.35 if department == "Café" and month.month in (6, 7, 8) else 1.0
            yield following - timedelta(days=1), department, round(size * season)
            sizes[department] = max(5, size + chance.choice((-1, 0, 0, 0, 0, 1, 1)))
        month = following


def write_tickets(folder: Path) -> int:
    """Writes `tickets.csv.gz`, the same bytes every time, and gives the number of rows."""
    rows = list(tickets())
    with (
        (folder / TICKETS).open("wb") as packed,
        gzip.GzipFile("", "wb", 9, packed, mtime=0) as unpacked,
        io.TextIOWrapper(unpacked, encoding="utf-8", newline="") as file,
    ):
        _write(file, ("date", "ticket", "route", "passenger", "fare"), rows)
    return len(rows)


def write_fares(folder: Path) -> None:
    """Writes `fares.csv`: what the tickets of each month come to, by route and kind of passenger."""
    sums: dict[tuple[date, object, object], list[Decimal]] = defaultdict(lambda: [Decimal(0), Decimal(0)])
    for day, _, route, kind, fare in tickets():
        assert isinstance(day, date) and isinstance(fare, Decimal)
        found = sums[day.replace(day=1), route, kind]
        found[0] += 1
        found[1] += fare
    with (folder / FARES).open("w", encoding="utf-8", newline="") as file:
        rows = ((*key, *found) for key, found in sums.items())
        _write(file, ("month", "route", "passenger", "tickets", "fares"), rows)


def write_headcount(folder: Path) -> None:
    """Writes `headcount.csv`."""
    with (folder / HEADCOUNT).open("w", encoding="utf-8", newline="") as file:
        _write(file, ("month_end", "department", "people"), headcount())


def write_plan(folder: Path) -> None:
    """Writes `plan.xlsx`: the ledger's budget of 2026, as a sheet."""
    import xlsxwriter

    sums: dict[tuple[int, int], Decimal] = defaultdict(Decimal)
    for one in bookings():
        if one.scenario == "budget" and one.day.year == PLANNED:
            sums[one.account.code, one.day.month] += one.net
    with xlsxwriter.Workbook(folder / PLAN) as book:
        book.set_properties({"created": datetime(2026, 11, 1), "title": "Budget 2026"})
        sheet = book.add_worksheet("Budget 2026")
        bold, figure = book.add_format({"bold": True}), book.add_format({"num_format": "#,##0.00;(#,##0.00)"})
        total = book.add_format({"bold": True, "top": 1, "num_format": "#,##0.00;(#,##0.00)"})
        centred = book.add_format({"bold": True, "align": "center"})
        sheet.set_column(1, 1, 22)
        sheet.set_column(2, 14, 12)
        sheet.write("A1", "Ostrey Sound Ferries", bold)
        sheet.write("A2", f"Budget {PLANNED}, agreed in November {PLANNED - 1}")
        sheet.merge_range(3, 2, 3, 13, str(PLANNED), centred)
        for place, text in enumerate(("Code", "Account", *MONTHS, "Year")):
            sheet.write(4, place, text, bold)
        row = 5
        for kind, heading in (("income", "Income"), ("cost", "Costs")):
            sheet.write(row, 1, heading, bold)
            first = row = row + 1
            for account in (one for one in ACCOUNTS if one.kind == kind):
                _write_account(sheet, row, account, [sums[account.code, month] for month in range(1, 13)], figure)
                row += 1
            _write_sums(sheet, row, f"Total {heading.lower()}", range(first, row), sums, kind, total)
            row += 2
        _write_sums(sheet, row - 1, "Result", range(row), sums, None, total)
        sheet.write(row + 1, 0, "Costs are in brackets. Storm repairs are not planned for.")


def _write_account(sheet, row: int, account: Account, amounts: Sequence[Decimal], figure) -> None:  # type: ignore[no-untyped-def]
    sheet.write(row, 0, account.code)
    sheet.write(row, 1, account.name)
    for place, amount in enumerate(amounts):
        sheet.write(row, 2 + place, float(amount), figure)
    sheet.write_formula(row, 14, f"=SUM(C{row + 1}:N{row + 1})", figure, float(sum(amounts)))


def _write_sums(sheet, row: int, label: str, rows: range, sums, kind: str | None, total) -> None:  # type: ignore[no-untyped-def]
    """A total row whose cells are formulas, with the values that they give."""
    sheet.write(row, 1, label, total)
    codes = {one.code for one in ACCOUNTS if kind in (None, one.kind)}
    year = Decimal(0)
    for month in range(1, 13):
        amount = sum((value for (code, at), value in sums.items() if code in codes and at == month), Decimal(0))
        year += amount
        letter = chr(ord("B") + month)
        sheet.write_formula(
            row, 1 + month, f"=SUM({letter}{rows[0] + 1}:{letter}{rows[-1] + 1})", total, float(amount)
        )
    sheet.write_number(row, 14, float(year), total)


def _write(file: io.TextIOBase, headings: Sequence[str], rows: Iterable[Sequence[object]]) -> None:
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(headings)
    writer.writerows(rows)
