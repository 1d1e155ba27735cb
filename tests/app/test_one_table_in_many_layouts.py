"""One table of lines, months and sides, written in every layout that people keep it in: always the same figures."""

from __future__ import annotations

import calendar
import csv
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label

NAMES = ("Fares", "Cargo", "Galley sales", "Parking", "Post", "Bar & shop", 'Café "Mole"', "Lockers, North")
SIDES = ("Actual", "Budget")
Rows = list[list[Any]]


class Case:
    """Amounts by line, month and side: months that run on from one, in one year or over two."""

    def __init__(self, names: list[str], first: int, count: int, amounts: list[int]) -> None:
        self.names = names
        self.months = [(2025 + (first + at) // 12, (first + at) % 12 + 1) for at in range(count)]
        keys = [(name, month, side) for name in names for month in self.months for side in SIDES]
        self.amounts = dict(zip(keys, amounts, strict=False))
        self.labels = [f"{calendar.month_abbr[month]} {year}" for year, month in self.months]

    def row(self, name: str, side: str) -> list[Any]:
        return [self.amounts[name, month, side] for month in self.months]

    def block(self, side: str) -> Rows:
        return [[name, *self.row(name, side)] for name in self.names]

    def total(self, side: str) -> list[Any]:
        return [
            "Total",
            *(sum(figures) for figures in zip(*(self.row(name, side) for name in self.names), strict=True)),
        ]


def long(case: Case) -> Rows:
    return [["Month", "Line", *SIDES], *([label, name, *(case.amounts[name, month, side] for side in SIDES)]
            for label, month in zip(case.labels, case.months, strict=True) for name in case.names)]  # fmt: skip


def beside(case: Case) -> Rows:
    rows = [[name, side, *case.row(name, side)] for name in case.names for side in SIDES]
    return [["Line", "Scenario", *case.labels], *rows]


def month_ends(case: Case) -> Rows:
    ends = [f"{calendar.monthrange(year, month)[1]:02}/{month:02}/{year}" for year, month in case.months]
    return [["Line", "Scenario", *ends], *beside(case)[1:]]


def said_once(case: Case) -> Rows:
    return [[name if side != "Budget" else "", side, *rest] for name, side, *rest in beside(case)]


def stacked(case: Case) -> Rows:
    blocks = ([[side], ["Line", *case.labels], *case.block(side), case.total(side), []] for side in SIDES)
    return [row for block in blocks for row in block]


def sections(case: Case) -> Rows:
    return [
        ["Ostrey Sound Ferries"],
        [],
        ["Line", *case.labels],
        *(row for side in SIDES for row in ([side], *case.block(side))),
    ]


def merged(case: Case) -> Rows:
    tops = [cell for label in case.labels for cell in (label, "", "")]
    rows = [[name, *(cell for pair in zip(*(case.row(name, side) for side in SIDES), strict=True)
            for cell in (*pair, pair[0] - pair[1]))] for name in case.names]  # fmt: skip
    return [["", *tops], ["Line", *[*SIDES, "Variance"] * len(case.labels)], *rows]


def side_by_side(case: Case) -> Rows:
    tops = [cell for side in SIDES for cell in (side, *[""] * len(case.labels))]
    rows = [[name, *(cell for side in SIDES for cell in (*case.row(name, side), sum(case.row(name, side))))]
            for name in case.names]  # fmt: skip
    return [["", *tops], ["Line", *[*case.labels, "Total"] * 2], *rows]


def month_by_month(case: Case) -> Rows:
    rows: Rows = []
    for label, month in zip(case.labels, case.months, strict=True):
        rows += [[label], ["Line", *SIDES]]
        rows += [[name, *(case.amounts[name, month, side] for side in SIDES)] for name in case.names]
    return rows


LAYOUTS = (long, beside, month_ends, said_once, stacked, sections, merged, side_by_side, month_by_month)


@pytest.mark.parametrize("layout", LAYOUTS)
@settings(max_examples=6)
@given(data=st.data())
def test_a_layout_changes_no_figure(desk: Desk, layout: Callable[[Case], Rows], data: st.DataObject) -> None:
    names = data.draw(st.lists(st.sampled_from(NAMES), min_size=2, max_size=5, unique=True))
    first, count = data.draw(st.integers(0, 11)), data.draw(st.integers(2, 14))
    size = 2 * len(names) * count
    case = Case(names, first, count, data.draw(st.lists(st.integers(100, 10**6), min_size=size, max_size=size)))
    rows, source = layout(case), ["t.csv"]
    has_names = "" not in rows[0] and len({len(row) for row in rows}) == 1
    if (place := data.draw(st.sampled_from(["csv", "parquet", "sqlite"]))) != "csv" and has_names:
        source = desk.keep(place, rows[1:], rows[0])
    else:
        with Path(desk.folder / "t.csv").open("w", newline="", encoding="utf-8") as file:
            csv.writer(file).writerows(rows)
    month = data.draw(st.sampled_from(case.months))
    words = ("--by", "Line", "--for", f"{month[0]}-{month[1]:02}", "--of", "Actual", "--versus", "Budget")
    found = by_label(desk.figures("table", *source, *words))
    wanted = {name: tuple(case.amounts[name, month, side] for side in SIDES) for name in names}
    wanted["Total"] = tuple(sum(one[place] for one in wanted.values()) for place in (0, 1))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == wanted
