"""The rule language: what holds at the very threshold, on both sides, and what is said of a mistake."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Better, Point
from marvex.core.compare.ranking import places
from marvex.core.compare.side import Side
from marvex.core.errors import Mistake
from marvex.core.rules.bands import Band, NamedRule, Rule, RuleSet
from marvex.core.rules.judging import judged_points, judged_steps
from marvex.core.rules.language import parse_band, parse_rule
from marvex.core.rules.ready import budget, effect
from marvex.core.rules.turning import turning_point

UP, DOWN = Better.UP, Better.DOWN


def judged(rule: Rule, point: Point, better: Better = UP) -> Band:
    found = of(rule, better).judge(point)
    assert found is not None
    return found


def of(rule: Rule, better: Better = UP) -> RuleSet:
    return RuleSet((NamedRule(rule=rule),), better)


def holds(condition: str, current: str | None, base: str | None, better: Better = UP) -> bool:
    now, then = (None if one is None else Decimal(one) for one in (current, base))
    point = Point(category="x", current=now, base=then)
    rule = parse_rule([f"Met [watch]: {condition}"])
    return judged(rule, point, better).name == "Met"


# condition, current, base, better, whether it holds
CASES = [
    ("change >= 10%", "77", "70", UP, True),
    ("change > 10%", "77", "70", UP, False),
    ("change = 10%", "77.00", "70", UP, True),
    ("change >= 10%", "76.99", "70", UP, False),
    ("change = 20% and change = 20", "-80", "-100", UP, True),
    ("change > 5% and change > 10k", "300000", "290000", UP, False),
    ("change > 3% and change >= 10k", "300000", "290000", UP, True),
    # What has a base of nothing is beyond every percentage, either way; no change is none of it.
    ("change > 5%", "5", "0", UP, True),
    ("change < -900%", "-0.01", "0", UP, True),
    ("change between -5% and 5%", "0", "0", UP, True),
    ("not change > 5%", "5", "0", UP, False),
    ("change > 4", "5", "0", UP, True),
    ("favourable > 0", "77", "70", DOWN, False),
    ("adverse >= 10%", "77", "70", DOWN, True),
    ("adverse > 0", "77", "70", UP, False),
    ("adverse = 0", "77", "70", UP, True),
    ("adverse >= 10% or favourable >= 10%", "63", "70", UP, True),
    ("change between -10% and 10%", "63", "70", UP, True),
    ("change between -10% and 10%", "62.99", "70", UP, False),
    ("current > base", "77", "70", UP, True),
    ("current between 1k and 2m and not (base < 0)", "1000", "5", UP, True),
    ("current >= 1.5bn", "1500000000", "1", UP, True),
    ("change < -5", "1", "7", UP, True),
    ("change < −5", "1", "7", UP, True),
    ("change > 1 or change > 2 and change > 100", "3", "1", UP, True),
    ("(change > 1 or change > 2) and change > 100", "3", "1", UP, False),
]  # fmt: skip


@pytest.mark.parametrize(("condition", "current", "base", "better", "expected"), CASES)
def test_conditions(condition: str, current: str, base: str, better: Better, expected: bool) -> None:
    assert holds(condition, current, base, better) is expected


def test_an_absent_side_is_in_its_own_band_before_any_rule() -> None:
    rule = parse_rule(["All [better]: otherwise"])
    assert judged(rule, Point(category="x", current=Decimal(1), base=None)).name == "No base"
    assert judged(rule, Point(category="x", current=None, base=Decimal(1)), UP).name == "No current"
    assert (
        judged(parse_rule(["A: change > 5"]), Point(category="x", current=Decimal(1), base=Decimal(1))).name
        == "Unclassified"
    )


def test_a_new_category_as_a_step_is_judged_by_its_amount() -> None:
    point = Point(category="New", current=Decimal(50), base=None)
    comparison = Comparison(current=Side(None, None), base=Side(None, None), points=(point,), total=point)
    rule = parse_rule(["Some [watch]: change > 1% and change < 50", "Large [worse]: change >= 50", "Rest: otherwise"])
    assert judged_steps(comparison, of(rule, UP))[0].band == rule.bands[1]
    assert judged_points(comparison, of(rule, UP))[0].band is not rule.bands[1]


def test_share_and_rank_leave_out_totals_and_other() -> None:
    # |changes| 6, 2, 2 of 10 in all: shares 60, 20 and 20 %, ranks 1, 2 and 2.
    points = [
        Point(category=n, current=Decimal(c), base=Decimal(b)) for n, c, b in (("a", 7, 1), ("b", 1, 3), ("c", 3, 1))
    ]
    other = Point(category="Other (2)", current=Decimal(99), base=Decimal(1), gathered=2)
    found = places([*points, other])
    assert [one.share for one in found] == [Fraction(3, 5), Fraction(1, 5), Fraction(1, 5), None]
    assert [one.rank for one in found] == [1, 2, 2, None]
    comparison = Comparison(current=Side(None, None), base=Side(None, None), points=(*points, other), total=points[0])
    rule = parse_rule(["Top [worse]: rank = 1 and share >= 60%", "Rest [neutral]: otherwise"])
    assert [one.band.name for one in judged_points(comparison, of(rule, UP)) if one.band] == [
        "Top",
        "Rest",
        "Rest",
        "Rest",
    ]


def test_ready_rules_name_the_direction_and_tone_it_by_what_is_better() -> None:
    over = Point(category="x", current=Decimal(2), base=Decimal(1))
    cost = judged(budget(DOWN, "budget"), over, DOWN)
    assert (cost.name, cost.tone.value) == ("Over budget", "worse")
    assert judged(budget(UP, "plan"), over).tone.value == "better"
    assert judged(effect(), over, DOWN).name == "Adverse"


# what is written, the text under which the caret stands, words of the message
MISTAKES = [
    ("Over: change > 5 % of base", "of", "expected 'and', 'or'"),
    ("Over: chagne > 5%", "chagne", "Did you mean change?"),
    ("Over: change >> 5", "> 5", "expected"),
    ("Over: change == 5", "==", "Write '='"),
    ("Over: change ≥ 5", "≥", "Write '>='"),
    ("Over: change > 10,000", ",000", "without separators"),
    ("Over: share > 10", "10", "a percentage"),
    ("Over: current > 10%", "10%", "an amount"),
    ("Over: rank = 1k", "1k", "a plain number"),
    ("Over: change > share", "share", "cannot be compared"),
    ("Over: (change > 5", "", "')'"),
    ("Over: change between 5 and", "", "the end"),
    ("Over: change between 5 and 2%", "2%", "as the lower end"),
    ("Over: change between 5 and 2", "5 and", "above the upper"),
    ("Over [red]: change > 5", "red", "there is no tone 'red'"),
    ("Over [wrose]: change > 5", "wrose", "Did you mean worse?"),
    ("Over [worse fial]: change > 5", "fial", "expected 'fails'"),
    ("Over change > 5", "", "expected ':'"),
    (": change > 5", ": change", "the band's name"),
    ("Over: otherwise or change > 5", "or change", "expected"),
    ("Over: change > 5 and", "", "the end"),
]


@pytest.mark.parametrize(("line", "at", "words"), MISTAKES)
def test_a_mistake_is_shown_with_a_caret_under_it(line: str, at: str, words: str) -> None:
    with pytest.raises(Mistake) as caught:
        parse_band(line)
    shown, caret = caught.value.place
    assert shown.strip() == line
    assert len(caret) - 1 - 4 == (line.index(at) if at else len(line))
    assert words in f"{caught.value.what} {caught.value.mend}"


def test_bands_that_can_never_be_met_are_refused() -> None:
    for lines in (["A: otherwise", "B: change > 0"], ["A: change > 0", "a: change < 0"], ["No base: change > 0"]):
        with pytest.raises(Mistake):
            parse_rule(lines)


@given(st.text(max_size=300) | st.text(alphabet="change>0%()andor [worse]:k5-", max_size=10_000))
def test_any_text_is_a_band_or_a_mistake(text: str) -> None:
    try:
        parse_band(text)
    except Mistake as mistake:
        assert len(mistake.place) == 2


def test_a_variance_is_taken_for_a_change_and_standing_bars_keep_their_tone() -> None:
    rule = parse_rule(["Large [worse]: variance > 5%", "Rest: otherwise"])
    assert judged(rule, Point(category="x", current=Decimal(106), base=Decimal(100))).name == "Large"
    with pytest.raises(Mistake, match="there is no tone 'standing'"):
        parse_rule(["Large [standing]: change > 5%"])


CONDITIONS = (
    *("change > 5%", "change > 10", "adverse > 5% and adverse > 10"),
    *("current between 90 and 130", "change < base", "adverse > current"),
)


@given(
    first=st.sampled_from(CONDITIONS),
    second=st.sampled_from((*CONDITIONS, "change > 0")),
    better=st.sampled_from(list(Better)),
    base=st.integers(-200, 200),
    current=st.integers(-300, 300),
)
def test_a_colour_turns_at_the_nearest_current_where_the_band_changes(
    first: str, second: str, better: Better, base: int, current: int
) -> None:
    rule = parse_rule([f"A [worse]: {first}", f"B [watch]: {second}", "C [better]: otherwise"])
    rules = RuleSet((NamedRule(rule=rule),), better)

    def band(level: Decimal) -> str:
        found = rules.judge(Point(category="x", current=level, base=Decimal(base)))
        return found.name if found else ""

    turn = turning_point(rules, Point(category="x", current=Decimal(current), base=Decimal(base)))
    # Of all currents around it, in steps of a quarter, none nearer is in another band.
    if turn is None:
        return
    reach, own = max(0, int(abs(turn - current)) - 1), band(Decimal(current))
    assert {band(current + Decimal(step) / 4) for step in range(-4 * reach, 4 * reach + 1)} <= {own}
    assert band(turn - Decimal("0.001")) != band(turn + Decimal("0.001"))
