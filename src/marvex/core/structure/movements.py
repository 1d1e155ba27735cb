"""The walk of a list of movements: which rows stand, which are steps, and their running total."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from enum import Enum

from marvex.core.compare.point import NO_NAME, Kind, Point
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.exact import EXACT, ZERO, difference, total
from marvex.core.rules.judging import Judged
from marvex.core.structure.total_names import (
    Naming,
    is_closing_name,
    is_opening_name,
    is_total_name,
    namings,
    part_of_year,
)
from marvex.core.structure.walk import Bar, Walk, standing_bar
from marvex.core.values import dataclass

LEAST_ROWS = 3
BEYOND_CHANCE = 250  # so many units of the least digit: one movement in hundreds is as large as the running total


@dataclass(frozen=True, slots=True)
class Marked:
    """What a call says of the rows of a list.

    Parameters
    ----------
    standing : the rows that stand; None leaves it to arithmetic and names.
    downward : the rows that are stored as positive and lower the total.
    plug : the step that takes up what a standing row differs by, where that may be.
    """

    standing: tuple[str, ...] | None = None
    downward: tuple[str, ...] = ()
    plug: str | None = None


class Role(Enum):
    """What a row of a list is: a movement, the running total at its place, or the sum of movements before it."""

    STEP = "step"
    STANDS = "stands"
    LEFT_OUT = "left out"


def walk_movement(points: Sequence[Point], marked: Marked, closing: str) -> Walk:
    """The amounts as they come, and their running total: an opening, steps, and a closing.

    The first row opens where its name says so. A last row of at least three that equals the running
    total of those before it closes, and rows that are totals stand between; any other list gets its
    running total as the closing.

    Raises Mistake where a standing row does not equal the running total, unless there is a plug.
    """
    _check_names(points, marked)
    amounts = [_amount(point, marked) for point in points]
    roles = _roles(points, amounts, marked)
    bars: list[Bar] = []
    running = ZERO
    for place, (point, amount, role) in enumerate(zip(points, amounts, roles, strict=True)):
        if role is Role.STEP:
            step = replace(point, kind=Kind.STEP, current=amount, base=None)
            bars.append(Bar(Judged(step, None), running, EXACT.add(running, amount)))
            running = bars[-1].end
        elif role is Role.STANDS:
            missing = difference(amount, running)
            if place and missing:
                others = [
                    one.label for one, its in zip(points, roles, strict=True) if its is Role.STANDS and one != point
                ]
                bars.append(_plugged(point, running, amount, missing, marked, others))
            kind = Kind.OPENING if not place else Kind.CLOSING if place == len(points) - 1 else Kind.SUBTOTAL
            sides = (None, amount) if kind is Kind.OPENING else (amount, None)
            own = replace(point, kind=kind, current=sides[0], base=sides[1])
            if own.label == NO_NAME:
                own = replace(own, category=closing if kind is Kind.CLOSING else kind.value.capitalize())
            bars.append(Bar(Judged(own, None), ZERO, amount))
            running = amount
    if bars and bars[-1].point.kind is not Kind.CLOSING:
        bars.append(standing_bar(closing, running, None, Kind.CLOSING))
    left_out = tuple(point.label for point, role in zip(points, roles, strict=True) if role is Role.LEFT_OUT)
    return Walk(
        tuple(bars), ZERO, left_out, by_sum=() if marked.standing is not None else _by_sum_alone(points, roles)
    )


def _by_sum_alone(points: Sequence[Point], roles: Sequence[Role]) -> tuple[str, ...]:
    """The rows that stand though no name says so."""
    names = namings([point.label for point in points])
    return tuple(
        point.label
        for place, (point, role, name) in enumerate(zip(points, roles, names, strict=True))
        if role is Role.STANDS
        and place
        and not (name.is_total or name is Naming.CLOSING or is_closing_name(point.label))
    )


def _check_names(points: Sequence[Point], marked: Marked) -> None:
    labels = [point.label for point in points]
    for name in (*(marked.standing or ()), *marked.downward):
        if name not in labels:
            raise Mistake(f"there is no row '{name}'", did_you_mean(name, labels, f"There are {listed(labels, 6)}."))


def _amount(point: Point, marked: Marked) -> Decimal:
    amount = point.current or ZERO
    return EXACT.minus(amount) if point.label in marked.downward else amount


def _roles(points: Sequence[Point], amounts: Sequence[Decimal], marked: Marked) -> list[Role]:
    """What each row is: as said, else the opening by its name, and totals by name and arithmetic."""
    if marked.standing is not None:
        return [Role.STANDS if point.label in marked.standing else Role.STEP for point in points]
    if any(point.is_period for point in points):
        return [Role.STEP] * len(points)
    roles = _roles_by_name(points, amounts, least=BEYOND_CHANCE * _unit(amounts))
    if roles[-1] is Role.STEP and len(points) > LEAST_ROWS:
        # Rows without a total's name are totals where only so the last row comes to what it should.
        other = _roles_by_name(points, amounts, least=ZERO)
        if other[-1] is Role.STANDS:
            return other
    return roles


def _unit(amounts: Sequence[Decimal]) -> Decimal:
    """What all amounts are whole numbers of: a hundredth, one, a thousand."""
    exponents = (one.normalize().as_tuple().exponent for one in amounts if one)
    return Decimal(1).scaleb(min((one for one in exponents if isinstance(one, int)), default=0))


def _roles_by_name(points: Sequence[Point], amounts: Sequence[Decimal], *, least: Decimal) -> list[Role]:
    """The rows' roles in order.

    Parameters
    ----------
    least : from the third on, any row of that size that equals the running total stands.
    """
    roles: list[Role] = []
    names = namings([point.label for point in points])
    running = since = ZERO  # the running total, and what has been added since the last row that is a total
    added = 0  # by how many rows
    moved, blocks = ZERO, 0  # what has been added since the last row that stands, and how many totals of it left out
    for place, (point, amount) in enumerate(zip(points, amounts, strict=True)):
        is_last, fits = place == len(points) - 1, bool(place) and amount == running
        is_total = names[place].is_total or is_closing_name(point.label)
        # A quarter is one among quarters, however large.
        part = part_of_year(point.label)
        is_among = place + 1 < LEAST_ROWS or (part and part == part_of_year(points[place - 1].label))
        stands_by_size = not is_among and (is_last or (abs(amount) >= least and (added > 1 or not least)))
        is_of_block = added > 1 and abs(amount) == abs(since)
        # Below the total of one block that of the next may be of a single row, and one of them all may follow.
        is_of_blocks = blocks and ((added and amount == since) or amount == moved)
        if not place:
            role = _first_role(points, amounts, has_closing=names[-1] is Naming.CLOSING)
        elif names[place] is Naming.CLOSING or (fits and (added or blocks) and (is_total or stands_by_size)):
            role = Role.STANDS
        elif is_total and not is_last and (is_of_block or is_of_blocks):
            role = Role.LEFT_OUT
        elif is_total_name(point.label) or is_closing_name(point.label):
            role = Role.STANDS
        else:
            role = Role.STEP
        if role is Role.STEP:
            running, since, added = EXACT.add(running, amount), EXACT.add(since, amount), added + 1
            moved = EXACT.add(moved, amount)
        elif role is Role.LEFT_OUT:
            since, added, blocks = ZERO, 0, blocks + 1
        else:
            running, since, added, moved, blocks = amount, ZERO, 0, ZERO, 0
        roles.append(role)
    return roles


def _first_role(points: Sequence[Point], amounts: Sequence[Decimal], *, has_closing: bool) -> Role:
    """The opening, by its name or as the closing is alike with it; a total above what it is of is left out."""
    first = points[0].label
    if len(points) > 1 and (has_closing or is_opening_name(first)):
        return Role.STANDS
    is_whole = len(points) > 2 and amounts[0] == total(amounts[1:])
    return Role.LEFT_OUT if is_whole and is_total_name(first) else Role.STEP


def _plugged(
    point: Point, running: Decimal, amount: Decimal, missing: Decimal, marked: Marked, others: Sequence[str]
) -> Bar:
    if marked.plug is None:
        only = setting("standing", ",".join(others) or "none")
        hint = "" if marked.standing is not None else f"; {only} takes it for a step"
        raise Mistake(
            f"'{point.label}' is {amount:,}, but the running total before it is {running:,}: {missing:+,} is missing",
            f"Add it as a step with {setting('plug', 'NAME')}, or mend the rows{hint}.",
        )
    return Bar(Judged(Point(name=marked.plug, current=missing, base=None, kind=Kind.STEP), None), running, amount)
