"""Forty pictures of ordinary tables, as they come from firms that no one here made up the views for."""

from __future__ import annotations

import csv
import random
import shutil
from collections.abc import Iterable, Sequence
from datetime import date, timedelta
from functools import partial
from pathlib import Path
from typing import Any

Rows = Iterable[Sequence[Any]]
SHEETS = Path(__file__).parent / "tables"
LINES = (  # of a statement of nineteen lines: label, whether it is a cost, what a month comes to
    *(("Room sales", 0, 410_000), ("Restaurant", 0, 188_000), ("Bar", 0, 96_000), ("Conferences", 0, 61_000)),
    *(("Spa", 0, 22_500), ("Other income", 0, 4_100), ("Food bought", 1, 61_000), ("Drinks bought", 1, 28_000)),
    *(("Linen", 1, 11_800), ("Agents' fees", 1, 47_000), ("Kitchen wages", 1, 52_000), ("Front of house", 1, 88_000)),
    *(("Energy", 1, 37_000), ("Repairs", 1, 24_000), ("Insurance", 1, 9_300), ("Marketing", 1, 18_700)),
    *(("Rates", 1, 15_200), ("Bank charges", 1, 2_900), ("Interest", 1, 31_000)),
)
ENTITIES = (*("Alder", "Birch", "Cedar", "Elm", "Hazel", "Holly", "Larch", "Maple", "Oak", "Rowan", "Willow", "Yew"),)


def _months(first: int, last: int) -> list[tuple[int, int]]:
    return [(year, month) for year in range(first, last + 1) for month in range(1, 13)]


def tills() -> Rows:
    """A shop's till by day for two years: weekends high, a slow rise, a closed Christmas Day."""
    chance = random.Random(7)
    for number in range(731):
        day = date(2024, 1, 1) + timedelta(days=number)
        if (day.month, day.day) != (12, 25):
            level = 2_400 + (day.weekday() >= 5) * 1_900 + number // 3
            yield day.isoformat(), "Drinks" if number % 2 else "Food", round(level * chance.uniform(0.8, 1.2), 2)


def hotels(names: Sequence[str]) -> Rows:
    """Lines by month and hotel, actual and budget; one hotel opened in April, one makes a loss."""
    chance = random.Random(11)
    for place, name in enumerate(names):
        for year, month in _months(2024, 2025):
            if name == "Holly" and (year, month) < (2025, 4):
                continue
            for line, is_cost, usual in LINES:
                amount = (
                    usual
                    / (1 + (place ^ 1) * 0.7)
                    * chance.uniform(0.85, 1.15)
                    * (1.5 if name == "Elm" and is_cost else 1)
                )
                yield f"{year}-{month:02}-01", name, line, "Actual", round(amount, 2)
                if year == 2025:
                    yield f"{year}-{month:02}-01", name, line, "Budget", round(usual / (1 + (place ^ 1) * 0.7), -2)


def products() -> Rows:
    """Amount and pieces by product and year."""
    yield from (("Lamps", 84_210.4, 77_930.1), ("Chairs", 152_004.0, 171_660.5), ("Tables", 96_551.2, 96_023.9))
    yield from (("Shelves", 23_150.0, 41_000.4), ("Rugs", 18_402.5, 12_290.0), ("Mirrors", 6_120.3, 6_844.9))
    yield from (("Clocks", 2_410.0, ""), ("Desks", "", 31_905.2), ("Gift cards, boxed and\nplain", 1_020.0, 1_585.0))


def production() -> Rows:
    """Tonnes by year."""
    yield from ((1949 + place, tonnes) for place, tonnes in enumerate((8021, 8457, 8790, 9120, 9933, 10870)))
    yield from ((1955 + place, tonnes) for place, tonnes in enumerate((11204, 12015, 13377, 13102, 14980, 16041)))


def occupancy() -> Rows:
    """Rooms let by month and hotel, in per cent."""
    for year, month in _months(2024, 2025):
        for place, name in enumerate(ENTITIES[:4]):
            yield (
                f"{year}-{month:02}-01",
                name,
                f"{52 + 5 * place + 18 * (4 < month < 10) + (year - 2024) * (3 - place) + month % 3}.5%",
            )


def staff() -> Rows:
    """People by department at the end of each month."""
    for year, month in _months(2024, 2025):
        end = (date(year + month // 12, month % 12 + 1, 1) - timedelta(days=1)).isoformat()
        for place, name in enumerate(("Kitchen", "Front of house", "Housekeeping", "Office")):
            yield end, name, 60 - 13 * place + (month * (place + 2) + year) % 7


SIDES = ("product", "2024", "2025")
TABLES: dict[str, tuple[Sequence[str], Any]] = {
    "tills": (("day", "till", "sales"), tills),
    "hotels": (("month", "hotel", "line", "version", "amount"), partial(hotels, ENTITIES[:4])),
    "group": (("month", "hotel", "line", "version", "amount"), partial(hotels, ENTITIES)),
    "products": (SIDES, products),
    "pair": (("month", "sales"), [("2025-02-01", 48_210), ("2025-03-01", 52_977)]),
    "quarter": (
        ("month", "sales"),
        [(f"{y}-{m:02}-01", 40_000 + 977 * m * (y - 2020)) for y in (2024, 2025) for m in (1, 2, 3)],
    ),
    "production": (("year", "tonnes"), production),
    "occupancy": (("month", "hotel", "occupancy"), occupancy),
    "staff": (("month end", "department", "people"), staff),
    "loss": (
        ("line", "Budget", "Actual"),
        [
            ("Sales", 9_140, 7_020),
            ("Materials", -4_120, -4_650),
            ("Gross profit", 5_020, 2_370),
            ("Wages", -3_950, -4_410),
            ("Rent", -880, -880),
            ("Operating profit", 190, -2_920),
        ],
    ),
    "tiny": (
        SIDES,
        [("Sale of a building", 0, 4_100_000), ("Dues", 1_204, 1_209), ("Postage", 377, 350), ("Coffee", 88, 88)],
    ),
    "arabic": (
        SIDES,
        [("إيرادات الغرف", 81_200, 84_950), ("المطعم", 31_400, 28_120), ("الطاقة والمياه", 12_050, 14_300)],
    ),
}
YEARS = "--current 2025 --base 2024"
HOTELS = "--by line --for 2025 --of Actual"
CALLS: dict[str, str] = {
    "statement months": "statement months.csv --every month",
    "statement costs negative": "statement costs-negative.csv",
    "statement two entities": "statement two-entities.csv",
    "statement years": "statement years.csv --for 2025 --versus year-ago",
    "statement hotels": "statement hotels.csv --statement hotels.toml --for 2025-09 --for 2025 --versus Budget --versus year-ago",
    "statement hotels by month": "statement hotels.csv --statement hotels.toml --every month --for 2025",
    "walk costs positive": "waterfall costs-positive.csv",
    "walk thousands": "waterfall thousands.csv",
    "walk german": "waterfall german.csv",
    "walk loss": "waterfall loss.csv",
    "walk totals above": "waterfall totals-above.csv --signs unsigned",
    "walk hotels": "waterfall hotels.csv --statement hotels.toml --for 2025 --versus Budget",
    "walk hotels kept": "waterfall hotels.csv --statement hotels.toml --for 2025 --versus year-ago --keep top:8",
    "walk in panels": "waterfall hotels.csv --statement hotels.toml --for 2025 --versus Budget --panels-by hotel",
    "walk in panels, own scale": "waterfall hotels.csv --statement hotels.toml --for 2025 --panels-by hotel --own-scale",
    "list headcount": "waterfall headcount.csv",
    "list cash flow": "waterfall cash-flow.csv --current 2025 --base 2024",
    "waterfall products": f"waterfall products.csv {YEARS} --order change",
    "waterfall tiny": f"waterfall tiny.csv {YEARS}",
    "waterfall by month": "waterfall tills.csv --every month --for 2025",
    "shift products": f"shift products.csv {YEARS}",
    "shift arabic": f"shift arabic.csv {YEARS}",
    "shift days": "shift tills.csv --by till --for 2025-01-01/2025-12-14 --versus year-ago",
    "against departments": "against departments.csv --by Department --better down",
    "against products": f"against products.csv {YEARS} --arrows --order current",
    "against upright": f"against products.csv {YEARS} --upright --paint change --style red-green",
    "against months": "against tills.csv --every month --for 2025 --versus year-ago",
    "paired one": "paired pair.csv --for 2025-03 --versus 2025-02",
    "paired three": "paired quarter.csv --for 2025-Q1 --versus year-ago",
    "paired staff": "paired staff.csv --by department --total-as closing --for 2025 --versus year-ago --better down",
    "trend months": "trend tills.csv --every month --for 2025 --versus year-ago",
    "trend prior": "trend production.csv --for 1954/1960 --versus prior --show current,change",
    "trend per cent": "trend occupancy.csv --where hotel=Alder --total-as mean --for 2025 --versus year-ago",
    "trend panels": "trend group.csv --where 'line=Room sales' --panels-by hotel --for 2025 --versus Budget",
    "variance days": "variance tills.csv --every day --for 2025 --versus year-ago --match weekday --order given",
    "variance years": "variance production.csv --for 1955/1960 --versus 1949/1954",
    "variance all labels": "variance tills.csv --every week --for 2025-W01/2025-W40 --versus year-ago --labels all",
    "variance per cent": f"variance products.csv {YEARS} --plot percent",
    "panels of entities": "variance group.csv --where 'line=Energy,Repairs,Linen' --by line --panels-by hotel --for 2025 --versus Budget --better down",
    "paired panels": "paired group.csv --where 'line=Energy' --panels-by hotel --every quarter --for 2025 --versus year-ago --better down",
}


def write_tables(folder: Path) -> None:
    """All tables of the calls, and a statement of the hotels' lines, into a folder."""
    for sheet in SHEETS.glob("*.csv"):
        shutil.copy(sheet, folder)
    for name, (headings, rows) in TABLES.items():
        with (folder / f"{name}.csv").open("w", newline="", encoding="utf-8") as file:
            csv.writer(file).writerows([headings, *(rows() if callable(rows) else rows)])
    (folder / "hotels.toml").write_text(_statement(), encoding="utf-8")


def _statement() -> str:
    """Income, what is bought and paid to agents, a margin, running costs, and two profits."""
    parts = ['[statement]\nname = "Profit and loss"\nincome_sign = "positive"\ncost_sign = "positive"\n']
    names = [line for line, _, _ in LINES]

    def line(label: str, key: str, value: object, kind: str = "") -> None:
        said = f'kind = "{kind}"\n' if kind else ""
        parts.append(f'[[line]]\nlabel = "{label}"\n{key} = {value}\n{said}'.replace("['", '["').replace("']", '"]'))

    for place, (label, is_cost, _) in enumerate(LINES):
        line(label, "accounts", f'["{label}"]', "cost" if is_cost else "income")
        if place == 9:
            line("Gross margin", "total_of", _list(names[:10]))
            line("Gross margin %", "ratio_of", _list(["Gross margin", "Room sales"]))
        if place == 17:
            line("Operating profit", "total_of", _list(["Gross margin", *names[10:18]]))
    line("Profit before tax", "total_of", _list(["Operating profit", "Interest"]))
    return "\n".join(parts)


def _list(names: Sequence[str]) -> str:
    return "[" + ", ".join(f'"{name}"' for name in names) + "]"
