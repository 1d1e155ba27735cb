"""The waterfall: it foots for any ledger, and its picture says what it shows without overlap."""

from __future__ import annotations

import itertools
import re
import xml.etree.ElementTree as ET
from collections import defaultdict
from decimal import Decimal
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from conftest import DEMO, Desk, by_label, typed

cents = st.integers(-(10**7), 10**7).map(lambda n: Decimal(n).scaleb(-2))
rows = st.tuples(st.sampled_from(["A", "B", "C", "D", "E"]), st.sampled_from(["2025", "2026"]), cents)


@settings(max_examples=30)
@given(ledger=st.lists(rows, min_size=1, max_size=40), keep=st.integers(1, 5))
def test_any_ledger_foots_and_ties_out(desk: Desk, ledger: list[tuple[str, str, Decimal]], keep: int) -> None:
    ledger = [*ledger, ("A", "2026", Decimal("0.01")), ("B", "2025", Decimal("0.02"))]
    desk.write("r.csv", [(f"{y}-06-17", name, net) for name, y, net in ledger], ("date", "route", "net"))
    words = ("draw", "waterfall", "r.csv", "--by", "route", "--for", "2026-06-17", "--versus", "2025-06-17")
    found = desk.figures(*words, "--keep", f"top:{keep}")
    # Worked out independently, in fractions.
    sums: dict[str, dict[str, Fraction]] = {"2025": defaultdict(Fraction), "2026": defaultdict(Fraction)}
    for name, year, net in ledger:
        sums[year][name] += Fraction(net)
    opening, *steps, closing = found["points"]
    assert Fraction(opening["base"]) == sum(sums["2025"].values())
    assert Fraction(closing["current"]) == sum(sums["2026"].values())
    assert opening["base"] + sum(step["change"] for step in steps) == closing["current"]
    for step in steps:
        assert step["end"] - step["start"] == step["change"]
        if not step["label"].startswith("Other"):
            name = step["label"]
            assert Fraction(step["change"]) == sums["2026"][name] - sums["2025"][name]
    assert all(after["start"] == before["end"] for before, after in itertools.pairwise([opening, *steps]))
    assert [check["ok"] for check in found["checks"]] == [True, True]


def test_new_and_ended_categories_are_whole_steps(desk: Desk) -> None:
    last, this = "2025-06-17", "2026-06-17"
    desk.write(
        "r.csv", [(last, "Old", 4), (last, "A", 1), (this, "A", 2), (this, "New", 9)], ("date", "route", "net")
    )
    found = desk.figures("draw", "waterfall", "r.csv", "--by", "route", "--for", this, "--versus", last)
    points = by_label(found)
    assert (points["New"]["base"], points["New"]["change"], points["New"]["band"]) == (None, 9, "Rise")
    assert (points["Old"]["current"], points["Old"]["change"], points["Old"]["band"]) == (None, -4, "Fall")
    assert (points["Old"]["state"], points["New"]["state"]) == ("ended", "new")


def test_a_step_that_has_no_sides_says_how_it_moves_the_total(desk: Desk) -> None:
    desk.write("list.csv", [("Opening", 10), ("Hired", 4), ("Left", -3), ("Closing", 11)], ("step", "people"))
    desk.write(
        "d.csv",
        # The first gains two pieces at 5 each, and of the second the price rises by 1: +10 and +4.
        [("2025", "A", 10, 2), ("2025", "B", 20, 4), ("2026", "A", 20, 4), ("2026", "B", 24, 4)],
        ("year", "item", "net", "pieces"),
    )

    def said(*words: str) -> list[str]:
        assert desk.run("draw", "waterfall", *words, "-o", "w.svg").status == 0
        return re.findall(r"<title>(.*?)</title>", (desk.folder / "w.svg").read_text())[1:]

    assert said("list.csv") == ["Opening: 10", "Hired: +4, Rise", "Left: −3, Fall", "Closing: 11"]
    driven = said("d.csv", "--by", "item", "--volume", "pieces", "--amount", "net")
    assert driven == ["2025: 30", "Volume: +10, Rise", "Mix: 0, No change", "Price: +4, Rise", "2026: 44"]
    assert said("list.csv", "--totals", "keep", "--standing", "none")[0] == "Opening: +10, Rise"


def test_a_band_that_fails_gives_status_1_after_all_is_written(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), "--by", "route", "--versus", "year-ago", "-o", "w.png")
    gate = ("--band", "Collapse [worse fails]: change < -30%", "--band", "Fine: otherwise")
    done = desk.run(*words, *gate)
    assert (done.status, (desk.folder / "w.png").exists()) == (1, True)
    assert "met a band that fails: Collapse" in done.err
    assert desk.run(*words, "--band", "Collapse [worse fails]: change < -90%").status == 0


def test_the_files_hold_their_words_and_are_the_same_on_two_runs(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), "--by", "route", "--for", "2026", "--versus", "2025")
    endings = ("png", "svg", "pdf")
    for run in "ab":
        names = [word for ending in endings for word in ("-o", f"{run}.{ending}")]
        assert desk.run(*words, *names).status == 0
    for ending in endings:
        assert (desk.folder / f"a.{ending}").read_bytes() == (desk.folder / f"b.{ending}").read_bytes()
    with Image.open(desk.folder / "a.png") as picture:
        assert picture.size == (1280, 800)
        title, description = picture.info["Title"], picture.info["Description"]
    assert re.fullmatch(r"Net \d+k, \d+k below last year \(−[\d.]+%\), led by Harrow Skerry loop \(−\d+k\)", title)
    assert "Jan–Oct 2026 against Jan–Oct 2025" in description
    svg = ET.parse(desk.folder / "a.svg").getroot()
    spoken = {child.tag.rpartition("}")[2]: child.text for child in svg}
    assert (spoken["title"], spoken["desc"]) == (title, description)


def test_words_and_figures_are_as_asked(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), *typed("--by account_name --where kind=cost --source-sign negative"))
    more = ("--better", "down", "--keep", "top:3", "--currency", "EUR", "--locale", "de_DE", "--units", "m")
    found = desk.run(
        *words, *more, "--decimals", "2", "--note", "Checked by hand", "--subtitle", "Kosten", "-o", "w.svg"
    )
    assert found.status == 0, found.err
    text = (desk.folder / "w.svg").read_text()
    assert re.search(
        r"<title>Cost €6,\d\dm, €0,\d\dm over budget \(\+\d,\d%\), led by Fuel \(\+€0,21m\)</title>", text
    )
    assert "<desc>Kosten. Budget: 6,05" in text


def test_a_picture_too_small_for_its_bars_is_refused_with_a_size_that_is_not(desk: Desk) -> None:
    desk.write(
        "list.csv", [(f"Cost centre {n}", n * 37 % 900, n * 53 % 900) for n in range(40)], ("item", "then", "now")
    )
    words = ("draw", "waterfall", "list.csv", "--current", "now", "--base", "then")
    message = desk.refused(*words, "--size", "800x500")
    size = re.search(r"--size (\d+x\d+)", message)
    assert size is not None
    assert desk.run(*words, "--size", size[1]).status == 0


def test_small_steps_are_seen_by_cutting_the_standing_bars(desk: Desk) -> None:
    desk.write("list.csv", [("A", 5000, 5010), ("B", 5000, 4995)], ("item", "then", "now"))
    words = ("draw", "waterfall", "list.csv", "--current", "now", "--base", "then", "-o", "w.svg")
    desk.run(*words)
    cut = (desk.folder / "w.svg").read_bytes()
    desk.run(*words, "--axis-break", "none")
    assert cut != (desk.folder / "w.svg").read_bytes()
    assert "does not lie between zero" in desk.refused(*words[:-1], "new.svg", "--axis-break", "11k")
