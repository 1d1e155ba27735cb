"""What a reader is told, and the files that a table leaves: names, signs, sentences, spreadsheets."""

from __future__ import annotations

import csv
import re
import zipfile
from decimal import Decimal
from pathlib import Path

import pytest
from python_calamine import CalamineWorkbook

from conftest import Desk, by_label, typed
from realistic import write_tables

HOTELS = ("hotels.csv", "--statement", "hotels.toml", "--for", "2025")
TOLD: dict[str, tuple[str, ...]] = {
    "a statement against budget": (*HOTELS, "--versus", "Budget"),
    "a statement against last year": (*HOTELS, "--versus", "year-ago"),
    "a found statement": ("costs-positive.csv",),
    "a sheet in thousands": ("thousands.csv",),
    "a till": ("tills.csv", "--by", "till", "--for", "2025", "--versus", "year-ago"),
    "years": ("production.csv", "--for", "1954/1960", "--every", "year", "--versus", "year-ago"),
    "products": ("products.csv", "--current", "2025", "--base", "2024"),
    "entities": (
        *typed("group.csv --by hotel --then-by line --where"),
        "line=Room sales,Restaurant,Bar",
        *typed("--for 2025 --of Actual --versus Budget"),
    ),
}


@pytest.fixture(scope="module")
def shop(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    folder = tmp_path_factory.mktemp("told")
    write_tables(folder)
    return Desk(folder)


@pytest.mark.parametrize("name", TOLD)
def test_a_commentary_can_be_read_aloud(shop: Desk, name: str) -> None:
    done = shop.run("commentary", *TOLD[name], "-o", "c.json")
    assert done.status == 0, done.err
    text = " ".join(done.out.split())
    # An abbreviation or a decimal point ends no sentence; a full stop before a capital does.
    told = re.split(r"(?<=[a-z)\d%])\. (?=[A-Z])", text.partition(" Source:")[0])
    assert max(len(one.split()) for one in told) <= 25, max(told, key=lambda one: len(one.split()))
    assert not re.search(r"\b(?:caution: .*(?:column|took|read)|n/a|None|wages was|costs was|sales was)\b", text)
    assert "last year" not in text or "year-ago" in TOLD[name]


def test_titles_name_what_led_the_way_that_the_whole_went(shop: Desk) -> None:
    # Surplus 1,365 against 1,730. Room hire +245 moved most, but upward; of what lowered it energy did most: 610 − 395.
    done = shop.run("commentary", "costs-positive.csv")
    assert done.out.startswith("Surplus 1,365, 365 below prior year (−21.1%), led by Energy, 215 over (54.4%).")
    figures = shop.figures("draw", "waterfall", "costs-positive.csv", "-o", "w.svg")
    energy = by_label(figures)["Energy"]
    assert (energy["effect"], energy["start"] - energy["end"]) == (-215, 215)
    svg = (shop.folder / "w.svg").read_text()
    # One sign in the title, at the bar and in its sentence; the table's Change stays current − base.
    assert ">−215</text>" in svg and "Energy: 610 against 395, 215 over (54.4%), Adverse</title>" in svg
    shop.run("draw", "variance", "costs-positive.csv", "-o", "v.svg")
    assert ">−215</text>" in (shop.folder / "v.svg").read_text()
    assert shop.run("table", "costs-positive.csv", "-o", "t.csv").status == 0
    assert "Energy,610,395,215,0.544304,Adverse" in (shop.folder / "t.csv").read_text("utf-8-sig")


def test_amounts_are_called_by_their_measure_their_heading_and_what_they_were_narrowed_to(desk: Desk) -> None:
    rows = [
        (f"{year}-01-0{day}", what, 50 * day + year % 7)
        for year in (2025, 2026)
        for day, what in ((5, "Drinks"), (6, "Food"))
    ]
    desk.write("s.csv", rows, ("day", "till", "Sales (EUR)"))
    words = ("commentary", "s.csv", "--by", "till", "--for", "2026", "--versus", "year-ago")
    assert desk.run(*words).out.startswith("Sales 556,")
    one = desk.run(*words, "--where", "till=Drinks").out
    assert one.startswith("Sales, Drinks, 253,") and "2 of 4 rows (only Drinks)" in one
    assert "2 of 4 rows (without Drinks)" in desk.run(*words, "--where", "till!=Drinks").out
    assert desk.run(*words, "--measure", "Takings", "--title", "{finding}: fine").out.startswith(
        "Takings 556, 2 above"
    )
    assert desk.run(*words, "--total-as", "distinct:till").out.startswith("Tills 2,")
    desk.write("n.csv", [("2026", "Retail", 41.2), ("2025", "Retail", 39.9)], ("year", "segment", "Revenue m"))
    done = desk.run("table", "n.csv", "--by", "segment", "--for", "2026", "--versus", "year-ago")
    assert done.out.startswith("Revenue 41.2m, 1.3m above last year (+3.3%)") and "in millions" in done.out


def test_words_of_time_are_true_of_their_windows(shop: Desk) -> None:
    years = shop.run(
        "commentary", "production.csv", "--for", "1954/1960", "--every", "year", "--versus", "year-ago"
    ).out
    # 91,589 tonnes in 1954 to 1960, 85,481 in 1953 to 1959.
    assert years.startswith("Tonnes 91,589, 6,108 above the year before in each year (+7.1%)")
    assert "1959 was 1,878 above the year before (" in years
    pair = shop.run("table", "pair.csv", "--for", "2025-03", "--every", "month", "--versus", "prior").out
    assert "Mar 2025 against Feb 2025" in pair and "Month before" not in pair
    days = shop.run(
        "table", "tills.csv", "--for", "2025-06", "--every", "day", "--match", "weekday", "--versus", "year-ago"
    ).out
    assert "days matched by weekday" in days


def test_a_table_is_a_workbook_with_live_figures_and_a_spreadsheets_text(desk: Desk) -> None:
    rows = [("=1+1", "70.25", "60"), ("@Café | bar\n<b>", "30", "40"), ("Gone", "", "5")]
    desk.write("t.csv", rows, ("item", "now", "then"))
    words = ("table", "t.csv", "--current", "now", "--base", "then")
    done = desk.run(*words, "-o", "t.xlsx", "-o", "t.md", "-o", "out.csv", "--figures", "f.csv")
    assert done.status == 0, done.err
    cells = CalamineWorkbook.from_path(str(desk.folder / "t.xlsx")).get_sheet_by_index(0).to_python()
    assert cells[3][1:] == ["now", "then", "Change", "Change %", "Band"]
    assert cells[4][:4] == ["=1+1", 70.25, 60, 10.25] and cells[6][:3] == ["Gone", "n/a", 5]
    assert cells[7][:4] == ["Total", 100.25, 105, -4.75]
    sheet = zipfile.ZipFile(desk.folder / "t.xlsx").read("xl/worksheets/sheet1.xml").decode()
    formulas = dict(re.findall(r'<c r="(\w+)"[^>]*><f>([^<]*)</f>', sheet))
    assert (formulas["D5"], formulas["B8"], formulas["D8"]) == ("B5-C5", "SUM(B5:B7)", "B8-C8")
    assert "D7" not in formulas  # what has ended has no change
    first = (desk.folder / "t.xlsx").read_bytes()
    desk.run(*words, "-o", "t.xlsx")
    assert (desk.folder / "t.xlsx").read_bytes() == first
    raw = (desk.folder / "out.csv").read_bytes()
    spread = list(csv.reader(raw.decode("utf-8-sig").splitlines()))
    assert raw.startswith(b"\xef\xbb\xbf") and [row[0] for row in spread[1:3]] == ["'=1+1", "'@Café | bar <b>"]
    with (desk.folder / "f.csv").open(newline="", encoding="utf-8") as file:
        assert next(csv.DictReader(file))["label"] == "=1+1"  # for programs
    lines = (desk.folder / "t.md").read_text().splitlines()
    assert "| @Café \\| bar &lt;b> | 30 | 40 | −10 | −25.0% | ▼ Below then |" in lines


def test_a_statements_totals_are_formulas_of_their_lines(shop: Desk) -> None:
    assert shop.run("table", "costs-negative.csv", "-o", "s.xlsx").status == 0
    sheet = zipfile.ZipFile(shop.folder / "s.xlsx").read("xl/worksheets/sheet1.xml").decode()
    formulas = dict(re.findall(r'<c r="(\w+)"[^>]*><f>([^<]*)</f>', sheet))
    # Shop sales, online sales, goods sold; gross margin. Then people, premises; operating profit; interest; the result.
    assert formulas["B8"] == "SUM(B5:B6)-SUM(B7)" and formulas["B11"] == "SUM(B8)-SUM(B9:B10)"
    assert formulas["B13"] == "SUM(B11)-SUM(B12)"


def test_a_walk_gathers_small_lines_and_names_its_bars(shop: Desk) -> None:
    words = ("draw", "waterfall", *HOTELS, "--versus", "Budget", "-o", "k.svg")
    whole = {p["label"]: p for p in shop.figures(*words)["points"] if p["kind"] == "step"}
    kept = shop.figures(
        *words,
        *typed("--keep top:4 --opening-name"),
        "As planned",
        "--subtotal-after",
        "Other costs (10): So far",
        "--inside",
    )
    points = by_label(kept)
    largest = sorted(whole, key=lambda label: -abs(whole[label]["effect"]))[:4]
    others = [label for label in points if label.startswith("Other ") and label not in whole]
    assert set(largest) <= set(points) and len(others) == 2
    for label in others:
        rest = [
            one for one in whole.values() if one["label"] not in largest and (one["tone"], 0) and _is_of(label, one)
        ]
        assert points[label]["change"] == sum(one["change"] for one in rest)
        assert label.endswith(f"({len(rest)})")
    assert kept["points"][0]["label"] == "As planned" and points["So far"]["kind"] == "subtotal"
    assert "--keep gathers changes" in shop.refused(
        *words[:5], "--for", "2025", "--versus", "none", "--keep", "top:3", "-o", "n.png"
    )
    # An axis that begins below zero is read, though it begins with a minus.
    assert shop.run("draw", "waterfall", "loss.csv", "--axis", "-4000/1000", "-o", "l.png").status == 0


def _is_of(label: str, line: dict[str, Decimal]) -> bool:
    """Whether a line is of the sort that is gathered under a label, by how its effect goes with its change."""
    return (line["effect"] == line["change"]) is label.startswith("Other income")


def test_a_trace_names_every_band_that_was_tried(desk: Desk) -> None:
    desk.write("d.csv", [("Fuel", 412, 371)], ("item", "now", "then"))
    bands = ("--band", "High [worse]: change > 12% and change > 10", "--band", "Rest: otherwise")
    words = ("d.csv", "--current", "now", "--base", "then", "--better", "down", *bands)
    told = desk.run("trace", *words, "--at", "Fuel").out
    # 41 ÷ 371 = 11.05 %, which misses 12 % by 0.95 points; 41 is more than 10.
    assert "asked change > 12% and change > 10: change is 11.05%, misses by 0.95 points; change is 41" in told
    # The colour would turn at 371 × 1.12 = 415.52, 3.52 above where it is.
    done = desk.run("draw", "against", *words, "-o", "a.png")
    assert done.status == 0
    assert (
        "where their colour would turn"
        not in desk.run("draw", "against", *words, "--thresholds", "off", "-o", "a.svg").err
    )
    assert Path(desk.folder / "a.svg").read_text().count("where their colour would turn") == 0


def test_costs_without_a_direction_bring_a_caution(desk: Desk) -> None:
    desk.write("c.csv", [("Rent", 70, 60), ("Wages", 30, 40)], ("item", "now", "then"))
    words = ("table", "c.csv", "--current", "now", "--base", "then")
    done = desk.run(*words)
    assert "look like costs (Rent, Wages), and up was taken as good news" in done.err
    assert "These look like costs (Rent, Wages), and up was taken as good news" in done.out
    assert "good news" not in desk.run(*words, "--better", "down").err
    desk.write("m.csv", [("Fares", 90, 80), ("Freight", 50, 40), ("Fuel", 30, 31)], ("Line", "Actual", "Budget"))
    assert "Fuel looks like a cost, and up was taken as good news for all" in desk.run("table", "m.csv").err
    desk.write("m.csv", [("Fares", 90, 80), ("Freight", 50, 40), ("Fuel", -30, -31)], ("Line", "Actual", "Budget"))
    assert "good news" not in desk.run("table", "m.csv").err
    desk.write("d.csv", [("Rent", -70, -60), ("Wages", -30, -40)], ("item", "now", "then"))
    assert "good news" not in desk.run("table", "d.csv", *words[2:]).err
    # Down would make of more rent good news.
    assert "--source-sign negative" in desk.refused("table", "d.csv", *words[2:], "--better", "down")
    turned = desk.figures("table", "d.csv", *words[2:], "--better", "down", "--source-sign", "negative")
    assert [one["tone"] for one in turned["points"][:2]] == ["worse", "better"]
    assert "with --better down a larger one is good news" in desk.run("table", "m.csv", "--better", "down").err


def test_half_is_not_most_and_a_walk_is_told_from_its_ends(desk: Desk) -> None:
    # Fuel moves by 10: 5 of that in the north, 3 in the south, 2 in the east.
    rows = [("Fuel", "North", 15, 10), ("Fuel", "South", 13, 10), ("Fuel", "East", 12, 10), ("Crew", "North", 6, 6)]
    desk.write("l.csv", rows, ("item", "place", "now", "then"))
    words = ("commentary", "l.csv", "--by", "item", "--then-by", "place", "--current", "now", "--base", "then")
    assert "The largest parts are" not in desk.run(*words).out and "Most of that" in desk.run(*words).out
    desk.write("l.csv", [*rows[:1], ("Fuel", "South", 12, 10), ("Fuel", "East", 12, 11), ("Fuel", "West", 12, 10)],
               ("item", "place", "now", "then"))  # fmt: skip
    # Now by 10 again: 5, 2, 2 and 1; the largest that is a fifth at least, and one more: 5 + 2 = 7 is most.
    assert "Most of that" in desk.run(*words).out
    desk.write(
        "l.csv", [*rows[:1], *(("Fuel", place, 11, 10) for place in "ABCDE")], ("item", "place", "now", "then")
    )
    # By 10: one of 5, five of 1, which are less than a fifth: exactly half is not most.
    assert "The largest part is from North (+5)." in desk.run(*words).out
    desk.write("m.csv", [("Opening", 100), ("Hires", 30), ("Leavers", -10), ("Moves", 5), ("Closing", 125)],
               ("step", "people"))  # fmt: skip
    assert desk.run("draw", "waterfall", "m.csv", "-o", "m.svg").status == 0
    title = (desk.folder / "m.svg").read_text().split("</title>")[0]
    assert "125, 25 above Opening (100), the largest step being Hires (+30)" in title


def test_the_note_on_rounding_is_judged_on_the_tenths_of_a_per_cent_that_are_printed(desk: Desk) -> None:
    # 42.56 % against 45.53 %: printed as 42.6 and 45.5, which differ by 2.9, and −3.0 points (2.97) beside them.
    desk.write("l.csv", [("Fares", 10_000, 10_000), ("Fuel", 5_744, 5_447)], ("item", "now", "then"))
    (desk.folder / "s.toml").write_text(
        '[statement]\nname = "P"\nincome_sign = "positive"\ncost_sign = "positive"\n'
        '[[line]]\nlabel = "Fares"\naccounts = ["Fares"]\nkind = "income"\n'
        '[[line]]\nlabel = "Fuel"\naccounts = ["Fuel"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Margin"\ntotal_of = ["Fares", "Fuel"]\n'
        '[[line]]\nlabel = "Margin %"\nratio_of = ["Margin", "Fares"]\n'
    )
    words = ("table", "l.csv", "--statement", "s.toml", "--account", "item", "--headings-are", "scenario")
    done = desk.run(*words, "--of", "now", "--versus", "then")
    assert done.status == 0, done.err
    assert "42.6%" in done.out and "45.5%" in done.out and "3.0 pts" in done.out
    assert "may not add up because of rounding" in done.out
