"""Rules in files, rules that ask what is unusual, and rules tried on data, through the installed command."""

from __future__ import annotations

import json
from fractions import Fraction

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label, typed
from marvex.core.compare.point import Better
from marvex.core.rules.conditions import Measures
from marvex.core.rules.language import parse_rule
from marvex.core.rules.unreachable import never_met

POLICY = """
[rules.spend]
better = "down"
applies_to = ["Fuel", "Port*"]
bands = ["Overspend [worse]: change > 5% and change > 10", "Within budget [better]: otherwise"]

[rules.rest]
bands = ["Up [better]: change > 0", "Down [worse]: otherwise"]
"""
ITEMS = (("Fuel", "120", "100"), ("Port dues", "101", "100"), ("Fares", "120", "100"), ("Freight", "90", "100"))
SIDES = ("--current", "now", "--base", "then")


def items(desk: Desk) -> None:
    desk.write("items.csv", ITEMS, ("item", "now", "then"))
    (desk.folder / "policy.toml").write_text(POLICY)


def test_each_line_is_judged_by_the_first_rule_that_applies_to_it(desk: Desk) -> None:
    items(desk)
    found = desk.figures("table", "items.csv", *SIDES, "--rule", "policy.toml")
    bands = {point["label"]: (point["band"], point["tone"]) for point in found["points"]}
    assert bands["Fuel"] == ("Overspend", "worse") and bands["Port dues"] == ("Within budget", "better")
    assert bands["Fares"] == ("Up", "better") and bands["Freight"] == ("Down", "worse")
    assert [band["name"] for band in found["bands"]] == ["Overspend", "Within budget", "Up", "Down"]
    # One rule alone leaves the lines that it does not apply to, and the total, without a judgement of its own.
    alone = by_label(desk.figures("table", "items.csv", *SIDES, "--rule", "policy.toml:spend"))
    assert (alone["Fares"]["band"], alone["Total"]["band"]) == ("Unclassified", None)


def test_a_direction_said_in_the_call_goes_before_that_of_the_file(desk: Desk) -> None:
    desk.write("items.csv", ITEMS, ("item", "now", "then"))
    (desk.folder / "one.toml").write_text(
        '[rules.a]\nbetter = "down"\nbands = ["Bad [worse]: adverse > 0", "Ok: otherwise"]'
    )
    assert by_label(desk.figures("table", "items.csv", *SIDES, "--rule", "one.toml"))["Fuel"]["band"] == "Bad"
    upwards = desk.figures("table", "items.csv", *SIDES, "--rule", "one.toml", "--better", "up")
    assert by_label(upwards)["Fuel"]["band"] == "Ok"


MISTAKES = {
    '[rules.a]\nband = ["A: change > 1"]': "Did you mean bands?",
    '[rules.a]\nbands = ["A: chnge > 1"]': "[rules.a]: in a rule, expected one of",
    '[rules.a]\nbands = "A: change > 1"': "bands cannot be 'A: change > 1'",
    '[rules.a]\nbetter = "higher"\nbands = ["A: change > 1"]': "[rules.a]: better cannot be 'higher'",
    '[rule.a]\nbands = ["A: change > 1"]': "Did you mean [rules]?",
    "[rules.a": "cannot be read",
    "[rules.a]\nbands = []": "bands cannot be []",
}


@pytest.mark.parametrize("text", MISTAKES)
def test_mistakes_in_a_file_of_rules_name_their_place(desk: Desk, text: str) -> None:
    items(desk)
    (desk.folder / "wrong.toml").write_text(text)
    assert MISTAKES[text] in desk.refused("table", "items.csv", *SIDES, "--rule", "wrong.toml")


def test_what_is_unusual_is_measured_against_the_series_own_earlier_changes(desk: Desk) -> None:
    # Ten months of +1 and +3 in turn, then +10: median 2, median deviation 1, (10 − 2) ÷ 1.4826 = 5.396.
    levels = [100]
    for change in [1, 3] * 5 + [10, 2]:
        levels.append(levels[-1] + change)
    rows = [(f"{2025 + n // 12}-{n % 12 + 1:02}-01", "A", level) for n, level in enumerate(levels)]
    desk.write("months.csv", rows, ("date", "route", "net"))
    words = (
        *typed("table months.csv --versus prior --band"),
        "Odd [watch]: unusual >= 5",
        "--band",
        "Rest: otherwise",
    )
    points = desk.figures(*words, "--for", "2025-10/2026-01", "--every", "month")["points"]
    assert [(point["change"], point["band"]) for point in points] == [
        (1, "Rest"),
        (3, "Rest"),
        (10, "Odd"),
        (2, "Rest"),
    ]
    just_above = (*words[:-3], "Odd [watch]: unusual > 5.4", *words[-2:])
    assert [p["band"] for p in desk.figures(*just_above, "--for", "2025-12", "--every", "month")["points"]] == [
        "Rest"
    ]
    by_route = desk.figures(*words, "--for", "2025-12", "--by", "route")
    assert by_label(by_route)["A"]["band"] == "Odd"
    # Eight earlier changes are needed: in September there are seven.
    early = (*words[:-3], "Odd [watch]: unusual > -99", *words[-2:])
    bands = [p["band"] for p in desk.figures(*early, "--for", "2025-09/2025-10", "--every", "month")["points"]]
    assert bands == ["Rest", "Odd"]


def test_a_rule_is_tried_before_it_colours_anything(desk: Desk) -> None:
    items(desk)
    bands = [
        "Big [worse]: change >= 20%",
        "Bigger: change > 30%",
        "None: change > 3 and change < 2",
        "Rest: otherwise",
    ]
    (desk.folder / "try.toml").write_text(f"[rules.a]\nbands = {json.dumps(bands)}")
    assert desk.run("rule", "try.toml", "items.csv", *SIDES, "-o", "r.json").status == 0
    (rule,) = json.loads((desk.folder / "r.json").read_text())["rules"]
    taken = {band["name"]: (band["points"], band["change"]) for band in rule["bands"]}
    # Fuel and Fares +20 each; Port dues +1 and Freight −10.
    assert taken == {"Big": (2, 40), "Bigger": (0, 0), "None": (0, 0), "Rest": (2, -9)}
    assert rule["never_met"] == [
        {"band": "Bigger", "contradicts_itself": False},
        {"band": "None", "contradicts_itself": True},
    ]
    assert {(near["point"], near["has"], near["threshold"]) for near in rule["near"]} == {
        ("Fuel", 0.2, 0.2),
        ("Fares", 0.2, 0.2),
    }
    shown = desk.run("rule", "policy.toml", "items.csv", *SIDES).out
    assert "spend, for Fuel, Port*" in shown and "Within budget" in shown


quantities = st.sampled_from(["change", "current", "base", "favourable", "adverse"])
numbers = st.integers(-3, 3)
compared = st.one_of(
    st.builds("{} {} {}".format, quantities, st.sampled_from(["<", "<=", ">", ">=", "=", "!="]), numbers),
    st.builds("change {} {}%".format, st.sampled_from(["<", ">="]), st.sampled_from([-50, 0, 50, 100])),
    st.builds("{} {} {}".format, quantities, st.sampled_from(["<", ">="]), quantities),
)
conditions = st.recursive(
    compared,
    lambda inner: st.one_of(
        st.builds("({} and {})".format, inner, inner),
        st.builds("({} or {})".format, inner, inner),
        st.builds("not ({})".format, inner),
    ),
    max_leaves=3,
)


@settings(max_examples=60)
@example(["(not (current > -1) or not (base < change))", "change < -50%"], Better.UP)  # −0.5 and −0.3 meet the second
@given(st.lists(conditions, min_size=1, max_size=3), st.sampled_from(Better))
def test_the_bands_said_to_be_out_of_reach_are_those_that_no_point_meets(texts: list[str], better: Better) -> None:
    rule = parse_rule([f"B{place}: {text}" for place, text in enumerate(texts)])
    # Eighths from −4 to 4 on both sides, and some beyond: a cell between lines of these few thresholds holds one.
    steps = [Fraction(n, 8) for n in range(-32, 33)] + [Fraction(n) for n in (-9, -7, -5, 5, 7, 9)]
    met = set()
    for base in steps:
        for change in steps:
            measures = Measures(current=base + change, base=base, change=change, better=better)
            first = next((b.name for b in rule.bands if b.condition and b.condition.holds(measures)), None)
            met.add(first)
    out_of_reach = {unmet.band.name for unmet in never_met(rule, better)}
    assert out_of_reach == {band.name for band in rule.bands} - met


def test_share_rank_and_unusual_have_thresholds_of_their_own() -> None:
    lines = [
        "Top: rank <= 3",
        "Third: rank = 3",
        "Large: share > 50%",
        "Half: share between 60% and 70%",
        "Odd: unusual > 2",
    ]
    found = never_met(parse_rule(lines), Better.UP)
    assert [one.band.name for one in found] == ["Third", "Half"] and not found[0].never_holds
    assert never_met(parse_rule(["A: rank < 1", "B: share > 100%"]), Better.UP)[0].never_holds


def test_a_trace_judges_what_is_kept_as_its_table_does(desk: Desk) -> None:
    # A is 4 of 10; where B alone is beside it, 4 of 7.
    desk.write("l.csv", [("A", 14, 10), ("B", 13, 10), ("C", 8, 5)], ("item", "actual", "budget"))
    words = ("l.csv", "--band", "Large: share > 50%", "--band", "Small: otherwise")
    assert desk.figures("table", *words, "--keep", "top:2")["points"][0]["band"] == "Large"
    assert "Large  because" in desk.run("trace", *words, "--keep", "top:2", "--at", "A").out.replace("[neutral] ", "")
    assert "Small" in desk.run("trace", *words, "--at", "A").out.splitlines()[0]
    assert "categories together" in desk.refused("trace", *words, "--keep", "top:1", "--at", "Other (2)")


def test_one_month_that_changes_sign_changes_its_own_colour_and_nothing_else(desk: Desk) -> None:
    def drawn(march: int) -> tuple[dict[str, str], list[str], list[str]]:
        rows = [(f"2026-{month:02}-01", "A", month * 10, "actual") for month in (3, 1, 5, 2, 4)]
        rows += [
            (f"2026-{month:02}-01", "A", month * 10 + march * (month == 3) - 1, "budget") for month in range(1, 6)
        ]
        desk.write("months.csv", rows, ("date", "route", "net", "scenario"))
        found = desk.figures("table", "months.csv", "--every", "month", "--versus", "budget")
        points = [point for point in found["points"] if point["kind"] == "point"]
        tones = {point["label"]: point["tone"] for point in points}
        return tones, [point["label"] for point in points], [band["name"] for band in found["bands"]]

    before, after = drawn(0), drawn(5)
    assert {label for label in before[0] if before[0][label] != after[0][label]} == {"2026-03"}
    assert (before[0]["2026-03"], after[0]["2026-03"]) == ("better", "worse")
    assert before[1:] == after[1:] and before[1] == sorted(before[1])
