"""Periods that headings and columns say in words: what each is read as, and what is no period and stops the call."""

from __future__ import annotations

from datetime import datetime

import pytest
import xlsxwriter

from conftest import Desk

READ = {  # two headings, and from when to when the later is
    "First quarter 2025|First quarter 2026": ("2026-01-01", "2026-03-31"),
    "3rd quarter of 2025|3rd quarter of 2026": ("2026-07-01", "2026-09-30"),
    "Qtr 2, 2025|Qtr 2, 2026": ("2026-04-01", "2026-06-30"),
    "2. Quartal 2025|2. Quartal 2026": ("2026-04-01", "2026-06-30"),
    "4T25|4T26": ("2026-10-01", "2026-12-31"),
    "1. Halbjahr 2025|1. Halbjahr 2026": ("2026-01-01", "2026-06-30"),
    "Jul-Dec 2025|Jul-Dec 2026": ("2026-07-01", "2026-12-31"),
    "1 April to 30 June 2025|1 April to 30 June 2026": ("2026-04-01", "2026-06-30"),
    "CY2025|CY2026": ("2026-01-01", "2026-12-31"),
    "2025M4|2026M4": ("2026-04-01", "2026-04-30"),
    "2025年4月|2026年4月": ("2026-04-01", "2026-04-30"),
    "Jänner 2025|Jänner 2026": ("2026-01-01", "2026-01-31"),
    "sty 2025|sty 2026": ("2026-01-01", "2026-01-31"),
    "Six months ended 30 June 2025|Six months ended 30 June 2026": ("2026-01-01", "2026-06-30"),
    "Quarter ended 30.09.2025|Quarter ended 30.09.2026": ("2026-07-01", "2026-09-30"),
    "Year ended 31 December 2025|Year ended 31 December 2026": ("2026-01-01", "2026-12-31"),
}


@pytest.mark.parametrize("headings", READ)
def test_a_period_in_words_is_one(desk: Desk, headings: str) -> None:
    before, now = headings.split("|")
    desk.write("w.csv", [("Fares", 10, 14), ("Freight", 5, 8)], ("Line", before, now))
    desk.write("l.csv", [(before, "Fares", 10), (now, "Fares", 14), (now, "Freight", 8)], ("Period", "Line", "Net"))
    for source, base in (("w.csv", 15), ("l.csv", 10)):
        found = desk.figures("table", source, "--by", "Line")
        assert (found["current"]["from"], found["current"]["to"]) == READ[headings]
        assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (22, base)


@pytest.mark.parametrize(
    "now", ["Year ended 31 March 2026", "YE 31/03/2026", "FYE Mar 26", "12 months to 31 Mar 2026"]
)
def test_a_year_that_ends_in_another_month_is_one_of_a_calendar_that_has_it(desk: Desk, now: str) -> None:
    before = now.replace("26", "25")
    desk.write("w.csv", [("Fares", 14, 10), ("Freight", 8, 5)], ("Line", now, before))
    assert "--year-starts april" in desk.refused("table", "w.csv")
    found = desk.figures("table", "w.csv", "--year-starts", "april")
    assert (found["current"]["label"], found["current"]["from"]) == ("FY2026", "2025-04-01")
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (22, 15)


@pytest.mark.parametrize(
    ("headings", "mend"),
    [
        ("3M 2025|6M 2025|3M 2026|6M 2026", "--amount '6M 2025,6M 2026'"),
        ("52 weeks ended 28 March 2026|52 weeks ended 29 March 2025", "--base '52 weeks ended 29 March 2025'"),
        ("Period to 31 Oct 2026|Period to 31 Oct 2025", "--base 'Period to 31 Oct 2025'"),
        ("2026 Q1 to Q3|2025 Q1 to Q3", "--base '2025 Q1 to Q3'"),
        ("Nine months ended 30 Sep 2026|Nine months ended 30 Sep 2025", "--base 'Nine months ended 30 Sep 2025'"),
    ],
)
def test_what_holds_several_months_is_no_period(desk: Desk, headings: str, mend: str) -> None:
    names = headings.split("|")
    rows = [
        (line, *(first + place for place in range(len(names)))) for line, first in (("Fares", 10), ("Freight", 5))
    ]
    desk.write("w.csv", rows, ("Line", *names))
    assert mend in desk.refused("table", "w.csv")


@pytest.mark.parametrize("texts", ["YTD Jan 2026|YTD Feb 2026", "9M25|9M26", "LTM Jan 2026|LTM Feb 2026"])
def test_rows_that_hold_one_another_are_not_added_up(desk: Desk, texts: str) -> None:
    rows = [(text, line, 5) for text in texts.split("|") for line in ("Fares", "Freight")]
    desk.write("l.csv", [*rows, (texts.split("|")[0], "Mail", 7)], ("Period", "Line", "Net"))
    last = texts.split("|")[1]
    assert "holds several months" in desk.refused("table", "l.csv", "--by", "Line")
    found = desk.figures("table", "l.csv", "--by", "Line", "--where", f"Period={last}")
    assert found["points"][-1]["current"] == 10


def test_files_that_run_to_date_by_their_names_are_not_added_up(desk: Desk) -> None:
    for kind, status in (("ytd", 2), ("sales", 0)):
        for month, amount in ((1, 3), (2, 9)):
            desk.write(f"{kind}_2026-{month:02}.csv", [("Fares", amount), ("Mail", 1)], ("Line", "Net"))
        done = desk.run("table", f"glob:{kind}_*.csv", "--by", "Line")
        assert done.status == status and (status == 0 or "runs to date by its title or its name" in done.err)


def test_dates_that_are_one_a_year_are_told(desk: Desk) -> None:
    desk.write("w.csv", [("Fares", 14, 10), ("Freight", 8, 5)], ("Line", "31 March 2026", "31 March 2025"))
    told = "31 March of each year is taken for the quarter that ends on it"
    assert told in " ".join(desk.figures("table", "w.csv")["cautions"])
    found = desk.figures("table", "w.csv", "--year-starts", "april")
    assert found["current"]["label"] == "FY2026" and not any("31 March" in one for one in found["cautions"])


@pytest.mark.parametrize(
    ("days", "form", "label"),
    [
        (("2026-10-01", "2025-10-01"), "mmm-yy", "Oct 2026"),  # and no quarters
        (("2026-01-01", "2025-01-01"), "mmm yyyy", "Jan 2026"),  # and no years
        (("2026-03-31", "2025-03-31"), "mmmm", "Mar 2026"),
        (("2026-01-01", "2025-01-01"), "yyyy", "2026"),
        (("2026-10-01", "2025-10-01"), "dd/mm/yyyy", "Q4 2026"),
    ],
)
def test_a_date_of_a_workbook_is_of_what_its_cell_shows(
    desk: Desk, days: tuple[str, str], form: str, label: str
) -> None:
    with xlsxwriter.Workbook(str(desk.folder / "m.xlsx")) as book:
        wide, long = book.add_worksheet("wide"), book.add_worksheet("long")
        shown = book.add_format({"num_format": form})
        wide.write_row(0, 0, ("Line",))
        long.write_row(0, 0, ("Date", "Line", "Net"))
        for place, day in enumerate(map(datetime.fromisoformat, days)):
            wide.write_datetime(0, 1 + place, day, shown)
            for row, line in enumerate(("Fares", "Freight")):
                wide.write(1 + row, 0, line)
                wide.write(1 + row, 1 + place, 10 + row + place)
                long.write_datetime(1 + 2 * place + row, 0, day, shown)
                long.write_row(1 + 2 * place + row, 1, (line, 10 + row + place))
    for sheet in ("wide", "long"):
        found = desk.figures("table", "m.xlsx", "--sheet", sheet, "--by", "Line")
        assert found["current"]["label"] == label
        assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (21, 23)


@pytest.mark.parametrize("span", ["Jan-Oct {}", "Jan to Oct {}", "January - October {}", "YTD Oct {}", "{} Jan-Oct"])
def test_months_from_january_on_are_the_year_so_far(desk: Desk, span: str) -> None:
    now, before = span.format(2026), span.format(2025)
    desk.write("w.csv", [("Fares", 14, 10), ("Freight", 8, 5)], ("Line", now, before))
    desk.write("b.csv", [("Fares", 14, 10), ("Freight", 8, 5)], ("Line", f"{now} Actual", f"{now} Budget"))
    for source in ("w.csv", "b.csv"):
        found = desk.figures("table", source, "--by", "Line")
        assert (found["current"]["from"], found["current"]["to"]) == ("2026-01-01", "2026-10-31")
        assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (22, 15)
        assert not any("no rows in" in one or "partly filled" in one for one in found["cautions"])
        assert "--for year-to-date" in desk.refused("table", source, "--by", "Line", "--for", "2026-10")
    desk.write("x.csv", [("Fares", "9x", 10), ("Freight", 8, 5)], ("Line", now, before))
    assert "'9x' is not a figure" in desk.refused("table", "x.csv")
    # October's holds September's.
    earlier = now.replace("October", "September").replace("Oct", "Sep")
    desk.write("t.csv", [("Fares", 10, 14), ("Freight", 5, 8)], ("Line", earlier, now))
    assert "runs to date" in desk.refused("table", "t.csv")


def test_a_week_of_two_years_is_no_year_so_far(desk: Desk) -> None:
    desk.write("w.csv", [("Fares", 14, 10), ("Freight", 8, 5)], ("Line", "2026-W41", "2025-W41"))
    found = desk.figures("table", "w.csv")
    assert (found["current"]["from"], found["current"]["to"]) == ("2026-10-05", "2026-10-11")
    assert (found["base"]["from"], found["base"]["to"]) == ("2025-10-06", "2025-10-12")
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (22, 15)


def test_months_of_no_period_are_asked_about(desk: Desk) -> None:
    desk.write("m.csv", [("Fares", 1, 2), ("Freight", 3, 5)], ("Line", "May-Aug 2026", "May-Aug 2025"))
    assert "--current 'May-Aug 2026' --base 'May-Aug 2025'" in desk.refused("table", "m.csv")
    total = desk.figures("table", "m.csv", "--current", "May-Aug 2026", "--base", "May-Aug 2025")["points"][-1]
    assert (total["current"], total["base"]) == (4, 7)


@pytest.mark.parametrize(
    ("title", "told"),
    [
        ("For the six months ended 30 September 2026", "six months ended 30 September 2026"),
        ("Profit and loss, January to October 2026", "January to October 2026"),
        ("Year ended 31 March", "Year ended 31 March"),
        ("For the year ended 31 December 2026", ""),
        ("Profit and loss 2026", ""),
    ],
)
def test_what_a_title_says_of_years_is_told(desk: Desk, title: str, told: str) -> None:
    desk.write("y.csv", [("", "2026", "2025"), ("Fares", 14, 10), ("Freight", 8, 5)], (title, "", ""))
    found = desk.figures("table", "y.csv")
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (22, 15)
    said = [one for one in found["cautions"] if "the title says" in one]
    assert (f"'{told}'" in said[0]) if told else not said
