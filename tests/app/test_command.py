"""The command's frame: the demo, the terminal table, help, completion, and the documents' examples."""

from __future__ import annotations

import filecmp
import gzip
import json
import re
import shlex
import sqlite3
from pathlib import Path

import duckdb
import pytest

from conftest import DEMO, Desk
from marvex.app.outputs import Outputs
from marvex.cli.demo import write_data
from marvex.core.errors import Mistake
from marvex.demo import make_data
from marvex.demo.__main__ import make
from marvex.request.place import TABLE
from marvex.request.request import request_of
from marvex.request.settings import Settings

ROOT = Path(__file__).parent.parent.parent
SHEETS = ("results.csv", "october.csv")
BY_HAND = {"statement.toml", "movements.csv", "pack.toml"}  # the demo data that no script makes


def test_the_demo_writes_data_and_builds_their_pack(desk: Desk) -> None:
    done = desk.run("demo", "ferries")
    assert done.status == 0, done.err
    written = {path.name for path in (desk.folder / "ferries").iterdir()}
    data = {"ledger.csv", "accounts.csv", "tickets.csv", "headcount.csv", "plan.xlsx", "fares.csv", *SHEETS, *BY_HAND}
    assert written == data | {"pack.toml", "pack"}
    pack = desk.folder / "ferries" / "pack"
    assert (pack / "index.html").stat().st_size < 5_000_000  # with twelve months in its chooser
    assert (pack / "index.html").read_text().count("<option value=") == 13
    assert {one.name for one in (pack / "editions").iterdir()} == {"2026-09", "2026-10"}
    assert "fuel: restated since the last edition: 2026-03 was €118,441.32, is €120,655.82 (+€2,214.50)" in done.err
    assert "Open ferries/pack/index.html first" in done.out
    # What it says to try next runs as printed.
    ferries = Desk(desk.folder / "ferries")
    tried = done.out[done.out.index("Try next") :].replace("\\\n", " ")
    for line in re.findall(r"^  (marvex .*)$", tried, re.MULTILINE):
        assert ferries.run(*shlex.split(line)[1:]).status == 0, line


def test_the_demo_data_are_what_their_script_makes(tmp_path: Path) -> None:
    make(tmp_path)
    shipped = sorted({path.name for path in make_data.DATA.iterdir() if path.is_file()} - BY_HAND)
    made = ("accounts.csv", "fares.csv", "headcount.csv", "ledger.csv.gz", "plan.xlsx", "tickets.csv.gz", *SHEETS)
    assert shipped == sorted(made)
    for name in shipped:
        assert filecmp.cmp(tmp_path / name, make_data.DATA / name, shallow=False), name
    with gzip.open(make_data.DATA / make_data.LEDGER, "rt") as ledger:
        assert sum(1 for _ in ledger) > 15_000


def test_the_terminal_table_aligns_its_figures_and_shows_bars(desk: Desk) -> None:
    rows = [("Fuel", "100000", "150000"), ("Crew", "200000", "175000"), ("Café", "10000", "")]
    desk.write("list.csv", rows, ("item", "Budget", "Actual"))
    words = ("table", "list.csv", "--current", "Actual", "--base", "Budget", "--better", "down")
    done = desk.run(*words)
    lines = done.out.splitlines()
    assert lines[0] == "Total 325k, 15k over budget (+4.8%), led by Fuel (+50k)"
    starts = ("Fuel", "Crew", "Café", "Total  ")
    fuel, crew, cafe, total = (next(line for line in lines if line.startswith(start)) for start in starts)
    assert fuel.split()[:5] == ["Fuel", "150", "100", "+50", "+50.0%"]
    assert "█" in fuel and fuel.rstrip().endswith("▲ Over budget")
    assert crew.split()[3:5] == ["−25", "−12.5%"] and crew.rstrip().endswith("▼ Under budget")
    # What is budgeted and has no actual counts as nothing, and is said to be so, not to be −100 %.
    assert cafe.split()[1:6] == ["0", "10", "−10", "no", "actual"]
    gap = next(line for line in desk.run(*words, "--absent", "gap").out.splitlines() if line.startswith("Café"))
    assert gap.split()[1:5] == ["n/a", "10", "n/a", "ended"]
    assert total.split()[1:4] == ["325", "310", "+15"]
    assert fuel.index("│") == crew.index("│")
    assert "\x1b[" not in done.out
    parentheses = desk.run(*words, "--signs", "parentheses", "--units", "one").out
    assert (
        "(25,000)" in parentheses
        and "50,000" in parentheses
        and "+50,000" not in parentheses
        and "((" not in parentheses
    )


def test_markdown_and_json_hold_the_same_table(desk: Desk) -> None:
    words = ("table", str(DEMO), "--by", "route", "--versus", "year-ago", "-o", "t.md", "-o", "t.json")
    assert desk.run(*words).status == 0
    text = (desk.folder / "t.md").read_text()
    points = json.loads((desk.folder / "t.json").read_text())["points"]
    rows = [line for line in text.splitlines() if line.startswith("| ")]
    assert len(rows) == 2 + len(points)
    assert rows[-1].startswith("| **Total** |")


def test_rounding_that_shows_is_said(desk: Desk) -> None:
    # 0.4 + 0.4 = 0.8 is shown as 0 + 0 = 1; 2 + 3 = 5 adds up.
    desk.write("list.csv", [("a", "0.4", "0"), ("b", "0.4", "0")], ("item", "now", "then"))
    desk.write("whole.csv", [("a", "2", "0"), ("b", "3", "0")], ("item", "now", "then"))
    note = "Figures may not add up because of rounding"
    sides = ("--current", "now", "--base", "then", "--decimals", "0")
    assert note in desk.run("table", "list.csv", *sides).out
    assert note not in desk.run("table", "whole.csv", *sides).out


def test_help_version_and_completion(desk: Desk) -> None:
    assert re.fullmatch(r"marvex \d+\.\d+\.\d+\n", desk.run("--version").out)
    for words in (
        ("--help",),
        ("table", "--help"),
        ("draw", "--help"),
        ("draw", "waterfall", "--help"),
        ("demo", "--help"),
    ):
        out = desk.run(*words).out
        assert "example:" in out, words
    assert "_marvex" in desk.run("--completion", "bash").out


def documents() -> list[tuple[Path, str]]:
    """Every command in an `sh` block of the documents, with the document it stands in."""
    found = []
    for path in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for block in re.findall(r"```sh\n(.*?)```", path.read_text(), re.DOTALL):
            lines = block.replace("\\\n", " ").splitlines()
            found += [(path, line) for line in lines if line.startswith("marvex ") and "| " not in line]
    return found


@pytest.fixture(scope="module")
def ferries(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    desk = Desk(tmp_path_factory.mktemp("documents"))
    write_data(desk.folder, overwrite=False)
    # The same ledger in a database, and in partitions.
    ledger = f"read_csv('{desk.folder}/ledger.csv')"
    parts = f"COPY (SELECT *, year(date) AS year FROM {ledger}) TO '{desk.folder}/ledger'"
    duckdb.execute(f"{parts} (FORMAT parquet, PARTITION_BY year)")
    rows = duckdb.execute(f"SELECT COLUMNS(*)::VARCHAR FROM {ledger}").fetchall()
    with sqlite3.connect(desk.folder / "books.db") as books:
        books.execute("CREATE TABLE ledger (date, account, account_name, kind, route, scenario, net NUMERIC)")
        books.executemany("INSERT INTO ledger VALUES (?, ?, ?, ?, ?, ?, ?)", rows)
    return desk


def test_the_commands_in_the_documents_run(ferries: Desk) -> None:
    commands = documents()
    assert len(commands) >= 5
    for path, line in commands:
        done = ferries.run(*shlex.split(line)[1:])
        expected = 1 if "fails]" in line else 0
        assert done.status == expected, (path.name, line, done.err)


def test_quiet_says_nothing_and_verbose_says_more(desk: Desk) -> None:
    words = ("table", str(DEMO), "--by", "route", "--for", "2025", "--versus", "2024")
    usual, verbose = desk.run(*words).err, desk.run("-v", *words).err
    assert "caution: 1 new (Merle–Finmouth): no figure in 2024" in usual
    assert "caution: 1 ended (Summer island hop)" in usual
    assert "18,5" in verbose and "ties out: difference 0" in verbose
    assert desk.run(*words, "--quiet").err == ""


def test_what_cannot_be_written_leaves_what_was_there(desk: Desk) -> None:
    (desk.folder / "old.csv").write_text("as it was")
    (desk.folder / "folder.csv").mkdir()
    outputs = Outputs()
    outputs.add(desk.folder / "old.csv", "new")
    outputs.add(desk.folder / "folder.csv", "new")
    outputs.add(desk.folder / "gone" / "new.csv", "new")
    with pytest.raises(Mistake, match="cannot be written"):
        outputs.write()
    assert (desk.folder / "old.csv").read_text() == "as it was"
    assert {path.name for path in desk.folder.iterdir()} == {"old.csv", "folder.csv"}


def test_names_alike_but_for_case_are_cautioned(desk: Desk) -> None:
    desk.write("list.csv", [("Fuel", "1", "2"), ("fuel ", "3", "4"), (" Fuel", "5", "6")], ("item", "then", "now"))
    found = desk.figures("table", "list.csv", "--by", "item", "--current", "now", "--base", "then")
    # Trimmed, the first and the last are one category: 2 + 6 = 8.
    assert [(point["label"], point["current"]) for point in found["points"][:2]] == [("Fuel", 8), ("fuel", 4)]
    way = "--name-map FILE shows them as one"
    assert f"Fuel and fuel are alike but for case, and were kept apart: {way}" in found["cautions"]


def test_a_word_of_the_trade_is_answered_with_ours(desk: Desk) -> None:
    desk.write("items.csv", [("Fuel", 120, 100, "py")], ("item", "now", "py", "sort"))
    for words, ours in (
        ("table items.csv --sort change", "Write marvex table items.csv --order change"),
        ("draw bridge items.csv", "Write marvex draw waterfall."),
        (f"table {DEMO} --by route --versus py", "Write --versus year-ago."),
        (f"table {DEMO} --by route --span ltm", "Write --span rolling:12."),
        (f"table {DEMO} --by route --for ytd", "Write --for year-to-date."),
    ):
        assert ours in desk.refused(*shlex.split(words)), words
    # A column of such a name comes first.
    found = desk.figures("table", "items.csv", "--current", "now", "--base", "py", "--by", "sort")
    assert found["points"][0]["label"] == "py"


def test_a_setting_that_a_place_cannot_use_is_refused_however_it_was_said() -> None:
    # The same check serves a pack, where no parser has looked at the words before.
    with pytest.raises(Mistake, match="table cannot use") as refused:
        request_of([str(DEMO)], Settings(arrows=True), TABLE)
    assert refused.value.field == "arrows"
