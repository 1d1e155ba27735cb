"""The commentary: sentences worked out by hand, and never a figure that is not in `--figures`."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest

from conftest import DEMO, Desk, by_label, typed

HEADINGS = ("date", "account", "route", "scenario", "net")
COSTS = (
    ("2026-01-05", "Fuel", "North", "actual", "900"),
    ("2026-01-06", "Fuel", "South", "actual", "400"),
    ("2026-01-05", "Crew", "North", "actual", "480"),
    ("2026-01-05", "Post", "North", "actual", "11"),
    ("2026-01-05", "Rent", "North", "actual", "70"),
    ("2026-01-05", "Storm", "North", "actual", "33"),
    ("2026-01-01", "Fuel", "North", "budget", "600"),
    ("2026-01-01", "Fuel", "South", "budget", "420"),
    ("2026-01-01", "Crew", "North", "budget", "510"),
    ("2026-01-01", "Post", "North", "budget", "10"),
    ("2026-01-01", "Rent", "North", "budget", "70"),
    ("2026-01-01", "Gifts", "North", "budget", "5"),
)
WORDS = ("--as-of", "2026-01-31", "--by", "account", "--amount", "net", "--better", "down")


def sentences(desk: Desk, *words: str) -> list[str]:
    done = desk.run("commentary", *words, "-o", "c.json", "-q")
    assert done.status == 0, done.err
    return [one["text"] for one in json.loads((desk.folder / "c.json").read_text())["sentences"]]


def test_a_cost_overspend_is_told_with_its_parts_and_what_offsets_it(desk: Desk) -> None:
    desk.write("costs.csv", COSTS, HEADINGS)
    # Fuel 1,300 against 1,020: +280, +27.5%; of it North +300, South −20. Crew 480 against 510: −30.
    # In all 1,894 against 1,615: +279, +17.3%.
    assert sentences(desk, "costs.csv", *WORDS, "--then-by", "route") == [
        "Net 1,894, 279 over budget (+17.3%), led by Fuel (+280).",
        "Fuel was 280 over budget (+27.5%), at 1,300 against 1,020. Behind that is North (+300), "
        "offset in part by South (−20).",
        # What is not in the budget is budgeted at nothing, and counts in the order.
        "Storm was 33 over budget, at 33 against nothing.",
        "Crew was 30 under budget (−5.9%), at 480 against 510.",
        "The overspend of 280 on Fuel is partly offset by a saving of 30 on Crew.",
        "The other 2 moved by 5 or less each.",
        "No change: Rent.",
    ]
    found = desk.figures("commentary", "costs.csv", *WORDS, "--then-by", "route")
    assert by_label(found)["Fuel"]["parts"] == [
        {"label": "North", "current": 900, "base": 600, "change": 300},
        {"label": "South", "current": 400, "base": 420, "change": -20},
    ]


def test_a_line_of_a_statement_is_told_with_its_parts(desk: Desk) -> None:
    desk.write("costs.csv", COSTS, HEADINGS)
    lines = (("Running", ["Fuel", "Crew"]), ("Other", ["Post", "Rent", "Storm", "Gifts"]))
    text = "".join(f"[[line]]\nlabel = '{name}'\naccounts = {of}\nkind = 'cost'\n" for name, of in lines)
    (desk.folder / "s.toml").write_text(text + "[[line]]\nlabel = 'Result'\ntotal_of = ['Running', 'Other']\n")
    words = ("costs.csv", *WORDS[:2], "--amount", "net", "--statement", "s.toml", "--then-by", "route")
    # Fuel and crew together 1,780 against 1,530; in the North 900 + 480 against 600 + 510.
    assert sentences(desk, *words)[1] == (
        "Running was 250 over budget (16.3%), at 1,780 against 1,530. Behind that is North (270), "
        "offset in part by South (20)."
    )
    parts = {one["label"]: one["parts"] for one in desk.figures("commentary", *words)["points"]}
    assert [(one["label"], one["change"]) for one in parts["Running"]] == [("North", 270), ("South", -20)]


def test_an_income_sign_ahead_or_short_and_a_band_of_ones_own_is_named(desk: Desk) -> None:
    desk.write("costs.csv", COSTS, HEADINGS)
    words = typed("costs.csv --as-of 2026-01-31 --by account --amount net --where account=Fuel,Crew")
    told = sentences(desk, *words, "--band", "Large [better]: change > 20%", "--band", "Rest: otherwise")
    assert told[1] == "Fuel was 280 above budget (+27.5%), at 1,300 against 1,020: in the band Large."
    assert told[2] == "Crew was 30 below budget (−5.9%), at 480 against 510: in the band Rest."
    assert told[3] == "The gain of 280 from Fuel is partly offset by a shortfall of 30 from Crew."


def test_against_another_time_up_and_down_are_called_favourable_or_adverse(desk: Desk) -> None:
    rows = [
        ("2025-01-05", "A", "100"),
        ("2026-01-05", "A", "130"),
        ("2025-01-06", "B", "50"),
        ("2026-01-06", "B", "40"),
    ]
    desk.write("years.csv", rows, ("date", "item", "net"))
    told = sentences(
        desk, "years.csv", "--by", "item", "--for", "2026-01", "--versus", "year-ago", "--better", "down"
    )
    assert told[1] == "A was 30 over last year (+30.0%), at 130 against 100: adverse."
    assert told[2] == "B was 10 under last year (−20.0%), at 40 against 50: favourable."
    assert told[3] == "The rise of 30 on A is partly offset by a fall of 10 on B."
    desk.write("plan.csv", [("Fuel", 120, 150), ("Crew", 170, 140), ("Quay", 50, 49)], ("item", "Actual", "Budget"))
    told = sentences(desk, "plan.csv", "--better", "down")
    assert told[3] == "The saving of 30 on Fuel is offset by an overspend of 30 on Crew."


def test_points_that_overlap_or_follow_one_another_are_told_of_by_the_last(desk: Desk) -> None:
    """They have no total, and are no parts of one another."""
    sizes = {"A": (8, 9, 10, 10, 14, 11), "B": (5, 5, 5, 5, 4, 9)}
    months = ("2025-10", "2025-11", "2025-12", "2026-01", "2026-02", "2026-03")
    rows = [(month, item, "actual", size) for item in sizes for month, size in zip(months, sizes[item], strict=True)]
    rows += [(month, item, "budget", size) for month in months[3:] for item, size in (("A", 10), ("B", 6))]
    desk.write("l.csv", rows, ("month", "item", "scenario", "net"))
    chained = sentences(
        desk, "l.csv", "--by", "item", "--every", "month", "--for", "2026-02/2026-03", "--versus", "prior"
    )
    assert chained[:3] == [
        "Net 20 in Mar 2026, 2 above the month before (+11.1%).",
        "B was 5 above the month before in Mar 2026 (+125.0%), at 9 against 4: favourable.",
        "A was 3 below the month before in Mar 2026 (−21.4%), at 11 against 14: adverse.",
    ]
    # To March A is 35 against 30, B 18 against 18; to February they were 24 against 20, and 9 against 12.
    running = sentences(
        desk, "l.csv", "--by", "item", "--every", "month", "--for", "2026-Q1", "--cumulative", "year-to-date"
    )
    assert running[:2] == [
        "Net, year to date, 53 in Mar 2026, 5 above budget (+10.4%).",
        "A was 5 above budget in Mar 2026 (+16.7%), at 35 against 30.",
    ]
    # Of the first quarter there is January: 10 and 5, against 8 and 5 in October.
    begun = sentences(
        desk, "l.csv", "--by", "item", "--every", "quarter", "--for", "2025-Q4/2026-Q1", "--versus", "prior",
        "--as-of", "2026-01-31",
    )  # fmt: skip
    assert begun[:2] == [
        "Net 15 in Jan 2026, 2 above Oct 2025 (+15.4%).",
        "A was 2 above Oct 2025 in Jan 2026 (+25.0%), at 10 against 8: favourable.",
    ]


CALLS = [
    typed("--by account_name --then-by route --where kind=cost --source-sign negative --better down"),
    ("--by", "route", "--every", "month", "--where", "kind=income", "--versus", "year-ago"),
    ("--where", "kind=income", "--versus", "prior", "--then-by", "route"),
    ("--by", "route", "--for", "2025", "--versus", "year-ago", "--keep", "top:3"),
    ("--statement", str(DEMO.parent / "statement.toml"), "--then-by", "route"),
]


@pytest.mark.parametrize("words", CALLS, ids=" ".join)
def test_no_sentence_says_a_figure_that_is_not_among_the_figures(desk: Desk, words: tuple[str, ...]) -> None:
    found = desk.figures("commentary", str(DEMO), *words, "--units", "k", "--decimals", "0", "-o", "c.json")
    known = set()

    def take(one: dict[str, Any]) -> None:
        for name in ("current", "base", "change"):
            if one[name] is not None:
                # Thousands, half away from zero.
                known.add(f"{int(abs(one[name]) / 1000 + one[name].__class__('0.5')):,}k")
        for name in ("current", "base"):
            if one["change"] is None and one[name] is not None:
                known.add(f"{int(abs(one[name]) / 1000 + one[name].__class__('0.5')):,}k")
        for part in one.get("parts", ()):
            take(part)

    for point in found["points"]:
        take(point)
    told = " ".join(one["text"] for one in json.loads((desk.folder / "c.json").read_text())["sentences"])
    said = set(re.findall(r"[\d,]+k\b", told))
    assert said and said <= known


def test_one_rule_gives_the_same_band_in_every_table_picture_and_sentence(desk: Desk) -> None:
    words = [str(DEMO), *typed("--by account_name --where kind=cost --source-sign negative --better down")]
    words += ["--band", "Overspend [worse]: change > 5% and change > 10k", "--band", "Watch [watch]: change > 0"]
    words += ["--band", "Within [better]: otherwise"]
    table = {point["label"]: point["band"] for point in desk.figures("table", *words)["points"]}
    walk = desk.figures("draw", "waterfall", *words)["points"]
    assert all(table[point["label"]] in (point["band"], "No base", "No current") for point in walk[1:-1])
    for sentence in sentences(desk, *words):
        if named := re.match(r"(.+) was .*: in the band (\w+)\.", sentence):
            assert table[named[1]] == named[2]
    shown = desk.run("table", *words).out
    for label, band in table.items():
        assert any(line.startswith(label) and (band or "") in line for line in shown.splitlines())


def test_the_commentary_as_text_as_markdown_and_what_it_refuses(desk: Desk) -> None:
    desk.write("costs.csv", COSTS, HEADINGS)
    assert desk.run("commentary", "costs.csv", *WORDS, "-o", "c.txt", "-o", "c.md").status == 0
    text, page = ((desk.folder / name).read_text() for name in ("c.txt", "c.md"))
    assert text.startswith("Net 1,894, 279 over budget") and "Adds up to the source" in text
    assert "- Fuel was 280 over budget" in page
    assert desk.run("commentary", "costs.csv", *WORDS, "-q").out == text
    words = ("commentary", "costs.csv", *WORDS)
    assert "do not add up" in desk.refused(*words, "--then-by", "route", "--total-as", "mean")
    assert "Did you mean route?" in desk.refused(*words, "--then-by", "rout")
    for column, role in (("scenario", "scenario"), ("date", "dates"), ("account", "category")):
        assert f"is taken for the {role} already" in desk.refused(*words, "--then-by", column)
    assert "must end in .txt, .md, .json" in desk.refused(*words, "-o", "c.csv")


def test_remarks_are_numbered_in_order_and_stand_by_their_points_everywhere(desk: Desk) -> None:
    desk.write("costs.csv", COSTS, HEADINGS)
    (desk.folder / "more.csv").write_text('point,text\nTotal,"before, not after, the audit"\n')
    remarks = ("--remark", "crew: two posts are vacant", "--remark", "Fuel: the price rose", "--remarks", "more.csv")
    words = ("costs.csv", *WORDS, *remarks)
    found = desk.figures("table", *words, "-o", "t.md", "-o", "t.csv")
    assert {point["label"]: point["remark"] for point in found["points"] if point["remark"]} == {
        "Fuel": "the price rose",
        "Crew": "two posts are vacant",
        "Total": "before, not after, the audit",
    }
    page = (desk.folder / "t.md").read_text()
    assert "| Fuel [1] |" in page and "[2] two posts are vacant" in page and "**Total [3]**" in page
    assert (desk.folder / "t.csv").read_text().splitlines()[1].endswith(",the price rose")
    walk = desk.figures("draw", "waterfall", *words, "-o", "w.svg")["points"]
    assert (walk[-1]["kind"], walk[-1]["remark"]) == ("closing", "before, not after, the audit")
    assert "[1] the price rose" in (desk.folder / "w.svg").read_text()
    assert sentences(desk, *words)[-3] == "Fuel: the price rose"
    for wrong, expected in {"Feul: x": "Did you mean Fuel?", "Fuel": "does not say what it is about"}.items():
        assert expected in desk.refused("table", "costs.csv", *WORDS, "--remark", wrong)
    assert "is empty" in desk.refused("table", "costs.csv", *WORDS, "--remark", "Fuel: ")
    (desk.folder / "more.csv").write_text("Fuel\n")
    assert "does not have two columns" in desk.refused("table", *words)
