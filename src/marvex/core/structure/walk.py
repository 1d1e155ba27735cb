"""A waterfall's steps: from the standing opening, through floating steps, to the standing closing.

A walk of changes goes from the base to the current side; a statement's the same line by line, or down
one side; balances differ from one to the next. Movements, which add up as they come, are in `movements`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import STANDING, Kind, Point, total_of
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.exact import EXACT, ZERO, difference
from marvex.core.rules.bands import RuleSet
from marvex.core.rules.judging import Judged, judged_among
from marvex.core.structure.drivers import Drivers
from marvex.core.structure.statement import Statement
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar of a waterfall; `start` is the running total before it, `end` after it.

    A standing bar starts at zero and ends at its height; it has no band.
    """

    judged: Judged
    start: Decimal
    end: Decimal

    @property
    def point(self) -> Point:
        return self.judged.point

    @property
    def label(self) -> str:
        return self.point.label

    @property
    def is_standing(self) -> bool:
        return self.point.kind in STANDING

    @property
    def movement(self) -> Decimal:
        return difference(self.end, self.start)


@dataclass(frozen=True, slots=True, eq=False)
class Walk:
    """All bars in order, and by how much the steps miss the closing: zero, or it does not foot.

    `left_out` are the rows of a list that are sums of steps, and neither steps nor standing bars; `by_sum` those that
    stand for what they come to alone.
    """

    bars: tuple[Bar, ...]
    difference: Decimal
    left_out: tuple[str, ...] = ()
    by_sum: tuple[str, ...] = ()

    @property
    def steps(self) -> tuple[Bar, ...]:
        return tuple(bar for bar in self.bars if not bar.is_standing)


CUT_BELOW = Decimal("0.15")  # of the tallest bar: steps that together span less are hard to see
ROOM_BELOW = Decimal("0.4")  # of the steps' span is kept between the cut and the lowest of them


def fitting_cut(walk: Walk) -> Decimal | None:
    """Where the standing bars are cut so that small steps can be seen; None where they need no cut.

    A round amount between zero and all that the steps touch, on the side on which the bars stand.
    """
    near, far = _nearest_and_furthest(walk)
    span = difference(far, near).copy_abs()
    if not near or (near > 0) != (far > 0) or not span or span >= CUT_BELOW * abs(far):
        return None
    side = 1 if far > 0 else -1
    step = Decimal(1).scaleb(span.adjusted())
    cut = (abs(near) - ROOM_BELOW * span) // step * step
    return side * cut if cut > 0 else None


def can_cut_at(walk: Walk, cut: Decimal) -> bool:
    """Whether a cut lies between zero and all that the bars reach."""
    near, _ = _nearest_and_furthest(walk)
    return bool(cut) and bool(near) and (cut > 0) == (near > 0) and abs(cut) < abs(near)


def _nearest_and_furthest(walk: Walk) -> tuple[Decimal, Decimal]:
    """Of all levels at which a bar begins or ends above zero: the nearest to zero and the furthest.

    The nearest is zero where levels lie on both sides of it.
    """
    levels = [bar.end for bar in walk.bars] + [bar.start for bar in walk.steps]
    if min(levels) < 0 < max(levels):
        return ZERO, max(levels, key=abs)
    return min(levels, key=abs), max(levels, key=abs)


def walk_change(comparison: Comparison, judged: Sequence[Judged], opening: str, closing: str) -> Walk:
    """From the base total, through each point's change, to the current total.

    An absent side counts as nothing, so that the walk foots: a new category's step is its whole
    amount, an ended one's is minus its base.

    Parameters
    ----------
    judged : the comparison's points in order, each with its band.
    opening, closing : what the standing bars are called.
    """
    start = comparison.total.base or ZERO
    end = comparison.total.current or ZERO
    bars = [standing_bar(opening, None, start, Kind.OPENING)]
    running = start
    for one in judged:
        after = EXACT.add(running, one.point.movement)
        bars.append(Bar(one, running, after))
        running = after
    bars.append(standing_bar(closing, end, None, Kind.CLOSING))
    return Walk(tuple(bars), difference(running, end))


def walk_statement(
    comparison: Comparison,
    judged: Sequence[Judged],
    statement: Statement,
    names: tuple[str, str],
) -> Walk:
    """From the base result to the current one, each line's step its effect on the result.

    Parameters
    ----------
    judged : the lines that have accounts, as steps.
    names : what the standing bars are called.
    """
    start, end = comparison.total.base or ZERO, comparison.total.current or ZERO
    bars = [standing_bar(names[0], None, start, Kind.OPENING)]
    running = start
    for one in judged:
        gathered = -1 if one.point.is_cost else 1
        sign = gathered if one.point.gathered else statement.effect_on_result(one.point.label)
        if sign:
            moved = EXACT.multiply(one.point.movement, Decimal(sign))
            bars.append(Bar(one, running, EXACT.add(running, moved)))
            running = bars[-1].end
    bars.append(standing_bar(names[1], end, None, Kind.CLOSING))
    return Walk(tuple(bars), difference(running, end))


def gathered_lines(lines: Sequence[Point], statement: Statement, count: int, *, largest: bool = True) -> list[Point]:
    """The lines that move the result most, and the rest of either sign as one: 'Other costs (5)'.

    Parameters
    ----------
    count : so many lines stay; a single one that is left stays too.
    largest : those that move most stay, else those that move least.
    """
    signed = [(line, sign) for line in lines if (sign := statement.effect_on_result(line.label))]
    by_size = sorted((line for line, _ in signed), key=lambda line: abs(line.movement), reverse=largest)
    kept = {line.label for line in by_size[:count]}
    found: list[Point] = []
    for place, (line, sign) in enumerate(signed):
        rest = [one for one, other in signed if other == sign and one.label not in kept]
        if line.label in kept or len(rest) == 1:
            found.append(line)
        # They stand where the last line of their sign does.
        if len(rest) > 1 and not any(other == sign for _, other in signed[place + 1 :]):
            whole = total_of(rest, f"Other {'income' if sign > 0 else 'costs'} ({len(rest)})")
            found.append(replace(whole, kind=Kind.LINE, is_cost=sign < 0, gathered=len(rest)))
    return found


def in_two_stretches(first: Walk, second: Walk) -> Walk:
    """Two walks as one, the closing of the first standing for the opening of the second as well."""
    middle = first.bars[-1]
    shared = replace(middle, judged=Judged(replace(middle.point, kind=Kind.SUBTOTAL), None))
    apart = difference(middle.end, second.bars[0].end).copy_abs()
    missing = EXACT.add(EXACT.add(first.difference.copy_abs(), second.difference.copy_abs()), apart)
    return Walk((*first.bars[:-1], shared, *second.bars[1:]), missing)


def walk_drivers(comparison: Comparison, found: Drivers, opening: str, closing: str) -> Walk:
    """From the base total, through volume, mix, price and the rest, to the current total."""
    start, end = comparison.total.base or ZERO, comparison.total.current or ZERO
    bars = [standing_bar(opening, None, start, Kind.OPENING)]
    running = start
    for one in found.steps:
        step = Point(name=one.name, current=one.amount, base=ZERO, kind=Kind.STEP)
        bars.append(Bar(Judged(step, None), running, EXACT.add(running, one.amount)))
        running = bars[-1].end
    bars.append(standing_bar(closing, end, None, Kind.CLOSING))
    return Walk(tuple(bars), difference(running, end))


def walk_down(points: Sequence[Point], statement: Statement) -> Walk:
    """One side of a statement: its lines' own amounts, costs downward, with its totals standing between."""
    bars: list[Bar] = []
    running = ZERO
    result = statement.result
    for point in points:
        line = statement.line(point.category or "")
        amount = point.current or ZERO
        if point.kind is Kind.LINE and (sign := statement.effect_on_result(point.label)):
            step = Judged(replace(point, kind=Kind.STEP, base=None), None)
            bars.append(Bar(step, running, EXACT.add(running, EXACT.multiply(amount, Decimal(sign)))))
            running = bars[-1].end
        elif line == result:
            bars.append(standing_bar(point.label, amount, None, Kind.CLOSING))
            break
        elif line.is_total and bars and amount == running:
            bars.append(standing_bar(point.label, amount, None, Kind.SUBTOTAL))
    return Walk(tuple(bars), difference(running, bars[-1].end if bars else ZERO))


def with_subtotals(walk: Walk, after: Sequence[str], groups: Mapping[str, str]) -> Walk:
    """The walk with a bar that stands behind some steps, and shows how far it has come by then.

    Parameters
    ----------
    after : steps, or groups of steps, behind the last of which the bar stands; behind a colon its name.

    Raises Mistake where there is no such step or group.
    """
    names: dict[int, str] = {}
    known_names = {bar.label for bar in walk.bars} | set(groups.values())
    for asked in after:
        name, _, called = (asked, "", "") if asked in known_names else asked.rpartition(":")
        name = (name or asked).strip()
        steps = [place for place, bar in enumerate(walk.bars) if not bar.is_standing]
        places = [place for place in steps if name in (walk.bars[place].label, groups.get(walk.bars[place].label))]
        if not places:
            known = dict.fromkeys((*(walk.bars[place].label for place in steps), *groups.values()))
            hint = did_you_mean(name, known, f"There are {listed(known, 6)}.")
            raise Mistake(f"{setting('subtotal_after')}: there is no step '{name}'", hint)
        names[places[-1]] = called.strip() or f"After {name}"
    bars: list[Bar] = []
    for place, bar in enumerate(walk.bars):
        bars.append(bar)
        if place in names:
            bars.append(standing_bar(names[place], bar.end, None, Kind.SUBTOTAL))
    return replace(walk, bars=tuple(bars))


def judged_walk(walk: Walk, rules: RuleSet) -> Walk:
    """The walk with each step in its band, judged by what it adds: an absent side counts as nothing."""
    steps = [bar.point.as_though_zero() for bar in walk.steps]
    bands = {id(bar): one.band for bar, one in zip(walk.steps, judged_among(steps, rules), strict=True)}
    bars = (replace(bar, judged=Judged(bar.point, bands.get(id(bar)))) for bar in walk.bars)
    return replace(walk, bars=tuple(bars))


def walk_balance(points: Sequence[Point], names: tuple[str, str]) -> Walk:
    """The differences between successive balances, from the first to the last; absent ones are passed over.

    Parameters
    ----------
    names : what stands before the first and the last period's own name.
    """
    known = [point for point in points if point.current is not None]
    if not known:
        return Walk((), ZERO)
    first, last = known[0], known[-1]
    assert first.current is not None and last.current is not None
    bars = [standing_bar(f"{names[0]}", None, first.current, Kind.OPENING)]
    for before, point in pairwise(known):
        assert before.current is not None and point.current is not None
        step = replace(point, kind=Kind.STEP, base=before.current)
        bars.append(Bar(Judged(step, None), before.current, point.current))
    bars.append(standing_bar(names[1], last.current, None, Kind.CLOSING))
    return Walk(tuple(bars), ZERO)


def standing_bar(label: str, current: Decimal | None, base: Decimal | None, kind: Kind) -> Bar:
    """A bar that stands on zero, as high as the one side that it has."""
    height = current if current is not None else base
    assert height is not None
    return Bar(Judged(Point(name=label, current=current, base=base, kind=kind), None), ZERO, height)
