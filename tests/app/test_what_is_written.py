"""What is left behind: every key of `--figures`, tables as files, labels, legends, and odd sources."""

from __future__ import annotations

import csv
import json
import re
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from conftest import DEMO, Desk, by_label, painted, typed
from marvex.core.errors import Mistake
from marvex.request.settings import Settings
from marvex.request.values import Counted
from marvex.sources.headings import split
from marvex.sources.readers.grid import grid_of, letter_of, text_of
from marvex.sources.readers.sheet_table import Wishes
from marvex.sources.readers.tidy import tidy

POINT_KEYS = {
    *("panel", "label", "kind", "state", "comparison", "scenario", "from", "to", "base_from", "base_to"),
    *(
        "current",
        "base",
        "change",
        "change_ratio",
        "band",
        "tone",
        "start",
        "end",
        "remark",
        "contribution",
        "effect",
    ),
}


def test_figures_have_all_keys_always(desk: Desk) -> None:
    for words in (
        ("table", str(DEMO), "--by", "route", "--versus", "none"),
        ("table", str(DEMO), "--by", "route", "--for", "2025", "--versus", "2024"),
        ("draw", "waterfall", str(DEMO), "--by", "route"),
    ):
        found = desk.figures(*words)
        assert set(found) == {
            *("view", "source", "current", "base", "comparisons", "points", "bands", "checks"),
            *("structure", "labels_dropped", "cautions", "format", "headline", "matched", "unmatched"),
            *("closing_date", "base_closing_date", "since"),
        }
        assert all(set(point) == POINT_KEYS for point in found["points"])
        assert set(found["source"]) == {"name", "rows_read", "rows_used"}
        assert all(check["ok"] and check["difference"] == 0 for check in found["checks"])
        ranked = [point for point in found["points"] if point["kind"] in ("point", "step")]
        assert sum(band["points"] for band in found["bands"]) == sum(point["band"] is not None for point in ranked)
    assert found["base"]["scenario"] == "budget" and found["view"] == "waterfall"
    kinds = [point["kind"] for point in found["points"]]
    assert (kinds[0], set(kinds[1:-1]), kinds[-1]) == ("opening", {"step"}, "closing")
    standing = found["points"][0]
    assert (standing["tone"], standing["band"], standing["change"], standing["start"]) == ("standing", None, None, 0)
    assert standing["end"] == standing["base"]


def test_figures_as_csv_hold_the_points_under_the_same_names(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), *typed("--by kind -o w.pdf --figures f.csv --figures f.json"))
    assert desk.run(*words).status == 0
    with (desk.folder / "f.csv").open(newline="") as file:
        rows = list(csv.DictReader(file))
    points = json.loads((desk.folder / "f.json").read_text(), parse_float=str, parse_int=str)["points"]
    assert set(rows[0]) == POINT_KEYS
    assert [{k: "" if v is None else str(v) for k, v in point.items()} for point in points] == rows


def test_every_filter(desk: Desk) -> None:
    rows = [
        ("2026-01-05", "4010", "North loop"),
        ("2026-02-05", "4020", "South, upper"),
        ("2026-03-05", "5010", "North"),
    ]
    desk.write("f.csv", [(*row, 10**place) for place, row in enumerate(rows)], ("date", "code", "route", "net"))
    cases = {
        "route=North": 100,
        "route=North,North loop": 101,
        'route="South, upper"': 10,
        "route!=North": 11,
        "route~North*": 101,
        "route~*o?p": None,
        "code>=4020": 110,
        "code<4020": 1,
        "code<=4020": 11,
        "code>5010": None,
        "date>=2026-02-01": 110,
        "Code=4010": 1,
    }
    for words, expected in cases.items():
        call = (*typed("table f.csv --by route --amount net --where"), words, *typed("--versus none --for 2026"))
        if expected is None:
            assert "no row passes --where" in desk.refused(*call), words
        else:
            assert desk.figures(*call)["points"][-1]["current"] == expected, words
    call = ("table", "f.csv", "--by", "route", "--amount", "net", "--where")
    assert "is not a filter" in desk.refused(*call, "route")
    assert "more than one value" in desk.refused(*call, "code>4010,4020")


def drawn(desk: Desk, rows: list[tuple[Any, ...]], **how: Any) -> tuple[list[str], list[float]]:
    """The texts of a waterfall, and the heights of its bars in pixels."""
    desk.write("list.csv", rows, ("item", "then", "now"))
    settings = Settings(current="now", base="then", legend="none", **how)
    canvas = painted("waterfall", [str(desk.folder / "list.csv")], settings).canvas
    return [text.get_text() for text, _ in canvas.texts], [box.height for _, box in canvas.marks]


THREE = [("a", 100, 150), ("b", 100, 60), ("c", 100, 105)]


def test_which_points_carry_a_label(desk: Desk) -> None:
    for how, expected in (
        ({"labels": Counted("all")}, {"+50", "−40", "+5", "300", "315"}),
        ({"labels": Counted("none")}, {"0", "100", "200", "300"}),  # the axis instead
        ({"labels": Counted("ends")}, {"300", "315"}),
        ({"labels": Counted("flagged")}, {"−40", "300", "315"}),
        ({"labels": Counted("top", 1)}, {"+50", "300", "315"}),
        ({"labels": Counted("bottom", 1)}, {"+5", "300", "315"}),
        ({"show": ("current", "base")}, {"150", "60", "105", "100", "300", "315"}),
    ):
        texts, _ = drawn(desk, THREE, **how)
        assert {text for text in texts if re.fullmatch(r"[+−]?\d+", text)} == expected, how


def test_bars_are_as_high_as_their_figures(desk: Desk) -> None:
    _, bars = drawn(desk, [("a", 100, 200), ("b", 300, 100)], labels=Counted("none"))
    # Opening 400, +100, −200, closing 300.
    opening, rise, fall, closing = bars
    assert abs(opening / rise - 4) < 0.05 and abs(fall / rise - 2) < 0.05 and abs(closing / rise - 3) < 0.05


def test_settings_of_the_picture(desk: Desk) -> None:
    base = ("draw", "waterfall", str(DEMO), "--by", "route")
    seen = set()
    for more in (
        (),
        ("--horizontal",),
        ("--legend", "right"),
        ("--legend", "none"),
        ("--size", "640x480"),
        ("--title", "T"),
    ):
        assert desk.run(*base, *more, "-o", "w.png").status == 0, more
        seen.add((desk.folder / "w.png").read_bytes())
    assert len(seen) == 6


def test_sheets_of_cells() -> None:
    assert [letter_of(place) for place in (0, 25, 26, 27, 701, 702)] == ["A", "Z", "AA", "AB", "ZZ", "AAA"]
    assert [text_of(value) for value in (None, 4.0, 0.1, True, " a \n b ", 1e20)] == [
        "",
        "4",
        "0.1",
        "true",
        "a b",
        "1e+20",
    ]
    grid = grid_of([[None, "x", None], [None, None, None], [None, 1.5, "y"]], "B1:C3")
    assert grid.letters == ("B", "C") and [line.number for line in grid.lines] == [1, 2, 3]
    assert grid.lines[2].cells == ("1.5", "y")


@pytest.mark.parametrize(
    ("heading", "parts"),
    [
        ("Jan 2026", ("Jan 2026", None)),
        ("Budget Jan 2026", ("Jan 2026", "Budget")),
        ("2026-01 Actual", ("2026-01", "Actual")),
        ("Q1 2026", ("Q1 2026", None)),
        ("budget", (None, "budget")),
        ("Fuel", (None, None)),
        ("Jan", (None, None)),
    ],
)
def test_what_a_heading_says(heading: str, parts: tuple[str | None, str | None]) -> None:
    assert split(heading) == parts


def tidied(*rows: tuple[Any, ...], named: frozenset[str] = frozenset()) -> tuple[list[str], list[str]]:
    """The first cells of the lines that stay, and what is said of the others."""
    table = tidy(grid_of(rows), "t", Wishes(named=named))
    return [line.cells[0] for line in table.lines], [*table.said, *table.cautions]


def test_totals_are_found_by_sum_and_by_name() -> None:
    head = ("Item", "Jan 2026", "Feb 2026", "Mar 2026")
    months = [("a", 1, 2, 3), ("b", 4, 5, 6), ("c", 7, 8, 10)]
    # What is called a total is one where it adds up, last or not; where it does not, that is asked about.
    assert tidied(head, *months, ("All", 12, 15, 19)) == (
        ["a", "b", "c"],
        ["row 5 'All' is the sum of rows 2–4 and was left out"],
    )
    assert tidied(head, *months, ("All", 12, 15, 19), ("d", 1, 1, 1))[0] == ["a", "b", "c", "d"]
    for wrong in ([("All", 12, 15, 20), ("d", 1, 1, 1)], [("Total", 12, 15, 20)]):
        with pytest.raises(Mistake, match=r"is 20 in Mar 2026, but a [+] b [+] c come to 19: 1 more"):
            tidied(head, *months, *wrong)
    # Subtotals and a total of them; what an option names stays.
    tree = [
        *months[:2],
        ("Subtotal", 5, 7, 9),
        months[2],
        ("e", 1, 1, 1),
        ("Subtotal", 8, 9, 11),
        ("Total", 13, 16, 20),
    ]
    assert tidied(head, *tree)[0] == ["a", "b", "c", "e"]
    assert tidied(head, *months, ("Total", 12, 15, 19), named=frozenset({"Total"}))[0] == ["a", "b", "c", "Total"]
    # In a table with dates a row is a fact, whatever it adds up to.
    facts = [("2026-01-01", "a", 1), ("2026-01-02", "b", 2), ("2026-01-03", "c", 3), ("2026-01-04", "d", 6)]
    assert len(tidied(("date", "item", "net"), *facts)[0]) == 4


def test_rows_are_named_by_the_column_that_tells_them_apart(desk: Desk) -> None:
    rows = [("Income", "Fares", 10, 12), ("Income", "Freight", 5, 4), ("Costs", "Fuel", -3, -4)]
    desk.write("g.csv", rows, ("Group", "Account", "Budget", "Actual"))
    assert [point["label"] for point in desk.figures("table", "g.csv")["points"]] == [
        "Fares",
        "Freight",
        "Fuel",
        "Total",
    ]
    grouped = by_label(desk.figures("table", "g.csv", "--by", "Group"))
    assert (grouped["Income"]["current"], grouped["Income"]["base"]) == (16, 15)


def test_a_side_without_a_figure_is_absent_throughout(desk: Desk) -> None:
    desk.write("b.csv", [("a", "", 1), ("b", "", 2)], ("item", "now", "then"))
    found = desk.figures("table", "b.csv", "--current", "now", "--base", "then")
    assert [point["state"] for point in found["points"]] == ["ended"] * 3
    assert "column now holds no figure" in found["cautions"]
    walked = desk.figures("draw", "waterfall", "b.csv", "--current", "now", "--base", "then")
    assert [point["end"] for point in walked["points"]] == [3, 2, 0, 0]
    # Rows with one side blank are used, each once.
    desk.write("c.csv", [("a", "", 1), ("b", 2, ""), ("c", 3, 4)], ("item", "now", "then"))
    used = desk.figures("table", "c.csv", "--current", "now", "--base", "then")["source"]
    assert (used["rows_read"], used["rows_used"]) == (3, 3)
    turned = desk.figures("table", "b.csv", "--current", "then", "--base", "now")
    assert [point["state"] for point in turned["points"]] == ["new"] * 3


def test_a_total_among_dated_rows_is_left_out_and_said(desk: Desk) -> None:
    text = "Month,Fuel,Crew,Total\nJan-26,10,20,30\nFeb-26,11,21,32\nTotal,21,41,62\n"
    (desk.folder / "m.csv").write_text(text)
    words = ("table", "m.csv", "--headings-are", "item", "--by", "item", "--versus", "none")
    assert "row 4 'Total' is the sum of rows 2–3 and was left out" in desk.run(*words).err
    points = by_label(desk.figures(*words))
    assert {label: point["current"] for label, point in points.items()} == {"Fuel": 21, "Crew": 41, "Total": 62}


def test_a_spreadsheets_day_numbers_are_days_where_the_column_says_date(desk: Desk) -> None:
    # Day 46027 is 5 January 2026, day 46054 is 1 February.
    desk.write("s.csv", [("46027", "A", "5"), ("46054", "A", "6")], ("date", "route", "net"))
    found = desk.figures("table", "s.csv", "--by", "route", "--for", "2026-01", "--versus", "none")
    assert found["points"][0]["current"] == 5


def test_odd_sources_are_answered_in_one_message(desk: Desk) -> None:
    (desk.folder / "o.json").write_text('{"a": 1}')
    (desk.folder / "p.json").write_text("[1, 2]")
    (desk.folder / "k.json").write_text('[{"net": 5, "net": 7}]')
    (desk.folder / "l.json").write_text('{"a": [{"net": 5}], "b": [{"net": 7}]}')
    (desk.folder / "n.json").write_text('[{"a": {"b": 5}, "a.b": 7}]')
    (desk.folder / "q.jsonl").write_text('{"a": 1}\n{oops\n')
    (desk.folder / "r.xlsx").write_bytes(b"not a workbook")
    (desk.folder / "s.parquet").write_bytes(b"not parquet")
    (desk.folder / "t.csv.gz").write_bytes(b"not gzipped")
    (desk.folder / "u.csv").write_bytes(b"\x00\x01\x02\x03")
    (desk.folder / "v.doc").write_text("x")
    desk.write("three.csv", [("a", "b", "c")], ("one", "two", "three"))
    desk.write("twice.csv", [("a", "b"), ("a", "c")], ("name", "shown"))
    cases = {
        ("o.json",): "not a list of objects",
        ("p.json",): "not a list of objects",
        ("k.json",): "an object with 'net' twice",
        ("l.json",): "several lists: a, b",
        ("n.json",): "an object with 'a.b' twice",
        ("q.jsonl",): "not JSON",
        ("r.xlsx",): "cannot be read",
        ("s.parquet",): "cannot be read",
        ("t.csv.gz",): "cannot be unpacked",
        ("u.csv",): "not a text file",
        ("v.doc",): "of a kind that cannot be read",
        (".",): "is a folder",
        (str(DEMO), "--by", "route", "--name-map", "three.csv"): "does not have two columns",
        (str(DEMO), "--by", "route", "--name-map", "twice.csv"): "shows 'a' as two names",
        (str(DEMO), "--by", "route", "--sheet", "x"): "is no workbook",
        (str(DEMO), "--by", "route", "--cells", "4"): "is not a range of cells",
        (str(DEMO), "--by", "route", "--total-as", "sumn"): "Did you mean sum?",
        (str(DEMO), "--by", "route", "--source-sign", "minus"): "There are positive, negative",
        (str(DEMO), "--by", "route", "--by", "kind"): "--by is given twice",
        (str(DEMO), "--by", "route", "--headings-are", "route"): "there is such a column already",
        (str(DEMO), "--by", "route", "--base", "net"): "Name both columns",
    }
    for words, expected in cases.items():
        assert expected in desk.refused("table", *words), words
    assert "--at does not say which figure" in desk.refused("trace", str(DEMO), "--by", "route")


def test_standing_bars_name_both_sides_whatever_they_are(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), "--by", "kind")
    found = desk.figures(*words, "--of", "forecast", "--versus", "budget", "--for", "2026-11/2026-12")
    assert [found["points"][0]["label"], found["points"][-1]["label"]] == ["Budget", "Forecast"]
    assert (found["current"]["from"], found["base"]["to"]) == ("2026-11-01", "2026-12-31")
    by_time = desk.figures(*words, "--for", "2026-10", "--versus", "prior")
    assert [by_time["points"][0]["label"], by_time["points"][-1]["label"]] == ["Sept 2026", "Oct 2026"]
    assert by_label(by_time)["income"]["band"] == "Fall"
    assert isinstance(by_label(by_time)["income"]["change"], Decimal)
    assert not list(Path(desk.folder).glob(".*"))
