"""The next month's file of a pack: what is held against the last edition, and what is told where that cannot be."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence

import pytest
import xlsxwriter

from conftest import Desk, by_label

HEAD = ("month", "item", "scenario", "net")
LEDGER = [
    (f"{year}-{month:02}", item, scenario, amount + 10 * (year - 2024) + month)
    for year in (2025, 2026)
    for month in range(1, 12)
    for item, amount in (("Fares", 500), ("Freight", 190))
    for scenario in ("Actual", "Budget")
]
OCTOBER = [row for row in LEDGER if row[0] != "2026-11" or row[2] == "Budget"]
LINES = {"Fares": 5174, "Freight": 1903, "Revenue": 7077, "Fuel": 2177, "Crew": 2716, "Costs": 4893, "Result": 2184}


def pack(desk: Desk, file: str, more: str = "") -> None:
    text = f'[pack]\nrestated = "fails"\n{more}\n[source]\nfile = "{file}"\n[[view]]\ndraw = "table"\nname = "t"\n'
    (desk.folder / "p.toml").write_text(text)


def sheet(
    desk: Desk, title: str, factor: int = 1, lines: Mapping[str, int] = LINES, above: Sequence[str] = ()
) -> None:
    with xlsxwriter.Workbook(str(desk.folder / "s.xlsx")) as book:
        page = book.add_worksheet(title)
        rows = [(one,) for one in above] + [("Line", "Actual", "Budget")]
        rows += [(name, factor * amount, (factor + 1) * amount) for name, amount in lines.items()]
        for place, row in enumerate(rows):
            page.write_row(place, 0, row)


def test_a_scenario_in_another_form_is_the_same(desk: Desk) -> None:
    desk.write("l.csv", OCTOBER, HEAD)
    pack(desk, "l.csv", 'for = "latest:month"\nby = "item"')
    assert "froze the edition 2026-10" in desk.run("pack", "p.toml", "--issue").err
    renamed = [(*row[:2], row[2].replace("Actual", "ACT"), row[3]) for row in LEDGER]
    desk.write("l.csv", renamed, HEAD)
    done = desk.run("pack", "p.toml")
    assert done.status == 0 and "2026-11: made 1 view" in done.err and "restated" not in done.err
    late = [(*row[:3], row[3] + (row[:3] == ("2026-10", "Fares", "ACT"))) for row in renamed]
    desk.write("l.csv", late, HEAD)
    done = desk.run("pack", "p.toml")
    # 500 + 20 + 10 in October 2026, and 1 more.
    assert done.status == 1 and "Fares, Oct 2026, was 530, is 531 (+1)" in done.err


def test_months_that_an_extract_no_longer_holds_were_not_restated(desk: Desk) -> None:
    desk.write("l.csv", [row for row in OCTOBER if row[0] >= "2025-05"], HEAD)
    pack(desk, "l.csv", 'for = "year-to-date"\nby = "item"\nversus = "year-ago"\nfull_base = true')
    assert desk.run("pack", "p.toml", "--issue").status == 0
    # Eighteen months to November are without the May that was in the base of the edition.
    desk.write("l.csv", [row for row in LEDGER if row[0] >= "2025-06"], HEAD)
    done = desk.run("pack", "p.toml")
    assert done.status == 0 and "restated" not in done.err
    edition = "the edition 2026-01-01_2026-10-31"
    assert f"no Actual rows before 1 Jun 2025 any more: {edition} is not compared over Jan–Oct 2025" in done.err
    # One that begins as it did, without its June, has lost rows.
    desk.write("l.csv", [row for row in LEDGER if row[0] >= "2025-05" and row[0] != "2025-06"], HEAD)
    assert desk.run("pack", "p.toml").status == 1
    # Of a scenario that is gone nothing can be told.
    desk.write("l.csv", [(*row[:2], row[2].replace("Actual", "Forecast"), row[3]) for row in LEDGER], HEAD)
    pack(desk, "l.csv", 'for = "2026-10"\nby = "item"\nof = "Forecast"')
    done = desk.run("pack", "p.toml")
    assert done.status == 0
    assert f"{edition} is of Actual, which the source no longer has: that is not compared" in done.err


@pytest.mark.parametrize("above", [(), ("Profit and loss", "{} 2026"), ("For the ten months ended 30 {} 2026", "")])
def test_a_sheet_of_one_month_is_another_edition_each_month(desk: Desk, above: tuple[str, ...]) -> None:
    pack(desk, "s.xlsx")
    for month, factor, edition in (("September", 1, "2026-09"), ("November", 2, "2026-11")):
        title = "PL" if above else f"{month} 2026"
        sheet(desk, title, factor, above=[one.format(month) for one in above])
        done = desk.run("pack", "p.toml", "--issue")
        assert done.status == 0 and f"froze the edition {edition}" in done.err and "restated" not in done.err
    assert "not compared with the edition" not in done.err
    # The same month once more, with other figures.
    sheet(desk, title, 3, above=[one.format(month) for one in above])
    assert desk.run("pack", "p.toml").status == 1


def test_an_edition_that_cannot_be_read_is_named(desk: Desk) -> None:
    desk.write("l.csv", OCTOBER, HEAD)
    pack(desk, "l.csv", 'for = "latest:month"\nby = "item"')
    desk.run("pack", "p.toml", "--issue")
    (desk.folder / "p/editions/2026-10/t.json").write_text("{}")
    told = desk.run("pack", "p.toml")
    assert told.status == 2 and "t.json of the edition 2026-10 is not the figures of a view" in told.err


def test_a_sheet_that_says_no_period_is_told_to_be_of_another(desk: Desk) -> None:
    pack(desk, "s.xlsx")
    sheet(desk, "PL")
    assert "froze the edition all" in desk.run("pack", "p.toml", "--issue").err
    sheet(desk, "PL", 2)
    assert "no figure is as in the edition all, as if it were of another period" in desk.run("pack", "p.toml").err


def test_lines_that_are_others_than_before_are_told(desk: Desk) -> None:
    pack(desk, "s.xlsx")
    sheet(desk, "PL")
    desk.run("pack", "p.toml", "--issue")
    with_more = {**LINES, "Tax": 546, "Net result": 1638}
    with_more = {"Bunkers" if name == "Fuel" else name: amount for name, amount in with_more.items()}
    sheet(desk, "PL", lines=with_more)
    told = desk.run("pack", "p.toml").err
    assert "Bunkers has just the figures that Fuel has in the edition all" in told
    assert "Tax, Net result are new; the result is Net result, and was Result" in told
    page = (desk.folder / "p/index.html").read_text()
    assert (
        page.count("Bunkers has just the figures that Fuel has in the edition all, as if it were the same.</p>") == 1
    )
    assert "Fuel was 2,177, is nothing" in page


def test_figures_are_others_where_something_else_is_asked(desk: Desk) -> None:
    desk.write("l.csv", OCTOBER, HEAD)
    pack(desk, "l.csv", 'for = "latest:month"\nby = "item"\nversus = "Budget"')
    desk.run("pack", "p.toml", "--issue")
    pack(desk, "l.csv", 'for = "latest:month"\nby = "item"\nversus = "Budget"\nwhere = "item=Fares"')
    done = desk.run("pack", "p.toml")
    assert (
        "what is asked is not as in the edition 2026-10, which may be why its figures are others: where" in done.err
    )
    # Against another base the figures are what they were, and its bands have other names.
    pack(desk, "l.csv", 'for = "latest:month"\nby = "item"\nversus = "year-ago"')
    done = desk.run("pack", "p.toml")
    assert done.status == 0 and "edition" not in done.err


def test_a_pack_begins_with_the_base_and_the_columns_that_it_took(desk: Desk) -> None:
    desk.write("l.csv", OCTOBER, HEAD)
    assert desk.run("begin", "l.csv", "-o", "b.toml").status == 0
    assert desk.run("pack", "b.toml").status == 0
    read = (desk.folder / "b/figures/table.json").read_text()
    # A month later there are a forecast, the day of entry and a gross amount, too: neither takes a part in it.
    more = [*OCTOBER, *((*row[:2], "Forecast", row[3] + 1) for row in OCTOBER if row[2] == "Budget")]
    wide = [("2026-11-03", *row, 2 * row[3]) for row in more]
    desk.write("l.csv", wide, ("entered", *HEAD, "amount"))
    assert desk.run("pack", "b.toml").status == 0
    assert by_label(json.loads((desk.folder / "b/figures/table.json").read_text())) == by_label(json.loads(read))
