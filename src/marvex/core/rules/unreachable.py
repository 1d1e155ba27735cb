"""Which bands of a rule can never be met, because their condition cannot hold or an earlier one always does.

The figures that a rule asks for all follow from base b and change c (current is b + c), and from share,
rank and unusual, which stand by themselves. Every comparison is decided by which side of some line
αb + βc = t a point lies on. So it is enough to try one point in every cell, edge and corner that those
lines cut the plane into: at each b at which two lines meet, and between those, at each c at which a
line is crossed, and between those (a cylindrical decomposition of the plane).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import combinations, pairwise, product

from marvex.core.compare.point import Better
from marvex.core.rules.bands import Band, Rule
from marvex.core.rules.conditions import Between, Measures, Quantity, Relation, ValueKind
from marvex.core.values import dataclass

MOST_TRIED = 400_000
_WHOLE = (Quantity.SHARE, Quantity.RANK, Quantity.UNUSUAL, Quantity.CONTRIBUTION)


@dataclass(frozen=True, slots=True)
class Unmet:
    """A band that no point can be in; `never_holds` where its condition contradicts itself."""

    band: Band
    never_holds: bool


@dataclass(frozen=True, slots=True)
class _Edge:
    """All (base, change) with base_part · base + change_part · change = at."""

    base_part: Fraction
    change_part: Fraction
    at: Fraction


def never_met(rule: Rule, better: Better) -> tuple[Unmet, ...]:
    """The bands that no point can be in; none are named where the rule is too long to try."""
    comparisons = [one for band in rule.bands if band.condition for one in band.condition.comparisons()]
    planes = list(_points(_lines(comparisons)))
    apart = [_samples(_thresholds(comparisons, quantity), quantity) for quantity in _WHOLE]
    if len(planes) * len(list(product(*apart))) > MOST_TRIED:
        return ()
    holds: set[str] = set()
    met: set[str] = set()
    for base, change in planes:
        for share, rank, unusual, contribution in product(*apart):
            place = None if rank is None else int(rank)
            measures = Measures(
                current=base + change,
                base=base,
                change=change,
                better=better,
                share=share,
                rank=place,
                unusual=unusual,
                contribution=contribution,
            )
            found = [band.name for band in rule.bands if band.condition and band.condition.holds(measures)]
            holds.update(found)
            met.update(found[:1])
    return tuple(Unmet(band, band.name not in holds) for band in rule.bands if band.name not in met)


# What each quantity is of base and change; the halves of one that is never below zero.
_FORMS: dict[Quantity, tuple[tuple[int, int], ...]] = {
    Quantity.CURRENT: ((1, 1),),
    Quantity.BASE: ((1, 0),),
    Quantity.CHANGE: ((0, 1),),
    Quantity.FAVOURABLE: ((0, 1), (0, -1), (0, 0)),
    Quantity.ADVERSE: ((0, 1), (0, -1), (0, 0)),
}


def _lines(comparisons: Iterable[Relation | Between]) -> set[_Edge]:
    """The lines on either side of which some comparison may come out differently."""
    lines = {_Edge(Fraction(1), Fraction(0), Fraction(0)), _Edge(Fraction(0), Fraction(1), Fraction(0))}
    for one in comparisons:
        if one.left in _WHOLE:
            continue
        if isinstance(one, Relation) and isinstance(one.right, Quantity):
            for left, right in product(_FORMS[one.left], _FORMS[one.right]):
                lines.add(_Edge(Fraction(left[0] - right[0]), Fraction(left[1] - right[1]), Fraction(0)))
            continue
        for value in one.values:
            if value.unit is ValueKind.PERCENT:
                # A ratio to |base| is one line to the right of zero and another to its left.
                lines.update(_Edge(sign * value.number, Fraction(-1), Fraction(0)) for sign in (1, -1))
            else:
                lines.update(_Edge(Fraction(b), Fraction(c), value.number) for b, c in _FORMS[one.left])
    return {line for line in lines if line.base_part or line.change_part}


def _points(lines: set[_Edge]) -> Iterator[tuple[Fraction, Fraction]]:
    """A point in every cell, on every edge and in every corner between the lines."""
    upright = {line.at / line.base_part for line in lines if not line.change_part}
    bases = upright | {
        meeting for one, other in combinations(lines, 2) if (meeting := _meeting(one, other)) is not None
    }
    crossing = [line for line in lines if line.change_part]
    for base in _with_between(bases):
        changes = {(line.at - line.base_part * base) / line.change_part for line in crossing}
        for change in _with_between(changes):
            yield base, change


def _meeting(one: _Edge, other: _Edge) -> Fraction | None:
    """The base at which two lines meet; None where they are parallel."""
    across = one.base_part * other.change_part - other.base_part * one.change_part
    if not across:
        return None
    return (one.at * other.change_part - other.at * one.change_part) / across


def _with_between(values: Iterable[Fraction]) -> list[Fraction]:
    """The values, one between each two neighbours, and one beyond each end."""
    known = sorted(values)
    between = [(low + high) / 2 for low, high in pairwise(known)]
    return [known[0] - 1, *known, *between, known[-1] + 1]


def _samples(thresholds: set[Fraction], quantity: Quantity) -> list[Fraction | None]:
    """What a quantity that stands by itself may be, on each side of its thresholds; None where it is absent."""
    if not thresholds:
        return [None]
    if quantity is Quantity.RANK:
        near = {Fraction(int(one) + step) for one in thresholds for step in (-1, 0, 1)}
        return [None, *sorted(one for one in near | {Fraction(1)} if one >= 1)]
    tried = _with_between(thresholds | ({Fraction(0), Fraction(1)} if quantity is Quantity.SHARE else set()))
    return [None, *(one for one in tried if quantity is not Quantity.SHARE or 0 <= one <= 1)]


def _thresholds(comparisons: Iterable[Relation | Between], quantity: Quantity) -> set[Fraction]:
    return {value.number for one in comparisons if one.left is quantity for value in one.values}
