"""Volume, mix and price: against a case worked out on paper (docs/statements.md), and adding up for any items."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from conftest import Desk, by_label
from marvex.core.compare.point import Point
from marvex.core.errors import Mistake
from marvex.core.structure.drivers import drivers

# Day tickets: 100 at 10.00, then 90 at 12.00. Season tickets: 50 at 40.00, then 70 at 40.00.
TICKETS = [
    ("2025-06-17", "Day", 100, 1000),
    ("2025-06-17", "Season", 50, 2000),
    ("2026-06-17", "Day", 90, 1080),
    ("2026-06-17", "Season", 70, 2800),
]
WORDS = ("draw", "waterfall", "t.csv", "--by", "ticket", "--amount", "fares", "--volume", "sold")
SIDES = ("--for", "2026-06-17", "--versus", "2025-06-17", "-o", "t.png")
HEADINGS = ("date", "ticket", "sold", "fares")


def steps(found: dict) -> dict[str, Decimal]:
    return {point["label"]: point["change"] for point in found["points"] if point["kind"] == "step"}


def test_the_case_on_paper(desk: Desk) -> None:
    desk.write("t.csv", TICKETS, HEADINGS)
    found = desk.figures(*WORDS, *SIDES)
    # Q0 = 150, Q1 = 160, P0 = 3,000 ÷ 150 = 20: volume 10 × 20 = 200.
    # Old prices: 90 × 10 + 70 × 40 = 3,700; mix 3,700 − 160 × 20 = 500. Price 90 × 2 + 70 × 0 = 180. 880 in all.
    assert steps(found) == {"Volume": 200, "Mix": 500, "Price": 180}
    opening, closing = found["points"][0], found["points"][-1]
    assert (opening["end"], closing["end"]) == (3000, 3880)
    assert steps(desk.figures(*WORDS, *SIDES, "--no-mix")) == {"Volume": 700, "Price": 180}


def test_volumes_and_amounts_of_both_sides_may_stand_side_by_side(desk: Desk) -> None:
    sold = {(day[:4], name): (sold, fares) for day, name, sold, fares in TICKETS}
    names = dict.fromkeys(name for _, name in sold)
    rows = [(name, *sold["2025", name], *sold["2026", name]) for name in names]
    desk.write("t.csv", rows, ("ticket", "sold 2025", "fares 2025", "sold 2026", "fares 2026"))
    assert steps(desk.figures(*WORDS, "-o", "t.png")) == {"Volume": 200, "Mix": 500, "Price": 180}
    desk.write("t.csv", rows, ("ticket", "Budget sold", "Budget fares", "Actual sold", "Actual fares"))
    assert steps(desk.figures(*WORDS, "-o", "t.png")) == {"Volume": 200, "Mix": 500, "Price": 180}


def test_new_ended_and_without_volume_are_steps_of_their_own(desk: Desk) -> None:
    more = [("2026-06-17", "Group", 5, 60), ("2025-06-17", "Bicycle", 4, 30), ("2026-06-17", "Charter", "", 500)]
    desk.write("t.csv", [*TICKETS, *more], HEADINGS)
    found = steps(desk.figures(*WORDS, *SIDES))
    assert found == {"Volume": 200, "Mix": 500, "Price": 180, "New": 60, "Ended": -30, "Without volume": 500}
    desk.write("t.csv", [("2025-06-17", "Day", 0, 10), ("2026-06-17", "Day", 3, 10)], HEADINGS)
    assert "no volume above zero" in desk.refused(*WORDS, *SIDES[:-1], "n.png")
    assert "needs a column of volumes" in desk.refused(*WORDS[:-2], *SIDES[:-1], "n.png", "--walk", "drivers")


def test_drivers_stand_in_every_panel(desk: Desk) -> None:
    rows = [(day, route, *rest) for day, *rest in TICKETS for route in ("North", "South")]
    desk.write("t.csv", rows, ("date", "route", "ticket", "sold", "fares"))
    found = desk.figures(*WORDS, *SIDES, "--panels-by", "route")
    by_panel = {panel: [p for p in found["points"] if p["panel"] == panel] for panel in ("North", "South")}
    for points in by_panel.values():
        assert by_label({"points": points})["Mix"]["change"] == 500
    # In panels of periods each has the volumes of its own days; nothing but the price moves in the third quarter.
    later = [("2025-08-01", "Day", 10, 100), ("2026-08-01", "Day", 10, 130)]
    desk.write("t.csv", [*TICKETS, *later], HEADINGS)
    in_quarters = ("--for", "2026", "--versus", "year-ago", "--panels-by", "quarter", "-o", "q.png")
    found = desk.figures(*WORDS, *in_quarters)
    seen = {(p["panel"], p["label"]): p["change"] for p in found["points"] if p["kind"] == "step"}
    assert [seen["2026-Q2", name] for name in ("Volume", "Mix", "Price")] == [200, 500, 180]
    assert [seen.get(("2026-Q3", name), 0) for name in ("Volume", "Mix", "Price")] == [0, 0, 30]
    standing = [(p["panel"], p["label"], p["end"]) for p in found["points"] if p["kind"] in ("opening", "closing")]
    assert [end for _, _, end in standing] == [3000, 3880, 100, 130]
    assert [name for _, name, _ in standing[:2]] == ["Q2 2025", "Q2 2026"]


amounts = st.integers(-(10**6), 10**6).map(lambda n: Decimal(n).scaleb(-2))
volumes = st.none() | st.integers(-50, 5000).map(Decimal)
items = st.tuples(st.none() | amounts, st.none() | amounts, volumes, volumes)


@given(found=st.lists(items, min_size=1, max_size=8), with_mix=st.booleans())
def test_drivers_add_up_to_the_change_exactly(found: list, with_mix: bool) -> None:
    points = [
        Point(category=str(n), current=one[0], base=one[1], volumes=(one[2], one[3])) for n, one in enumerate(found)
    ]
    try:
        done = drivers(points, with_mix=with_mix)
    except Mistake:
        both = [one for one in points if all(one.volumes or ())]
        assert any(sum(one.volumes[side] for one in both) <= 0 for side in (0, 1))  # type: ignore[index]
        return
    assert sum(one.amount for one in done.steps) == sum(point.movement for point in points)
    # The price is what it is by its own formula, but for the rounding of the others.
    both = [one for one in points if all(one.volumes or ())]
    price = sum(
        Fraction(one.current or 0) - Fraction(one.volumes[1]) * Fraction(one.base or 0) / Fraction(one.volumes[0])  # type: ignore[index]
        for one in both
    )
    shown = next(one.amount for one in done.steps if one.name == "Price")
    assert abs(Fraction(shown) - price) <= Fraction(3, 200)


def test_drivers_stand_as_columns_of_a_table(desk: Desk) -> None:
    desk.write("t.csv", [*TICKETS, ("2026-06-17", "Group", 5, 60)], HEADINGS)
    words = ("table", *WORDS[2:], *SIDES[:-2])
    found = by_label(desk.figures(*words))
    # Day: 1,000 × (160 ÷ 150 − 1) = 66.67 of volume; 90 × 10 less both is −166.67 of mix; 90 × 2 of price.
    assert found["Day"]["drivers"] == {"Volume": 67, "Mix": -167, "Price": 180}
    assert found["Group"]["drivers"] == {}
    assert found["Total"]["drivers"] == {"Volume": 200, "Mix": 500, "Price": 180, "New": 60}
    assert desk.run(*words, "-o", "t.csv.csv", "-o", "t.md").status == 0
    assert "| Day | 1,080 | 1,000 | +80 | +8.0% | +67 | −167 | +180 |" in (desk.folder / "t.md").read_text()
    assert (
        (desk.folder / "t.csv.csv").read_text().splitlines()[1].startswith("Day,1080,1000,80,0.080000,67,-167,180,")
    )
    assert "Leave --per" in desk.refused(*words, "--per", "sold")
