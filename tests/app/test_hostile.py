"""Broken and hostile inputs: one line and status 2, no figure in silence, nothing lost and nothing let in."""

from __future__ import annotations

import gzip
import json
import os
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import pytest
import xlsxwriter

from conftest import Desk
from marvex.cli import main as command
from marvex.cli.demo import write_data

SIDES = ("--current", "now", "--base", "then")
HEAD = ("item", "now", "then")


def test_a_column_may_be_called_anything(desk: Desk) -> None:
    # Names that the engine uses for itself: rows of 2026 are 5 and 7, of which the filter keeps the 5.
    for name in ("kept", "KEPT", "row", "number", "amount_text", "c0", "day", "facts_0"):
        rows = [("2026-01-01", "a", 5), ("2026-01-02", "b", 7), ("2025-01-01", "a", 3), ("2025-01-02", "b", 4)]
        desk.write("k.csv", rows, ("date", name, "net"))
        words = ("table", "k.csv", "--by", name, "--amount", "net", "--for", "2026", "--versus", "year-ago")
        assert [p["current"] for p in desk.figures(*words)["points"]] == [5, 7, 12], name
        assert desk.figures(*words, "--where", f"{name}=a")["points"][-1]["current"] == 5, name


def test_a_path_is_a_path_and_never_a_pattern(desk: Desk) -> None:
    for name, now in {"led1.csv": 1, "led[1].csv": 100, "led?.csv": 1000, "led*.csv": 10_000}.items():
        desk.write(name, [("2026-01-01", "A", now)], ("date", "item", "net"))
    for name, now in {"led[1].csv": 100, "led?.csv": 1000, "led*.csv": 10_000}.items():
        assert desk.figures("table", name, "--by", "item", "--versus", "none")["points"][0]["current"] == now
    (desk.folder / "year=1999").mkdir()
    desk.write("year=1999/t.csv", [("2026", "A", 5), ("2025", "A", 3)], ("year", "item", "net"))
    words = ("table", "year=1999/t.csv", "--by", "item", "--for", "2026", "--versus", "year-ago")
    assert desk.figures(*words)["points"][0]["base"] == 3


def test_a_packed_file_is_whole_or_refused(desk: Desk) -> None:
    text = "date,net\n" + "".join(f"2026-{1 + n % 12:02}-01,{n}\n" for n in range(3000))
    whole = gzip.compress(text.encode())
    for name, content in {
        "flip.csv.gz": whole[:-30] + bytes([whole[-30] ^ 1]) + whole[-29:],
        "sum.csv.gz": whole[:-6] + bytes([whole[-6] ^ 1]) + whole[-5:],
        "cut.csv.gz": whole[:-12],
        "cut.json.gz": gzip.compress(json.dumps([{"a": 1}]).encode())[:-9],
    }.items():
        (desk.folder / name).write_bytes(content)
        assert f"{name} is damaged" in desk.refused("table", name), name


def test_letters_are_decided_by_the_whole_file(desk: Desk) -> None:
    rows = "".join(f"2026-01-01,Item {n},1\n" for n in range(40_000))
    (desk.folder / "late.csv").write_bytes(f"date,item,net\n{rows}".encode() + b"2026-01-01,Cr\xe8me,5\n")
    found = desk.figures("table", "late.csv", "--by", "item", "--versus", "none", "--where", "item=Crème")
    assert found["points"][0]["current"] == 5
    mixed = f"date,item,net\n2026-01-01,Crème,5\n{rows}".encode() + b"2026-01-01,Cr\xe8me,5\n"
    (desk.folder / "mixed.csv").write_bytes(mixed)
    assert "mixed.csv, row 40003: not all of its letters are UTF-8" in desk.refused("table", "mixed.csv")


@pytest.mark.parametrize("cell", ["++5", "--5", "+-5", "$5 €", "-$-5", "€ $5"])
def test_what_is_no_figure_is_none(desk: Desk, cell: str) -> None:
    desk.write("f.csv", [("A", cell, 2), ("B", 3, 4), ("C", 5, 6)], HEAD)
    assert f"'{cell}' is not a figure" in desk.refused("table", "f.csv", *SIDES)


def test_a_year_among_days_is_no_date(desk: Desk) -> None:
    desk.write("d.csv", [("2026-01-01", 5), ("2025", 7), ("2026-01-02", 3)], ("date", "net"))
    assert "d.csv, row 3, column date: '2025' is not a date" in desk.refused("table", "d.csv")
    # A budget of the year beside the days of actuals is, of which two days are no year.
    rows = [("2026-01-01", "actual", 5), ("2026-01-02", "actual", 3), ("2026", "budget", 70)]
    desk.write("b.csv", rows, ("date", "scenario", "net"))
    assert "budget is kept by year" in desk.refused("table", "b.csv")
    assert desk.run("table", "b.csv", "--spread", "even", "--every", "day").status == 0


def test_no_input_is_written_over_and_no_two_outputs_are_one(desk: Desk) -> None:
    desk.write("t.csv", [("A", 1, 2)], HEAD)
    (desk.folder / "link.csv").symlink_to("t.csv")
    (desk.folder / "r.csv").write_text("point,text\nA,fine\n")
    words = ("table", "t.csv", *SIDES)
    for more in (
        ("-o", "t.csv"),
        ("-o", "link.csv"),
        ("-o", "../" + desk.folder.name + "/t.csv"),
        ("--figures", "t.csv"),
    ):
        assert "would be lost" in desk.refused(*words, *more)
    assert "would be lost" in desk.refused(*words, "--remarks", "r.csv", "-o", "r.csv")
    assert "for --output and for --figures" in desk.refused(*words, "-o", "x.csv", "--figures", "x.csv")
    assert "for --output and for --figures" in desk.refused(*words, "-o", "x.csv", "--figures", "X.csv")
    assert "is named twice" in desk.refused(*words, "-o", "x.csv", "-o", "X.CSV")
    assert desk.run("begin", "--write", "style", "-o", "s.toml").status == 0
    (desk.folder / "s.toml").write_text("# mine\n")
    assert "is there already" in desk.refused("begin", "--write", "style", "-o", "s.toml")
    assert desk.run("begin", "--write", "style", "-o", "s.toml", "--overwrite").status == 0
    write_data(desk.folder / "d", overwrite=False)
    (desk.folder / "d/october.csv").write_text("mine\n")
    assert "october.csv' is there already" in desk.refused("demo", "d", "-q")


def test_a_failed_draft_leaves_nothing_behind(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    desk.write("t.csv", [("A", 1, 2)], HEAD)

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    assert "No space left on device" in desk.refused("table", "t.csv", *SIDES, "-o", "x.csv")


def test_nothing_in_a_label_reaches_a_terminal_a_picture_or_markdown(desk: Desk) -> None:
    names = ("A\x1b[31mred", "\u202eevil", "two\nlines", "<script>|*x*", "=cmd()")
    desk.write("c.csv", [(name, 5 * place, 3) for place, name in enumerate(names, 1)], HEAD)
    words = ("c.csv", *SIDES)
    done = desk.run("table", *words, "-o", "c.md", "-o", "c.xlsx")
    drawn = desk.run("draw", "variance", *words, "--title", "A\x1b]0;x\x07b\u202ec", "-o", "c.svg")
    told = desk.run("commentary", *words).out
    svg = (desk.folder / "c.svg").read_text()
    markdown = (desk.folder / "c.md").read_text()
    for text in (done.out, done.err, drawn.err, told, svg, markdown):
        assert not {"\x1b", "\u202e", "\x07"} & set(text)
    assert ET.fromstring(svg) is not None and "<script>" not in svg and "<script>" not in markdown
    assert len([line for line in markdown.splitlines() if line.startswith("| ")]) == 2 + len(names) + 1
    assert "\x1b" not in desk.refused("table", *words, "--by", "x\x1b[31m")
    said = ("--measure", "M\x1b[1m", "--title", "{finding}\u202e", "--subtitle", "a\nb", "--note", "n\x1b")
    desk.write("h.csv", [("A", 1, 2)], ("item", "now\x1b[31m", "then"))
    plain = desk.run("table", "h.csv", "--current", "now\x1b[31m", "--base", "then", *said).out
    assert not {"\x1b", "\u202e"} & set(plain) and plain.startswith("M 1, 1 below then")
    assert "cannot be opened: File name too long" in desk.refused("table", "a" * 300 + ".csv")


def test_workbooks_are_read_within_bounds(desk: Desk) -> None:
    def book(name: str, cells: dict[tuple[int, int], object]) -> Path:
        made = xlsxwriter.Workbook(desk.folder / name)
        sheet = made.add_worksheet("S")
        for row, line in enumerate((HEAD, ("A", 1.5, 2), ("B", 3, 4))):
            sheet.write_row(row, 0, line)
        for (row, column), value in cells.items():
            sheet.write(row, column, value)
        made.close()
        return desk.folder / name

    book("far.xlsx", {(1_048_575, 16_383): 7})
    assert "reach over 1,048,576 rows and 16,384 columns" in desk.refused("table", "far.xlsx", *SIDES)
    whole = book("whole.xlsx", {})
    with zipfile.ZipFile(whole) as old, zipfile.ZipFile(desk.folder / "nan.xlsx", "w") as new:
        for part in old.namelist():
            new.writestr(part, old.read(part).replace(b"<v>1.5</v>", b"<v>NaN</v>"))
    assert "cell B2: 'nan' is not a figure" in desk.refused("table", "nan.xlsx", *SIDES)
    with zipfile.ZipFile(whole) as old, zipfile.ZipFile(desk.folder / "long.xlsx", "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.namelist():
            new.writestr(part, old.read(part).replace(b"<t>A</t>", b"<t>" + b"A" * 3_000_000 + b"</t>"))
    assert "a cell has more than 1,000,000 letters" in desk.refused("table", "long.xlsx", *SIDES)
    with zipfile.ZipFile(desk.folder / "cut.ods", "w") as made:
        made.writestr("content.xml", "<office:document-content xmlns:office='o'><office:body>")
    assert "cut.ods cannot be read" in desk.refused("table", "cut.ods")


def test_records_may_hold_odd_letters_and_are_refused_where_no_file_can(desk: Desk) -> None:
    (desk.folder / "u.jsonl").write_text('{"item":"A\u2028B","now":1,"then":2}\n{"item":"C","now":3,"then":2}\n')
    assert desk.figures("table", "u.jsonl", *SIDES)["points"][-1]["current"] == 4
    (desk.folder / "deep.json").write_text("[" * 3000 + "]" * 3000)
    assert "nested too deeply" in desk.refused("table", "deep.json")
    (desk.folder / "half.json").write_text('[{"item":"A\\ud800","now":1,"then":2},{"item":"B","now":3,"then":2}]')
    assert "half a letter" in desk.refused("table", "half.json", *SIDES)
    (desk.folder / "blank.csv").write_text("\n\n\n")
    assert "blank.csv has no headings" in desk.refused("table", "blank.csv")


def test_a_mistake_of_our_own_is_told_apart_and_written_down(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> object:
        raise ZeroDivisionError("of our own")

    monkeypatch.setattr(command.options, "parse", broken)
    monkeypatch.setattr("tempfile.tempdir", str(desk.folder))
    monkeypatch.setattr(command, "_discard_output", lambda: None)
    done = desk.run("table", "t.csv")
    assert done.status == 3 and "this is a mistake in marvex" in done.err and "Traceback" not in done.err
    (written,) = desk.folder.glob("marvex-mistake-*.txt")
    assert "ZeroDivisionError: of our own" in written.read_text()


def test_several_files_are_one_source_where_a_pattern_asks_for_them(desk: Desk) -> None:
    head = ("date", "item", "net")
    desk.write("led-01.csv", [("2026-01-05", "A", 5), ("2026-01-06", "B", 7)], head)
    desk.write("led-02.csv", [("2026-02-05", "A", 11)], head)
    words = ("table", "glob:led-*.csv", "--by", "item", "--versus", "none")
    assert [p["current"] for p in desk.figures(*words)["points"]] == [16, 7, 23]
    traced = desk.run("trace", *words[1:], "--at", "A").out
    assert "led-02.csv, row 2" in traced and "led-01.csv, row 2" in traced
    assert "2 files like led-01.csv: 3 rows" in desk.run("survey", "glob:led-*.csv").out
    assert "would be lost" in desk.refused(*words, "-o", "led-02.csv")
    desk.write("led-03.csv", [("2026-03-05", "A", "x"), ("2026-03-06", "A", 1)], head)
    assert "led-03.csv, row 2, column net: 'x' is not a figure" in desk.refused(*words)
    desk.write("led-03.csv", [("2026-03-05", "A", 1)], ("date", "item", "gross"))
    assert "has other columns" in desk.refused(*words)
    assert "no file is like 'x*.csv'" in desk.refused("table", "glob:x*.csv")


def test_headings_that_differ_in_case_are_told_apart_or_asked_about(desk: Desk) -> None:
    desk.write("h.csv", [("A", 1, 2), ("B", 3, 4)], ("item", "Net", "net"))
    (desk.folder / "h.json").write_text('[{"item":"A","Net":1,"net":2},{"item":"B","Net":3,"net":4}]')
    for name in ("h.csv", "h.json"):
        words = ("table", name, "--by", "item", "--versus", "none")
        assert "several columns 'NET' that are alike but for case: Net, net 2" in desk.refused(
            *words, "--amount", "NET"
        )
        assert "alike but for case" in desk.refused(*words, "--amount", "net")
        for column, total in (("Net", 4), ("net 2", 6)):
            assert desk.figures(*words, "--amount", column)["points"][-1]["current"] == total, (name, column)


def test_a_line_longer_than_is_looked_at_is_read_or_refused_by_name(desk: Desk) -> None:
    long = "x" * 100_000
    (desk.folder / "one.csv").write_text(f"item,note,net\nA,{long},5\nB,y,6\n")
    assert desk.figures("table", "one.csv", "--by", "item", "--versus", "none")["points"][-1]["current"] == 11
    (desk.folder / "two.csv").write_text(f"item,note,net\nA,{long}{long},5\nB,y,6\n")
    assert "two.csv, row 2 cannot be read: it has a cell of more than" in desk.refused("table", "two.csv")
    (desk.folder / "head.csv").write_text(f"item,{long},net\nA,z,5\n")
    assert "head.csv: its first line has more than 65,536 bytes" in desk.refused("table", "head.csv")
    (desk.folder / "rows.csv").write_bytes(b"item,net\r\nA,5\r\nB,6\nC,7\r\n")
    assert desk.figures("table", "rows.csv", "--by", "item", "--versus", "none")["points"][-1]["current"] == 18


def test_a_date_before_our_era_is_none(desk: Desk) -> None:
    desk.write("bc.csv", [("0044-03-15 (BC)", "A", 1), ("2026-01-02 10:30", "B", 3)], ("date", "item", "net"))
    told = desk.refused("table", "bc.csv", "--by", "item", "--date", "date", "--versus", "none")
    assert "'0044-03-15 (BC)' is not a date" in told
