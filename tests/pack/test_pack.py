"""A pack from its file to its files: what is read, what is made again, what is frozen, and what stops it."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import re
import signal
import subprocess
import time
from datetime import date, timedelta
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from fontTools.ttLib import TTFont

from conftest import MARVEX, Desk, by_label
from marvex.pack.painting import Painters
from marvex.views.drawing.style import FONTS
from marvex.views.drawing.text_metrics import measured

ROWS = [  # fuel 40 → 46, crew 30 → 29 in February; the budget is 41 and 30 each month
    ("2026-01-31", "Fuel", "North", "actual", 40),
    ("2026-02-28", "Fuel", "North", "actual", 46),
    ("2026-01-31", "Crew", "South", "actual", 30),
    ("2026-02-28", "Crew", "South", "actual", 29),
    *((f"2026-{month:02}-01", item, place, "budget", net) for month in (1, 2) for item, place, net in
      (("Fuel", "North", 41), ("Crew", "South", 30))),
]  # fmt: skip
HEAD = ("date", "item", "place", "scenario", "net")
PACK = """
[pack]
title = "Little pack"
for = "2026-02"
better = "down"

[source]
file = "l.csv"
by = "item"

[rules.spend]
bands = ["Over [worse]: change > 10%", "Within [better]: otherwise"]

[[view]]
draw = "variance"
name = "costs"
rule = "spend"

[[view]]
draw = "table"
name = "january"
for = "2026-01"

[[view]]
draw = "commentary"
"""


@pytest.fixture
def office(desk: Desk) -> Desk:
    desk.write("l.csv", ROWS, HEAD)
    (desk.folder / "p.toml").write_text(PACK)
    return desk


def figures(desk: Desk, name: str) -> dict[str, Any]:
    return json.loads((desk.folder / "p/figures" / f"{name}.json").read_text(), parse_float=Decimal)


def changed(desk: Desk, old: str, new: str) -> None:
    path = desk.folder / "p.toml"
    assert old in path.read_text()
    path.write_text(path.read_text().replace(old, new))


def test_all_is_written_and_the_nearest_table_wins(office: Desk) -> None:
    done = office.run("pack", "p.toml")
    assert done.status == 0, done.err
    written = {str(path.relative_to(office.folder / "p")) for path in (office.folder / "p").rglob("*.*")}
    assert {"index.html", "pack.pdf", "pack.xlsx", "pictures/costs.svg", "pictures/costs.png"} <= written
    assert {"figures/costs.json", "figures/january.csv", "figures/03-commentary.json"} <= written
    costs = {one["label"]: one for one in figures(office, "costs")["points"]}
    # February: 46 − 41 = 5, 12.2 %; the pack's `better` holds for its rule, which has none of its own.
    assert (costs["Fuel"]["change"], costs["Fuel"]["band"], costs["Fuel"]["tone"]) == (5, "Over", "worse")
    assert costs["Crew"]["band"] == "Within"
    january = {one["label"]: one for one in figures(office, "january")["points"]}
    assert (january["Fuel"]["current"], january["Fuel"]["band"]) == (40, "Under budget")


def test_for_moves_what_moves_and_names_what_stands(office: Desk) -> None:
    assert office.run("pack", "p.toml", "--for", "2026-01").status == 0
    assert figures(office, "costs")["points"][0]["current"] == 40
    changed(office, 'for = "2026-01"', 'for = "year-to-date"')
    done = office.run("pack", "p.toml", "--for", "2026-01")
    assert done.err.startswith("2026-01: made") and figures(office, "january")["points"][0]["current"] == 40
    done = office.run("pack", "p.toml", "--for", "2026-02")
    assert figures(office, "january")["points"][0]["current"] == 86  # 40 + 46
    changed(office, 'for = "year-to-date"', 'for = "2026-01"')
    changed(office, 'draw = "commentary"', 'draw = "commentary"\nversus = "2026-01"')
    assert "dates of their own did not move in january, 03-commentary\n" in office.run("pack", "p.toml").err


@pytest.mark.parametrize(
    ("window", "span", "last"),
    [  # where the data reach 17 October
        ("2026-10", "1 Jan–17 Oct 2026", date(2026, 10, 17)),
        ("latest:day", "1 Jan–17 Oct 2026", date(2026, 10, 17)),
        ("latest:month", "Jan–Sept 2026", date(2026, 9, 30)),
        ("latest:half", "Jan–Jun 2026", date(2026, 6, 30)),
        ("2026-08", "Jan–Aug 2026", date(2026, 8, 31)),
    ],
)
def test_a_window_that_moves_ends_where_the_pack_does(desk: Desk, window: str, span: str, last: date) -> None:
    days = [date(2025, 1, 1) + timedelta(days=n) for n in range(655)]
    desk.write("l.csv", [(day, "Fuel", day.day * 3 + day.month) for day in days], ("date", "item", "net"))
    view = '[[view]]\ndraw = "table"\nby = "item"\n'
    views = f'{view}name = "to-date"\nfor = "year-to-date"\n{view}name = "whole"\nfor = "full-year"\n'
    (desk.folder / "p.toml").write_text(f'[pack]\nfor = "{window}"\n[source]\nfile = "l.csv"\n{views}')
    assert desk.run("pack", "p.toml").status == 0
    spent = sum(day.day * 3 + day.month for day in days if date(2026, 1, 1) <= day <= last)
    for name in ("to-date", "whole"):
        found = figures(desk, name)
        assert (found["current"]["label"], found["points"][0]["current"]) == (span, spent)


MISTAKES = {  # what is written instead of what, and what the message says
    'rule = "spend"|rul = "spend"': ["line 17", "view 'costs'", "'rul'", "Did you mean rule?"],
    'rule = "spend"|sort = "change"': ["line 17", "sort is called order here"],
    'draw = "variance"|draw = "waterfal"': ["line 15", "'waterfal'", "Did you mean waterfall?"],
    'draw = "variance"|draw = "bridge"': ["line 15", "It is called waterfall here"],
    '[source]|[sauce]': ["no table [sauce]", "Did you mean [source]?"],
    'file = "l.csv"|file = "m.csv"': ["there is no file 'm.csv'", "l.csv"],
    'for = "2026-01"|for = "2026-13"': ["view 'january'", "2026-13"],
    'rule = "spend"|rule = "spent"': ["view 'costs'", "rule", "spent"],
    'change > 10%|chnge > 10%': ["[rules.spend]", "Did you mean change?"],
    'name = "january"|name = "costs"': ["two views 'costs'"],
    'name = "january"|name = "../x"': ["line 21", "cannot be called '../x'"],
    'by = "item"|by = "itme"': ["(by)", "Did you mean item?"],
    'better = "down"|better = "dwon"': ["better", "dwon", "Did you mean down?"],
    'better = "down"|full_base = 3': ["full_base", "true or false"],
    '[pack]|[pack': ["cannot be read", "line 2"],
    'file = "l.csv"|file = "${NOT_THERE}"': ["the environment has no NOT_THERE"],
}  # fmt: skip


@pytest.mark.parametrize("mistake", MISTAKES)
def test_a_mistake_is_answered_with_its_place_and_the_nearest_word(office: Desk, mistake: str) -> None:
    changed(office, *mistake.split("|"))
    done = office.run("pack", "p.toml", "-q")
    assert done.status == 2 and "Traceback" not in done.err, done.err
    for word in MISTAKES[mistake]:
        assert word in done.err, done.err
    assert "--" not in done.err, done.err


def test_only_what_has_changed_is_made_again(office: Desk) -> None:
    office.write("m.csv", [("A", 5, 4)], ("item", "now", "then"))
    path = office.folder / "p.toml"
    two = path.read_text().replace("[source]", "[source.ledger]").replace("[[view]]", '[[view]]\nsource = "ledger"')
    other = '[source.other]\nfile = "m.csv"\ncurrent = "now"\nbase = "then"\n'
    path.write_text(f'{two}\n{other}[[view]]\ndraw = "shift"\nname = "other"\nsource = "other"\nby = "item"\n')
    changed(office, 'for = "2026-02"\n', "")
    assert "made 4 views" in office.run("pack", "p.toml").err
    before = (office.folder / "p/index.html").stat().st_mtime_ns
    assert "made 0 views, 4 had not changed" in office.run("pack", "p.toml").err
    assert (office.folder / "p/index.html").stat().st_mtime_ns == before
    office.write("m.csv", [("A", 6, 4)], ("item", "now", "then"))
    assert "made 1 view (other), 3 had not changed" in office.run("pack", "p.toml").err
    assert figures(office, "other")["points"][0]["current"] == 6
    changed(office, "change > 10%", "change > 20%")
    assert "made 1 view (costs), 3 had not changed" in office.run("pack", "p.toml").err
    assert "made 1 view" in office.run("pack", "p.toml", "--only", "costs").err
    changed(office, 'name = "other"', 'name = "renamed"')
    office.run("pack", "p.toml")
    assert not (office.folder / "p/figures/other.json").exists()


def test_two_builds_give_the_same_bytes(office: Desk) -> None:
    for folder in ("one", "two"):
        assert office.run("pack", "p.toml", folder).status == 0
        time.sleep(1.1)
    one, two = (
        {
            str(one.relative_to(office.folder / name)): one.read_bytes()
            for one in (office.folder / name).rglob("*.*")
            if one.is_file()
        }
        for name in ("one", "two")
    )
    assert one == two


def test_a_view_that_fails_does_not_stop_the_others(office: Desk) -> None:
    assert office.run("pack", "p.toml").status == 0
    old = (office.folder / "p/pictures/costs.svg").read_bytes()
    changed(office, 'rule = "spend"', 'rule = "spend"\nwhere = "item=Nothing"')
    changed(office, 'for = "2026-01"', 'for = "2026-02"')
    done = office.run("pack", "p.toml")
    assert done.status == 2
    assert "view 'costs'" in done.err and "not made: costs; what was there before stays" in done.err
    assert (office.folder / "p/pictures/costs.svg").read_bytes() == old
    assert figures(office, "january")["points"][0]["current"] == 46
    assert "made 1 view" not in office.run("pack", "p.toml", "-q").err  # it is tried again, and told of again
    assert office.run("pack", "p.toml").status == 2


def test_an_edition_is_frozen_and_later_builds_say_what_was_restated(office: Desk) -> None:
    assert "froze the edition 2026-02" in office.run("pack", "p.toml", "--issue").err
    frozen = office.folder / "p/editions/2026-02/costs.json"
    assert json.loads(frozen.read_text())["points"][0]["current"] == 46
    assert "restated" not in office.run("pack", "p.toml").err
    # An invoice of 2.25 comes late: fuel is 48.25 in February, and 17.7 % over.
    office.write("l.csv", [*ROWS, ("2026-02-20", "Fuel", "North", "actual", 2.25)], HEAD)
    done = office.run("pack", "p.toml")
    assert done.status == 0
    assert re.search(r"costs: restated since the last edition: Fuel, Feb 2026, was 46.00, is 48.25", done.err)
    page = (office.folder / "p/index.html").read_text()
    told = page[page.index("was 46.00, is 48.25") :]
    behind = told[: told.index("</details>")]
    assert "The largest rows behind it today" in behind and "2026-02-20" in behind and ">2.25<" in behind
    changed(office, 'better = "down"', 'better = "down"\nrestated = "fails"')
    assert office.run("pack", "p.toml").status == 1
    assert "froze the edition 2026-02" in office.run("pack", "p.toml", "--issue").err
    assert office.run("pack", "p.toml").status == 0  # what was restated has been sent out


def test_what_is_in_doubt_stands_with_the_findings(office: Desk) -> None:
    office.write("l.csv", [*ROWS, ("", "Fuel", "North", "actual", 412)], HEAD)
    assert office.run("pack", "p.toml").status == 0
    told = "1 row without a date is in no window: 412 in all"
    page = (office.folder / "p/index.html").read_text()
    assert f"<b>In doubt:</b> {told}." in page and f">{told}<br>" in page  # with the table, too


def test_a_result_of_two_views_is_one_finding_and_changes_that_are_alike_are_two(office: Desk) -> None:
    # Each of the two grows by 5; the variance and the shift of fuel tell of one and the same.
    office.write("l.csv", [*ROWS, ("2026-02-28", "Ropes", "North", "actual", 9),
                           ("2026-02-01", "Ropes", "North", "budget", 4)], HEAD)  # fmt: skip
    views = (("variance", "Fuel"), ("shift", "Fuel"), ("variance", "Ropes"))
    (office.folder / "p.toml").write_text('[pack]\nfor = "2026-02"\n[source]\nfile = "l.csv"\n' + "".join(
        f'[[view]]\nname = "{draw}-{item}"\ndraw = "{draw}"\nby = "place"\nwhere = "item={item}"\n'
        for draw, item in views))  # fmt: skip
    assert office.run("pack", "p.toml").status == 0
    findings = (office.folder / "p/index.html").read_text().split('<ol class="findings">')[1].split("</ol>")[0]
    assert findings.count("<li") == 2 and "Fuel 46" in findings and "Ropes 9" in findings


def test_two_editions_are_set_against_each_other(office: Desk) -> None:
    office.run("pack", "p.toml", "--for", "2026-01", "--issue")
    office.run("pack", "p.toml", "--for", "2026-02", "--issue")
    done = office.run("pack", "p.toml", "--compare", "2026-01")
    lines = done.out.splitlines()
    assert lines[0] == "view,comparison,panel,point,figure,2026-01,2026-02"
    assert "costs,1,,Fuel,current,40,46" in lines and "costs,1,,Fuel,band,Within,Over" in lines
    assert "Did you mean 2026-02?" in office.run("pack", "p.toml", "--compare", "2026-10").err


def test_remarks_are_needed_carried_over_and_confirmed(office: Desk) -> None:
    changed(office, 'better = "down"', 'better = "down"\nremarks_needed = "worse"')
    changed(office, 'draw = "commentary"', 'draw = "commentary"\nbetter = "up"')
    changed(office, 'for = "2026-01"', 'for = "2026-01"\nbetter = "up"\nband = ["All [neutral]: otherwise"]')
    done = office.run("pack", "p.toml", "--only", "costs")
    assert done.status == 1 and "costs: needs a remark: Fuel" in done.err
    changed(office, 'rule = "spend"', 'rule = "spend"\nremark = ["Fuel: the price rose"]')
    done = office.run("pack", "p.toml", "--only", "costs", "--issue")
    assert "costs: needs" not in done.err
    changed(office, 'remark = ["Fuel: the price rose"]\n', "")
    done = office.run("pack", "p.toml", "--only", "costs")
    assert "costs: needs a remark: Fuel" in done.err
    assert "the price rose (carried over from 2026-02)" in (office.folder / "p/pictures/costs.svg").read_text()


def test_a_band_that_fails_ends_with_status_1_after_all_is_written(office: Desk) -> None:
    changed(office, "Over [worse]", "Over [worse fails]")
    done = office.run("pack", "p.toml")
    assert done.status == 1 and "costs: met a band that fails: Over" in done.err
    assert (office.folder / "p/index.html").exists()


def test_two_builds_at_once_are_one_too_many(office: Desk) -> None:
    (office.folder / "p/.built").mkdir(parents=True)
    with (office.folder / "p/.built/lock").open("w") as lock:
        fcntl.lockf(lock, fcntl.LOCK_EX)
        done = office.process("pack", "p.toml")
    assert done.status == 2 and "is being built" in done.err


KILLS = int(os.environ.get("MARVEX_KILLS", "2"))


def running_in(group: int) -> list[str]:
    """The processes of a group that have not ended."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError):  # it ended meanwhile
            state, _, its_group = stat.read_text().rpartition(")")[2].split()[:3]
            if int(its_group) == group and state != "Z":
                found.append(stat.parent.name)
    return found


def test_killed_at_any_moment_each_file_of_a_pack_is_whole(office: Desk) -> None:
    def contents() -> dict[str, bytes]:
        folder = office.folder / "p"
        return {str(one.relative_to(folder)): one.read_bytes() for one in folder.rglob("*") if one.is_file()}

    states = []
    for text in ("change > 10%", "change > 1%"):
        changed(office, "change > 10%", text)
        began = time.monotonic()
        assert office.process("pack", "p.toml").status == 0
        took = time.monotonic() - began
        states.append(contents())
    for attempt in range(KILLS):
        now, then = ("change > 1%", "change > 10%") if attempt % 2 == 0 else ("change > 10%", "change > 1%")
        changed(office, now, then)
        call = [MARVEX, "pack", "p.toml", "-q"]
        with subprocess.Popen(call, cwd=office.folder, stderr=subprocess.DEVNULL, process_group=0) as one:
            time.sleep(0.5 + (took - 0.5) * (attempt + 1) / (KILLS + 1))
            one.send_signal(signal.SIGKILL if attempt % 3 else signal.SIGTERM)
        until(lambda group=one.pid: not running_in(group))
        for name, content in contents().items():
            if name != ".built/lock":
                assert any(content == state.get(name) for state in states), name
        assert office.run("pack", "p.toml", "-q").status == 0
        assert contents() == states[0 if then == "change > 10%" else 1]


@pytest.mark.parametrize("name", ["months-down", "costs-positive", "two-entities", "balance-sheet"])
def test_a_pack_begins_from_a_table_and_builds_without_an_edit(desk: Desk, name: str) -> None:
    source = Path(__file__).parent.parent / "tables" / f"{name}.csv"
    (desk.folder / "t.csv").write_bytes(source.read_bytes())
    assert desk.run("begin", "t.csv", "-o", "p.toml").status == 0
    done = desk.run("pack", "p.toml")
    assert done.status == 0, done.err
    assert len(list((desk.folder / "p/figures").glob("*.json"))) >= 2


def test_a_pack_of_quarters_is_moved_by_quarters(desk: Desk) -> None:
    rows = [("Fares", 50, 52, 61, 48, 51, 54), ("Freight", 20, 21, 19, 25, 22, 23)]
    desk.write("t.csv", rows, ("Line", *(f"Q{n} 2025" for n in (1, 2, 3, 4)), "Q1 2026", "Q2 2026"))
    assert desk.run("begin", "t.csv", "-o", "p.toml").status == 0
    assert "--for 2026-Q4 moves the whole pack" in (desk.folder / "p.toml").read_text()
    for words, end, net in (((), "2026-06-30", 77), (("--for", "2026-Q1"), "2026-03-31", 73)):
        assert desk.run("pack", "p.toml", *words).status == 0
        made = json.loads((desk.folder / "p/figures/from-base-to-current.json").read_text())
        assert (made["points"][-1]["current"], made["current"]["to"]) == (net, end)
    assert '<option value="quarter=2025-Q3">' in (desk.folder / "p/index.html").read_text()


def test_a_pack_of_costs_begins_with_less_of_them_as_good_news(desk: Desk) -> None:
    desk.write("costs.csv", [("Rent", 70, 60), ("Wages", 30, 40)], ("item", "Actual", "Budget"))
    assert desk.run("begin", "costs.csv", "-o", "p.toml").status == 0
    done = desk.run("pack", "p.toml")
    assert done.status == 0 and "good news" not in done.err
    bands = {
        one["label"]: one["tone"] for one in json.loads((desk.folder / "p/figures/table.json").read_text())["points"]
    }
    assert (bands["Rent"], bands["Wages"]) == ("worse", "better")


def test_a_pack_begins_with_what_it_is_told_of_its_source_and_its_sides(desk: Desk) -> None:
    rows = [(f"2025-{month:02}", route, its, net + month * (1 + (route == "North")))
            for month in range(4, 10) for route in ("North", "South")
            for its, net in (("Ledger", 500), ("Submission", 400))]  # fmt: skip
    desk.write("l.csv", [*rows, ("2025-09", "Trial", "Ledger", 7000)], ("month", "route", "version", "net"))
    assert "Name the current one, such as --of Ledger." in desk.refused("begin", "l.csv")
    (desk.folder / "packs").mkdir()
    desk.write("names.csv", [("North", "The north"), ("South", "The south")], ("name", "shown"))
    sides = ("--of", "Ledger", "--versus", "Submission", "--year-starts", "april")
    rows_kept = ("--where", "route!=Trial", "--name-map", "names.csv")
    assert desk.run("begin", "l.csv", *sides, *rows_kept, "-o", "packs/p.toml").status == 0
    text = (desk.folder / "packs/p.toml").read_text()
    assert '[calendar]\nyear_starts = "april"' in text and 'name_map = "../names.csv"' in text
    assert desk.run("pack", "packs/p.toml").status == 0
    found = json.loads((desk.folder / "packs/p/figures/table.json").read_text())
    # April to September are six times 500 or 400 and 4 + … + 9 = 39, in the north twice; the year is the one from April.
    of_route = {one["label"]: (one["current"], one["base"]) for one in found["points"]}
    assert of_route == {"The north": (3078, 2478), "The south": (3039, 2439), "Total": (6117, 4917)}
    assert "--lookup is not for a statement" in desk.refused(
        "begin", "l.csv", "--write", "statement", "--lookup", "names.csv", "-o", "s.toml"
    )
    desk.write(
        "t.csv",
        [(f"2025-{month:02}-01", month**3) for month in range(1, 13)] + [("2025-12-01", 6084)],
        ("day", "net"),
    )
    assert "is the sum of the others of its year" in desk.refused("begin", "t.csv", "-o", "t.toml")


def test_a_pack_begins_from_actuals_and_a_plan_in_another_layout(desk: Desk) -> None:
    rows = [
        (f"2026-{month:02}-05", route, net * month)
        for month in (1, 2, 3)
        for route, net in (("North", 50), ("South", 30))
    ]
    desk.write("ledger.csv", rows, ("Date", "Route", "Net"))
    plan = [("North", 60, 90, 160), ("South", 30, 70, 80), ("Total", 90, 160, 240)]
    desk.write("plan.csv", plan, ("Line", "Jan 2026", "Feb 2026", "Mar 2026"))
    sources = ("actual=ledger.csv", "budget=plan.csv")
    assert "--by budget=Line is for it alone" in desk.refused("table", *sources, "--by", "Route")
    assert desk.run("begin", *sources, "-o", "p.toml").status == 0
    text = (desk.folder / "p.toml").read_text()
    assert 'file = ["actual=ledger.csv", "budget=plan.csv"]' in text and 'by = ["Route", "budget=Line"]' in text
    assert desk.run("pack", "p.toml").status == 0
    # The data reach into March, so that the last month is February: 2 × 80 against 90 + 70, and 80 and 90 before it.
    total = by_label(json.loads((desk.folder / "p/figures/table.json").read_text()))["Total"]
    assert (total["current"], total["base"]) == (240, 250)
    walk = json.loads((desk.folder / "p/figures/from-base-to-current.json").read_text())["points"]
    assert (walk[0]["base"], walk[-1]["current"]) == (160, 160)


def test_a_commentary_begins_with_what_each_variance_is_made_of(office: Desk) -> None:
    assert office.run("begin", "l.csv", "-o", "q.toml").status == 0
    words = (office.folder / "q.toml").read_text().split('name = "commentary"')[1]
    assert 'by = "item"' in words and 'then_by = "place"' in words
    assert office.run("pack", "q.toml").status == 0


def test_watch_builds_at_a_change_and_shows_the_folder_to_this_machine_alone(office: Desk) -> None:
    import urllib.error
    import urllib.request

    watching = subprocess.Popen(
        [MARVEX, "pack", "p.toml", "--watch"], cwd=office.folder, stderr=subprocess.PIPE, text=True
    )
    try:
        assert watching.stderr is not None
        address = re.search(r"http://127\.0\.0\.1:\d+/", watching.stderr.readline())
        assert address
        until(lambda: (office.folder / "p/index.html").exists())
        page = urllib.request.urlopen(address[0], timeout=5).read().decode()
        assert "Little pack" in page
        for path in (".built/state.json", "../l.csv", "%2e%2e/l.csv"):
            with pytest.raises(urllib.error.HTTPError):
                urllib.request.urlopen(address[0] + path, timeout=5)
        stranger = urllib.request.Request(address[0], headers={"Host": "elsewhere.example"})
        with pytest.raises(urllib.error.HTTPError):
            urllib.request.urlopen(stranger, timeout=5)
        office.write("l.csv", [*ROWS, ("2026-02-20", "Fuel", "North", "actual", 10)], HEAD)
        until(lambda: figures(office, "costs")["points"][0]["current"] == 56)
        watching.send_signal(signal.SIGINT)
        watching.communicate(timeout=20)
        assert watching.returncode == 130
    finally:
        watching.kill()
        watching.communicate()


def until(is_so: Any) -> None:
    for _ in range(200):
        if is_so():
            return
        time.sleep(0.2)
    raise AssertionError("it did not come to that in 40 seconds")


def test_a_list_names_several_columns(office: Desk) -> None:
    changed(office, 'by = "item"', 'by = ["item", "place"]')
    assert office.run("pack", "p.toml").status == 0
    assert [one["label"] for one in figures(office, "costs")["points"]] == ["Fuel / North", "Crew / South"]


def test_a_picture_says_on_the_page_what_its_file_says(office: Desk) -> None:
    """Figures of two digits stand beside coordinates, names beside what the page changes for itself."""
    named = 'Oil 1.2345 id="x" style="y"'
    office.write("l.csv", [(day, named if item == "Fuel" else item, *rest) for day, item, *rest in ROWS], HEAD)
    changed(office, 'better = "down"', 'better = "down"\ndecimals = 3')
    done = office.run("pack", "p.toml")
    assert done.status == 0, done.err
    folder, texts = office.folder / "p", re.compile(r"<text\b[^>]*>([^<]*)</text>")
    drawn = [text for path in folder.glob("pictures/*.svg") for text in texts.findall(path.read_text())]
    assert sorted(texts.findall((folder / "index.html").read_text())) == sorted(drawn)
    assert any("1.2345" in text for text in drawn)
    assert any(text.endswith("5.000") for text in drawn)  # 46 against 41


def test_what_a_view_works_out_is_what_its_command_does(office: Desk) -> None:
    office.write("l.csv", [(*row, 3 + place) for place, row in enumerate(ROWS)], (*HEAD, "hours"))
    views = {  # figures that no decimal is go to the painters, and back, as exactly what they are
        "mean": {"total_as": "mean", "by": "item", "band": "Up: change > 10%"},
        "per-day": {"per_day": "calendar", "every": "month", "for": "year-to-date"},
        "rate": {"per": "hours", "by": "item", "panels_by": "place"},
        "drivers": {"volume": "hours", "by": "item", "versus": "prior"},
        "largest": {"keep": "top:1", "by": "item"},
    }
    drawn = {name: "waterfall" if name == "drivers" else "variance" for name in views}
    pack = '[pack]\nfor = "2026-02"\nbetter = "down"\n[source]\nfile = "l.csv"\namount = "net"\n'
    for name, keys in views.items():
        pack += f'[[view]]\nname = "{name}"\ndraw = "{drawn[name]}"\n'
        pack += "".join(f"{key} = {json.dumps(value)}\n" for key, value in keys.items())
    (office.folder / "p.toml").write_text(pack)
    done = office.run("pack", "p.toml")
    assert done.status == 0, done.err
    for name, keys in views.items():
        words = [word for key, value in keys.items() for word in (f"--{key.replace('_', '-')}", value)]
        words += [] if "for" in keys else ["--for", "2026-02"]
        found = office.figures("draw", drawn[name], "l.csv", "--amount", "net", "--better", "down", *words)
        assert found["points"] and found == figures(office, name)


def test_whatever_a_value_is_called_it_can_be_chosen(office: Desk) -> None:
    places = ('Pier, "old"', '"Quay"', "East\nside", "a=b", ">=5", "x*")
    rows = [("2026-02-28", "Fuel", place, "actual", 71 + number) for number, place in enumerate(places)]
    office.write("l.csv", rows, HEAD)
    (office.folder / "p.toml").write_text(
        '[pack]\nchoices = ["place"]\n[source]\nfile = "l.csv"\n[[view]]\ndraw = "table"\nname = "v"\nby = "item"\n'
    )
    assert office.run("pack", "p.toml").status == 0
    page = (office.folder / "p/index.html").read_text()
    assert "Nothing to show" not in page
    with (office.folder / "p.toml").open("a") as file:
        file.write('[[view]]\ndraw = "table"\nname = "one"\nby = "item"\nwhere = "place=x*"\n')
    assert office.run("pack", "p.toml").status == 0
    # Of the six places that view has one; of each of the others it says why there is nothing.
    again = (office.folder / "p/index.html").read_text()
    assert again.count("Nothing to show for") == again.count("No row passes where") == 5
    assert [number for number in range(71, 77) if f" {number}, Jan–Feb 2026" not in page] == []


def widths(letters: list[str]) -> dict[str, float]:
    return {letter: measured(letter, 1).width for letter in letters}


def test_painters_measure_every_letter_as_its_font_says(monkeypatch: pytest.MonkeyPatch) -> None:
    face = TTFont(FONTS / "IBMPlexSans-Regular.ttf")
    wide = {chr(code): face["hmtx"][name][0] / face["head"].unitsPerEm for code, name in face.getBestCmap().items()}
    measured("a", 1)  # before the others begin, as the one who begins them does
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: range(3))
    with Painters() as painters:
        for name in "abc":
            painters.begin(name, partial(widths, list(wide)))
        for name in "abc":
            assert painters.result(name) == pytest.approx(wide, abs=1e-3)


def done_by(unless: int) -> int:
    if os.getpid() != unless:
        os.kill(os.getpid(), signal.SIGKILL)
    return os.getpid()


def test_what_a_painter_took_with_it_is_done_by_the_one_who_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: range(2))
    with Painters() as painters:
        for name in "abc":
            painters.begin(name, partial(done_by, os.getpid()))
        assert [painters.result(name) for name in "abc"] == [os.getpid()] * 3
        painters.begin("d", partial(done_by, os.getpid()))  # when there is nobody left
        assert painters.result("d") == os.getpid()
