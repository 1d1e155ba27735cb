"""What has to be asked about the structure that was found before it is used, and what is only said of it."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import takewhile
from math import log2

from marvex.core.structure.cost_names import is_income_of_costs
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.outline import (
    called_groups,
    groups_among,
    maybe_among,
    maybe_groups,
    says_a_side,
    two_below,
)
from marvex.core.structure.structure_found import Asked, Doubt, Reading, Structure
from marvex.core.structure.sums import Shape
from marvex.core.structure.total_names import (
    Naming,
    is_kept,
    is_opening_name,
    is_plain_total,
    is_remainder_name,
    is_strong_result,
    may_be_result,
)
from marvex.core.values import dataclass

_APART = 3.0  # bits by which the best reading has to be ahead
_MAYBE_LAST = 3.0  # of the last line, where it comes to all of the others
_MAYBE = 9.0  # bits, from which on a line that nothing calls a total is said to come to those before it
_ELSEWHERE = 2.0  # more of them where its parts begin behind others, and by how many there are
_LEFT, _LEFT_OF_ALL = 16.0, 4.0  # bits, from which on it is asked whether a line is what is left of others
_LEFT_BY_NAME = 2.0  # the same below 'Opening'
_NEAREST_OF = 40  # open lines, whose sums an unproven total is held against
_NEAREST_STARTS = 12  # of them; of more the whole is tried
_NEAR_OF_LONE = Decimal("0.02")  # the same where no other total is proven and 'Total X' may be a name
_LINE_IN_SOME, _RESULT_IN_SOME = 12.0, 4.0  # bits of the columns in which lines come to another, though not in all
_NEAR = Decimal("0.1")  # of the sum, within which an unproven total is taken for a wrong one
_WITHOUT_ONE, _GROUP_WITHOUT_ONE = 16.0, 8.0  # bits that a line is others without one of them; 'Revenue' needs fewer


def is_surely_total(line: TableLine) -> bool:
    """Whether a name is hardly that of anything but a total: 'Total', 'Profit before tax', not 'Total Marine'."""
    return line.naming in (Naming.RESULT, Naming.CLOSING) or (
        line.naming is Naming.TOTAL and is_plain_total(line.label)
    )


def with_doubts(
    structure: Structure, figures: TableFigures, readings: Sequence[Reading], places: Sequence[int]
) -> Structure:
    """The structure with what has to be asked before it is used, and what is only said."""
    best = readings[0]
    unclear = next((one for one in structure.sums if not one.is_unique), None)
    if unclear is not None:
        same = [one for reading in readings for one in reading.sums if one.line == unclear.line]
        return replace(structure, asked=Asked(line=unclear.line, doubt=Doubt.SIGNS, sums=tuple(same)))
    rivals = [one for one in readings[1:] if best.bits - one.bits < _APART]
    if rivals and best.sums:
        apart = sorted({line for line, _ in best.parts ^ rivals[0].parts})
        sums = tuple(one for one in (*best.sums, *rivals[0].sums) if one.line in apart)
        return replace(structure, asked=Asked(line=apart[0], doubt=Doubt.SEVERAL, sums=sums))
    unproven, parts = [], {place for one in structure.sums for place in one.places}
    for place in sorted(best.unproven):
        asked = _unproven(structure, figures, best, place, places)
        if asked is not None:
            return replace(structure, asked=_first_missed(structure, figures, asked, places))
        if place not in parts or is_strong_result(figures.lines[place].label):
            unproven.append(place)  # 'Net trading income' that a total counts is one of its lines
    asked = _income_of_costs(structure) or _lone_group(structure, figures, places)
    asked = asked or _missed_in_some(structure, figures, places) or _without_one(structure, figures, places)
    asked = asked or _lone_difference(structure, figures, places)
    return replace(structure, unproven=tuple(unproven)) if asked is None else replace(structure, asked=asked)


def _income_of_costs(structure: Structure) -> Asked | None:
    """What to ask about income above its costs and what they leave of it, which has no name of a result."""
    for one in structure.sums:
        whole, parts = structure.lines[one.line], [structure.lines[place].label for place in one.places]
        is_above = one.shape is Shape.PLUS and one.line < min(one.places) and whole.naming is not Naming.TOTAL
        if is_above and is_income_of_costs(whole.label, parts):
            return Asked(line=one.line, doubt=Doubt.GROUP, nearest=one.parts)
    return None


def _lone_group(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Asked | None:
    """What to ask about a line that is the sum of those beside it; None where a proven total counts them all."""
    wholes = [(one.line, {one.line, *(place for place, _ in one.parts)}) for one in structure.sums]
    among = groups_among(figures)
    last, held = places[-1], {place for group in among for place in group[1:]}
    tops = sorted(group[0] for group in among if group[0] not in held)
    if among and last not in structure.totals and (signed := _as_left(figures, last, tops, 0.0)):
        return Asked(line=last, doubt=Doubt.DIFFERENCE, nearest=signed)
    for group in (*two_below(figures, places), *called_groups(figures, places), *among):
        if not any(line == group[0] or lines.issuperset(group) for line, lines in wholes):
            return Asked(line=group[0], doubt=Doubt.GROUP, nearest=tuple((place, 1) for place in group[1:]))
    # Of what no total counts: 'Tickets' that are a total themselves, less 'Running' leave 'Surplus'.
    parts = {place for one in structure.sums for place, _ in one.parts}
    for whole, taken, left in two_below(figures, [place for place in places if place not in parts]):
        if whole in structure.totals:
            return Asked(line=left, doubt=Doubt.DIFFERENCE, nearest=((whole, 1), (taken, -1)))
    return None


def _missed_in_some(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Asked | None:
    """What to ask about a line that is what lines before it, which no total counts, come to in some columns."""
    held = {place for one in structure.sums for place in one.places}
    behind = {one.line for one in structure.sums if min(one.places) < one.line}
    for place, before in _with_uncounted(structure, places):
        name = structure.lines[place].label
        if place in behind or not any(figures.filled[place]) or is_kept(name) or says_a_side(name):
            continue
        is_result = place in held and may_be_result(name)
        near = _holds_in_some(figures, place, before)
        if near is not None and near.bits >= (_RESULT_IN_SOME if is_result else _LINE_IN_SOME):
            return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=near.parts, off=near.off)
    return None


def _without_one(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Asked | None:
    """What to ask about a line that is the sum of lines right before it but for one of them, beyond chance.

    It is their total, from which a line that came in later is left out; no total counts these lines.
    """
    for place, before in _with_uncounted(structure, places):
        line = structure.lines[place]
        told = figures.told(place)
        if place in structure.totals or not told or is_kept(line.label) or says_a_side(line.label):
            continue
        as_one = figures.as_one(told)
        reached = as_one[before[-1]] if before else 0
        for start in range(len(before) - 2, -1, -1):
            block, reached = before[start:], reached + as_one[before[start]]
            left = next((one for one in block[1:] if as_one[one] == reached - as_one[place] != 0), None)
            parts = tuple((one, 1) for one in block if one != left)
            if left is None or len(parts) < 2 or not figures.are_of_one_sign(place, [one for one, _ in parts]):
                continue
            fit = figures.fit(place, parts)
            least = _GROUP_WITHOUT_ONE if line.naming is Naming.GROUP else _WITHOUT_ONE
            if fit is not None and not fit.off and fit.bits >= least + 2 * log2(len(before)):
                return Asked(line=place, doubt=Doubt.LEFT_OUT, left_out=left, nearest=parts)
    return None


def _lone_difference(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Asked | None:
    """What to ask about a line that is what is left of those before it, beyond chance, and counts beside them."""
    parts = {place for one in structure.sums for place in one.places}
    for place in places:
        line = structure.lines[place]
        is_apart = place not in structure.totals and place not in parts and line.naming is Naming.NONE
        if not is_apart or not any(figures.filled[place]) or says_a_side(line.label) or is_kept(line.label):
            continue
        taken = {part for one in structure.sums if one.line < place for part in one.places}
        before = [one for one in places if one < place and one not in taken][-_NEAREST_OF:]
        last = max((at for at, one in enumerate(before) if one in structure.totals), default=0)
        for some in (before, before[last:]) if last else (before,):
            # What is left of all others at the end of a table with totals is hardly chance.
            closes = place == places[-1] and some is before and bool(structure.sums)
            least = 0.0 if structure.totals.issuperset(some) else _LEFT_OF_ALL
            opens = bool(some) and is_opening_name(figures.lines[some[0]].label)
            enough = (_LEFT_BY_NAME if opens else _LEFT) + log2(1 + len(before))
            # What is called 'Remaining' needs no other proof than that it is what is left of all before it.
            enough = 0.0 if is_remainder_name(line.label) and some is before else enough
            signed = _as_left(figures, place, some, least if closes else enough)
            if signed:
                return Asked(line=place, doubt=Doubt.DIFFERENCE, nearest=signed)
    return None


def _as_left(figures: TableFigures, place: int, before: Sequence[int], least: float) -> tuple[tuple[int, int], ...]:
    """A line as some others less the ones behind them; nothing where it is not, or may be by chance."""
    as_one = figures.as_one(figures.told(place))
    reached, wanted = 0, as_one[place] + sum(as_one[one] for one in before)
    for plus, last in enumerate(before, 1):
        reached += as_one[last]
        if (
            2 * reached != wanted
            or len(before) < 2
            or (plus == len(before) and figures.are_of_one_sign(place, before))
        ):
            continue
        signed = tuple((one, 1 if at < plus else -1) for at, one in enumerate(before))
        fit = figures.fit(place, signed)
        if fit is not None and not fit.off and fit.bits >= least:
            return signed
    return ()


def maybe_totals(structure: Structure, figures: TableFigures, places: Sequence[int]) -> tuple[int, ...]:
    """Lines that come to others, with too little evidence to be taken for their total."""
    upward = TableFigures(structure.lines[::-1])
    last = len(structure.lines) - 1
    groups = () if structure.sums else maybe_groups(figures) or [last - place for place in maybe_groups(upward)]
    groups = groups if groups or structure.sums else maybe_among(figures)
    return tuple(sorted({*_closing_blocks(structure, figures, places), *groups}))


def _closing_blocks(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Iterator[int]:
    """Lines that come to those right before them, since the last total."""
    parts = {part for one in structure.sums for part, _ in one.parts}
    for place in places:
        before = _open_before(structure, places, place)[-_NEAREST_OF:]
        if place in structure.totals or place in parts or len(before) < 2:
            continue
        if (
            figures.lines[place].naming is not Naming.NONE
            or figures.lines[place].indent != figures.lines[before[-1]].indent
        ):
            continue
        for start in range(len(before) - 1):
            some = before[start:]
            fit = figures.fit(place, [(one, 1) for one in some])
            least = _MAYBE + (_ELSEWHERE + log2(1 + len(before)) if start else 0.0)
            if len(some) == len(figures.lines) - 1:
                least = _MAYBE_LAST
            is_exact = fit is not None and not fit.off and fit.bits >= least
            if is_exact and (len(some) > 2 or figures.are_of_one_sign(place, some)):
                yield place
                break


def _unproven(
    structure: Structure, figures: TableFigures, best: Reading, place: int, places: Sequence[int]
) -> Asked | None:
    """What to ask about a line with a total's name that nothing proves; None where it may well be a line."""
    left_out = next((one for one in best.left_out if one.line == place), None)
    if left_out is not None:
        return Asked(line=place, doubt=Doubt.LEFT_OUT, sums=(left_out,), left_out=left_out.left_out)
    lines, after = figures.lines, [one for one in places if one > place]
    is_part = any(place == one for found in structure.sums for one, _ in found.parts)
    near = _nearest(figures, place, _open_before(structure, places, place))
    if after and lines[after[0]].indent > lines[place].indent:
        near = _nearest_below(figures, place, after) or near
    is_total = is_surely_total(lines[place]) or is_strong_result(lines[place].label)
    least = _RESULT_IN_SOME if is_total else _LINE_IN_SOME
    before = _uncounted(structure, place, places)
    if (missed := _holds_in_some(figures, place, before)) is not None and missed.bits >= least:
        return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=missed.parts, off=missed.off)
    if _follows_its_parts(structure, place, places):
        near = _nearest(figures, place, before) or near
        is_part = False
    is_alone = not structure.sums and bool(after) and not is_surely_total(lines[place])
    if near is not None and near.is_near and not (is_alone and near.distance > _NEAR_OF_LONE):
        return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=near.parts, off=near.off)
    is_sure = is_surely_total(lines[place]) and (near is not None or is_strong_result(lines[place].label))
    is_sure = is_sure and any(one < place and any(figures.filled[one]) for one in places)
    if is_part or not (is_sure or any(one.line < place for one in structure.sums)):
        return None  # nothing else speaks for its being a total
    return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=near.parts if near else (), off=near.off if near else None)


def _first_missed(structure: Structure, figures: TableFigures, asked: Asked, places: Sequence[int]) -> Asked:
    """What is asked of a total that misses its parts; of a part of it instead, which misses its own by as much.

    'Operating result' that adds up without 'Operating costs' only is right where these are not what they come to.
    """
    parts = [one for one, _ in asked.nearest] + ([] if asked.left_out is None else [asked.left_out])
    room = Decimal(figures.room(len(asked.nearest))).scaleb(-figures.decimals)
    for part in parts:
        near = _own_missed(structure, figures, part, places)
        if near is None or near.off is None or not near.off[1]:
            continue
        is_total = figures.lines[part].naming.is_total
        is_same = asked.off is not None and (asked.off[0], abs(asked.off[1])) == (near.off[0], abs(near.off[1]))
        is_right = is_total and asked.off is not None and abs(asked.off[1]) <= room  # its parts come to it
        if is_same or is_right or part == asked.left_out:
            inner = Asked(line=part, doubt=Doubt.UNPROVEN, nearest=near.parts, off=near.off)
            return _first_missed(structure, figures, inner, [one for one in places if one != asked.line])
    # Where a total above it misses its lines in some column, what is made of it cannot be proven.
    return _missed_in_some(structure, figures, [one for one in places if one < asked.line]) or asked


def _own_missed(structure: Structure, figures: TableFigures, part: int, places: Sequence[int]) -> _Near | None:
    """How far a line that is no proven total is from what stands before it, or is set in below it; None where neither
    comes near."""
    if part in structure.totals or part not in places or not any(figures.filled[part]):
        return None
    after = [one for one in places if one > part]
    if after and figures.lines[after[0]].indent > figures.lines[part].indent:
        return _nearest_below(figures, part, after)
    before = _uncounted(structure, part, places)
    near = _holds_in_some(figures, part, before) or _nearest(figures, part, before)
    return near if near is not None and near.is_near else None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Near:
    """A sum that a line misses: where it misses it most and by how much, and whether it comes near.

    Parameters
    ----------
    off : None where the parts have nothing in any column of the line.
    bits : the evidence of the columns in which it is that sum, where those are half of its columns or more.
    """

    parts: tuple[tuple[int, int], ...]
    off: tuple[int, Decimal] | None
    distance: Decimal
    is_near: bool
    bits: float


def _nearest(figures: TableFigures, place: int, before: Sequence[int]) -> _Near | None:
    """The natural sum of open lines before it that comes nearest to a line."""
    return min(_sums_missed(figures, place, before), key=lambda one: one.distance, default=None)


def _sums_missed(figures: TableFigures, place: int, before: Sequence[int]) -> Iterator[_Near]:
    """How far a line is from each natural sum of lines before it; a result, from what those leave, too."""
    line = figures.lines[place]
    can_be_left = line.naming is Naming.RESULT or (line.naming is Naming.NONE and may_be_result(line.label))
    for start in range(len(before) - 1) if len(before) <= _NEAREST_STARTS else (0,):
        block = before[start:]
        yield _missed(figures, place, tuple((one, 1) for one in block))
        for less in range(1, len(block)) if can_be_left else ():
            yield _missed(figures, place, tuple((one, -1 if at >= less else 1) for at, one in enumerate(block)))
            if less < len(block) - 1:
                yield _missed(figures, place, tuple((one, -1 if at == less else 1) for at, one in enumerate(block)))


def _holds_in_some(figures: TableFigures, place: int, before: Sequence[int]) -> _Near | None:
    """What lines right before a line that no total counts come to, where that holds in half of its columns or more:
    those with the most evidence."""
    tried = list(_sums_missed(figures, place, before))
    best = max((one for one in tried if one.bits), key=lambda one: one.bits, default=None)
    # Of many sums one meets by chance.
    return best and replace(best, bits=best.bits - log2(len(tried)))


def _uncounted(structure: Structure, place: int, places: Sequence[int]) -> Sequence[int]:
    """The last lines before a place that no total counts."""
    return next(before for one, before in _with_uncounted(structure, [*places, place]) if one == place)


def _with_uncounted(structure: Structure, places: Sequence[int]) -> Iterator[tuple[int, Sequence[int]]]:
    """Each place with the last lines before it that no total counts."""
    counted = {part for one in structure.sums for part in one.places}
    before: deque[int] = deque(maxlen=_NEAREST_OF)
    for place in places:
        yield place, tuple(before)
        if place not in counted:
            before.append(place)


def _follows_its_parts(structure: Structure, place: int, places: Sequence[int]) -> bool:
    """Whether a later result begins with a line that stands right behind a total which nothing counts."""
    counted = {part for one in structure.sums for part in one.places}
    before = places[places.index(place) - 1]
    begins = any(one.parts[0] == (place, 1) and any(sign < 0 for _, sign in one.parts) for one in structure.sums)
    return begins and before < place and before in structure.totals - counted


def _nearest_below(figures: TableFigures, place: int, after: Sequence[int]) -> _Near | None:
    """The sum of the lines below it that are set in, which comes nearest to a line."""
    lines = figures.lines
    below = list(takewhile(lambda one: lines[one].indent > lines[place].indent, after))
    least = min(lines[one].indent for one in below)
    parts = tuple((one, 1) for one in below if lines[one].indent == least)
    return _missed(figures, place, parts)


def _missed(figures: TableFigures, place: int, parts: tuple[tuple[int, int], ...]) -> _Near:
    """By how much a line misses a sum."""
    columns = figures.told(place)
    sums = [sum(sign * figures.filled[one][column] for one, sign in parts) for column in columns]
    apart = [figures.filled[place][column] - found for column, found in zip(columns, sums, strict=True)]
    at = max(range(len(columns)), key=lambda one: (bool(sums[one]), abs(apart[one])))  # where there is a sum to miss
    distance = Decimal(sum(map(abs, apart))) / max(1, sum(map(abs, sums)))
    same = [column for column, one in zip(columns, apart, strict=True) if not one]
    holds = 2 * len(same) >= len(columns) > len(same)
    return _Near(
        parts=parts,
        off=(columns[at], Decimal(apart[at]).scaleb(-figures.decimals)) if any(sums) else None,
        distance=distance,
        bits=figures.evidence(place, parts, same) if holds else 0.0,
        is_near=distance <= _NEAR or (len(columns) > 2 and sum(not one for one in apart) * 2 >= len(columns)),
    )


def _open_before(structure: Structure, places: Sequence[int], place: int) -> list[int]:
    """The lines before a place that no total before it has taken, from the last total on."""
    taken = {part for one in structure.sums for part, _ in one.parts if one.line < place}
    before = [one for one in places if one < place and one not in taken]
    last = max((at for at, one in enumerate(before) if one in structure.totals), default=0)
    return before[last:]
