"""The structure of a table, found from its figures: which lines are totals of which others, and which are ratios.

Each line is tried as a signed sum of the lines and totals before it, or of those below it, in all columns at once.
Names are evidence, arithmetic is proof; both are weighed in bits. What cannot be told is asked, never guessed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import Enum
from functools import partial
from itertools import pairwise, takewhile

from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.outline import called_groups, maybe_groups, two_below
from marvex.core.structure.quotients import RatioFound, could_be_ratio, ratio_of
from marvex.core.structure.sums import Open, Shape, SumFound, above, sums_of
from marvex.core.structure.total_names import (
    Naming,
    is_opening_name,
    is_plain_total,
    is_strong_result,
    without_total_name,
)

READINGS = 6  # of the lines so far, that are kept beside one another
MOST_SEARCHED = 400  # lines of which each is tried as a sum
CANDIDATES = 3  # of one line in each of them
_UNPROVEN = 15.0  # what it costs that a line with a total's name stays unproven
_BALANCED = 20.0  # what it earns that a total is the same as one before it
_APART = 3.0  # bits by which the best reading has to be ahead
_UNNAMED, _UNNAMED_LESS_EACH, _UNNAMED_LEAST = 12.0, 2.0, 6.0
_WHOLE = 3.0  # where it is called a group, and comes to all others
_SURE = -6.0  # where the name can hardly be another's
_ELSEWHERE_LONE, _NATURAL_LONE = 10.0, 6.0
_NATURAL, _TOLERATED, _TOLERATED_ALONE, _ELSEWHERE, _SEARCHED = 1.0, 2.0, 5.0, 5.0, 8.0
_LONE_COPY = 8.0  # bits of the only total of a table, where that is the same as the line before it
_MAYBE = 9.0  # bits, from which on a line that nothing calls a total is said to come to those before it
_NEAREST_OF = 40  # open lines, whose sums an unproven total is held against
_NEAREST_STARTS = 12  # of them; of more the whole is tried
_NEAR_OF_LONE = Decimal("0.02")  # the same where no other total is proven and 'Total X' may be a name
_NEAR = Decimal("0.1")  # of the sum, within which an unproven total is taken for a wrong one


class Doubt(Enum):
    """Why a table's structure cannot be told."""

    SIGNS = "more than one choice of signs"
    LEFT_OUT = "adds up without one line only"
    DIFFERENCE = "what one line leaves of another"
    GROUP = "the sum of the two lines below it"
    SEVERAL = "more than one reading"
    UNPROVEN = "the name of a total that nothing proves"


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What has to be asked: about which line, and the sums that could serve or come nearest.

    Parameters
    ----------
    off : for an unproven total, the column that differs most and by how much the line exceeds the sum.
    """

    line: int
    doubt: Doubt
    sums: tuple[SumFound, ...] = ()
    left_out: int | None = None
    nearest: tuple[tuple[int, int], ...] = ()
    off: tuple[int, Decimal] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Structure:
    """What was found of a table's lines, by their places.

    Parameters
    ----------
    sums : each total with its parts, in order; those of shape MEMO are of lines that are parts elsewhere.
    unproven : lines named as totals that nothing proves, where nothing speaks against their being lines.
    loose_ratios : lines in per cent that are the quotient of no two lines.
    maybe : lines without a total's name that come to all before them, though that may be chance.
    """

    lines: tuple[TableLine, ...]
    sums: tuple[SumFound, ...] = ()
    maybe: tuple[int, ...] = ()
    ratios: tuple[RatioFound, ...] = ()
    asked: Asked | None = None
    unproven: tuple[int, ...] = ()
    loose_ratios: tuple[int, ...] = ()

    @property
    def totals(self) -> frozenset[int]:
        return frozenset(one.line for one in self.sums)

    @property
    def leaves(self) -> tuple[int, ...]:
        """The lines that are neither totals nor ratios."""
        others = self.totals | {one.line for one in self.ratios} | set(self.loose_ratios)
        return tuple(place for place in range(len(self.lines)) if place not in others)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Reading:
    """One way in which the lines so far can be read."""

    stack: Open
    sums: tuple[SumFound, ...] = ()
    unproven: frozenset[int] = frozenset()
    guessed: frozenset[int] = frozenset()  # totals without a name, which another is still to prove
    bits: float = 0.0
    left_out: tuple[SumFound, ...] = field(default=(), compare=False)

    @property
    def parts(self) -> frozenset[tuple[int, tuple[tuple[int, int], ...]]]:
        return frozenset((one.line, one.parts) for one in self.sums)


def found_structure(lines: Sequence[TableLine], *, only_named: bool = False) -> Structure:
    """The totals and ratios of a table's lines, or what has to be asked about them.

    Parameters
    ----------
    only_named : a line without a total's name is none, as in tables of facts, or of very many lines.
    """
    if only_named and not any(
        line.naming.is_total or line.naming is Naming.RATIO or line.is_percent for line in lines
    ):
        return Structure(lines=tuple(lines))
    figures = TableFigures(lines)
    maybe_ratios = [
        place
        for place, line in enumerate(lines)
        if (not only_named or line.is_percent or line.naming is Naming.RATIO) and could_be_ratio(figures, place)
    ]
    amounts = [place for place in range(len(lines)) if place not in maybe_ratios]
    near = (
        (place, [one for one in amounts if len(lines) <= MOST_SEARCHED or abs(one - place) <= MOST_SEARCHED])
        for place in maybe_ratios
    )
    ratios = [one for one in (ratio_of(figures, place, among) for place, among in near) if one]
    known = {one.line for one in ratios}
    is_percent = [lines[place].is_percent or lines[place].naming is Naming.RATIO for place in range(len(lines))]
    loose = tuple(place for place in maybe_ratios if place not in known and is_percent[place])
    summed = [place for place in range(len(lines)) if place not in known and place not in loose]
    if len(amounts) < 2:
        return Structure(lines=tuple(lines))  # a table of rates, which are no ratios of its own lines
    readings = _readings(figures, summed, only_named=only_named)
    readings = [_without_lone_copies(figures, one) for one in readings]
    structure = Structure(
        lines=tuple(lines),
        sums=tuple(sorted(readings[0].sums, key=lambda one: one.line)),
        ratios=tuple(ratios),
        loose_ratios=loose,
    )
    found = _with_doubts(structure, figures, readings, summed)
    return found if only_named else replace(found, maybe=_maybe_totals(found, figures, summed))


def _readings(figures: TableFigures, places: Sequence[int], *, only_named: bool) -> list[_Reading]:
    """The likeliest readings of the lines, the best first."""
    has_names = any(figures.lines[place].naming.is_total for place in places)
    headings = _block_starts(figures.lines, places)
    readings = [_Reading(stack=Open(places=(), totals=frozenset(), headings=headings))]
    for place in places:
        is_within = has_names and place != places[-1]
        following = [
            later
            for one in readings
            for later in _after(figures, one, place, only_named=only_named, can_guess=is_within)
        ]
        following.sort(key=lambda one: -one.bits)
        plain = [one for one in following if not one.guessed]
        readings = plain[: READINGS if has_names else 1] + [one for one in following if one.guessed][:CANDIDATES]
    # A total above its parts had no cost while they were to come.
    readings = [_behind(figures, one) for one in readings if _is_borne_out(figures, one)]
    different: dict[frozenset[tuple[int, tuple[tuple[int, int], ...]]], _Reading] = {}
    for one in sorted(readings, key=lambda one: -one.bits):
        different.setdefault(one.parts, one)
    return list(different.values())


def _without_lone_copies(figures: TableFigures, reading: _Reading) -> _Reading:
    """The reading, unless all its totals are one copy of a line whose name may be another's."""
    copies = [one for one in reading.sums if one.shape is Shape.COPY]
    is_lone = len(copies) == 1 and copies[0].bits < _LONE_COPY
    if (
        len(copies) < len(reading.sums)
        or not is_lone
        or any(_is_surely_total(figures.lines[one.line]) for one in copies)
    ):
        return reading
    return replace(reading, sums=(), unproven=reading.unproven | {one.line for one in copies})


def _block_starts(lines: Sequence[TableLine], places: Sequence[int]) -> frozenset[int]:
    """The lines before which a heading or an opening stands, or that are set in otherwise than the one before."""
    changed = (place for before, place in pairwise(places) if lines[before].indent != lines[place].indent)
    openings = (after for one, after in pairwise(places[:2]) if is_opening_name(lines[one].label))
    return frozenset((*changed, *openings, *(place for place in places if lines[place].heads_block)))


def _is_borne_out(figures: TableFigures, reading: _Reading) -> bool:
    """Whether what was taken for a total without a name is a part of one that has a name."""
    named = {
        part
        for one in reading.sums
        if figures.lines[one.line].naming.is_total and one.is_natural and one.shape is Shape.PLUS and not one.fit.off
        for part, _ in one.parts
    }
    return reading.guessed <= named


def _after(
    figures: TableFigures, reading: _Reading, place: int, *, only_named: bool, can_guess: bool = False
) -> Iterator[_Reading]:
    """A reading with one more line: as a total of lines before it, as a line, or as the last below its own total.

    Parameters
    ----------
    can_guess : a total with a name, which is still to come, may prove what has none and too little evidence itself.
    """
    line = figures.lines[place]
    if only_named and not line.naming.is_total:
        pushed = replace(reading, stack=replace(reading.stack, places=(*reading.stack.places, place)))
        yield from _closed(figures, pushed, place) if reading.unproven else (pushed,)
        return
    candidates = sums_of(figures, place, reading.stack)
    taken = [one for one in candidates if _is_proven(figures, one, len(reading.sums))]
    taken.sort(key=lambda one: -one.bits)
    for one in taken[: CANDIDATES if line.naming.is_total else 1]:
        yield from _closed(figures, _taking(figures, reading, one), place)
    if can_guess and not taken and (guessed := next(filter(partial(_is_likely, figures), candidates), None)):
        yield from _closed(
            figures, replace(_taking(figures, reading, guessed), guessed=reading.guessed | {place}), place
        )
    left_out = tuple(one for one in candidates if one.shape is Shape.ONE_LEFT_OUT and one.bits >= _NATURAL)
    stack = reading.stack
    pushed = replace(
        reading,
        stack=replace(stack, places=(*stack.places, place)),
        left_out=(*reading.left_out, *left_out),
    )
    if line.naming.is_total and any(figures.filled[place]):
        cost = _cost_of_unproven(figures, place, len(stack.places))
        pushed = replace(pushed, bits=pushed.bits - cost, unproven=pushed.unproven | {place})
    yield from _closed(figures, pushed, place)


def _closed(figures: TableFigures, reading: _Reading, last: int) -> Iterator[_Reading]:
    """The reading, and those in which a line above now has all its parts below it."""
    lines = figures.lines
    if last + 1 < len(lines) and lines[last + 1].indent > lines[last].indent:
        yield reading
        return  # what is set in below the last line is still to come
    found = list(above(figures, reading.stack))
    # A line that all that is set in below it comes to is its total, and nothing else.
    sure = next((one for one in found if _heads(figures, one, last)), None)
    if sure is not None:
        yield from _closed(figures, _taking(figures, reading, sure), last)
        return
    yield reading
    for one in found:
        is_short = len(one.parts) < 3 and not one.is_natural
        if not is_short and _is_proven(figures, one, len(reading.sums)):
            yield from _closed(figures, _taking(figures, reading, one), last)


def _heads(figures: TableFigures, one: SumFound, last: int) -> bool:
    """Whether a sum is that of a line of all that is set in below it, which ends with the last one, to the digit."""
    lines, head = figures.lines, figures.lines[one.line]
    is_set_in = all(lines[place].indent > head.indent for place, _ in one.parts)
    is_ended = last + 1 >= len(lines) or lines[last + 1].indent <= head.indent
    return is_set_in and is_ended and one.shape is Shape.PLUS and not one.fit.off


def _taking(figures: TableFigures, reading: _Reading, one: SumFound) -> _Reading:
    """The reading with a sum, whose line now stands for its parts."""
    stack, bits = reading.stack, reading.bits + one.bits + (_BALANCED if _balances(figures, reading, one) else 0.0)
    if one.taken_from is None:
        taken = replace(stack, taken=(*stack.taken, one.line))
    else:
        gone = tuple(place for place in stack.places[one.taken_from :] if place != one.line)
        taken = replace(
            stack,
            places=(*stack.places[: one.taken_from], one.line),
            totals=(stack.totals - set(gone)) | {one.line},
            taken=(*stack.taken, *(gone if len(one.parts) > 1 else ())),  # a group of one says all of its one line
        )
    if one.line in reading.unproven and one.taken_from is not None:
        bits += _cost_of_unproven(figures, one.line, one.taken_from)
    return replace(reading, stack=taken, sums=(*reading.sums, one), bits=bits, unproven=reading.unproven - {one.line})


def _balances(figures: TableFigures, reading: _Reading, one: SumFound) -> bool:
    """Whether a total of its own parts is the same as an earlier one: both sides of a balance sheet."""
    earlier = {each.line for each in reading.sums} - {place for place, _ in one.parts}
    own = figures.filled[one.line]
    return one.shape is Shape.PLUS and any(own) and any(figures.filled[place] == own for place in earlier)


def _cost_of_unproven(figures: TableFigures, place: int, at: int) -> float:
    """What it costs that a line with a total's name has no proof yet, by its place among the open lines.

    Nothing where it can only be the total of what stands below it.
    """
    lines = figures.lines
    is_head = place + 1 < len(lines) and lines[place + 1].indent > lines[place].indent
    return 0.0 if is_head or not at else _UNPROVEN


def _behind(figures: TableFigures, reading: _Reading) -> _Reading:
    """The reading with the cost of the lines that have waited for their proof to the end."""
    waiting = (at for at, place in enumerate(reading.stack.places) if place in reading.unproven)
    cost = sum(_UNPROVEN - _cost_of_unproven(figures, reading.stack.places[at], at) for at in waiting)
    return replace(reading, bits=reading.bits - cost)


def _is_proven(figures: TableFigures, one: SumFound, proven: int) -> bool:
    """Whether the evidence suffices for what the line is called and how its sum runs."""
    if one.shape is Shape.ONE_LEFT_OUT:
        return False
    if not figures.lines[one.line].naming.is_total:
        lines = figures.lines
        is_set_in = all(lines[place].indent > lines[one.line].indent for place, _ in one.parts)
        if is_set_in and one.shape is Shape.PLUS and not one.fit.off:
            return True  # that they are set in below it says as much as a name
        if len(one.parts) == 1:
            return False
        least = max(_UNNAMED_LEAST, _UNNAMED - _UNNAMED_LESS_EACH * proven)
        is_plain = one.shape is Shape.PLUS and not one.fit.off
        is_of_all = one.line == len(lines) - 1 and min(one.places) == 0
        if figures.lines[one.line].naming is Naming.WHOLE and is_plain and is_of_all:
            return one.bits >= _WHOLE
        if figures.lines[one.line].naming is Naming.GROUP and one.is_natural and len(one.parts) > 2:
            return one.shape is Shape.PLUS and one.bits >= (_UNNAMED if one.fit.off else _UNNAMED_LEAST)
        is_of_several = len(one.parts) > 2 or figures.are_of_one_sign(one.line, one.places)
        return is_plain and one.bits >= least and is_of_several
    if one.shape in (Shape.SEARCHED, Shape.MEMO, Shape.ONE_TURNED):
        return one.bits >= _SEARCHED
    is_sure = _is_surely_total(figures.lines[one.line]) or _is_called_after(figures, one)
    is_lone = not proven and not is_sure  # 'Total Marine' may be a customer
    if not one.is_natural:
        return one.bits >= (_ELSEWHERE_LONE if is_lone else _ELSEWHERE)
    if not one.fit.off and is_sure:
        return one.bits >= _SURE
    if one.fit.off:
        return one.bits >= (_TOLERATED_ALONE if len(figures.told(one.line)) == 1 else _TOLERATED)
    is_within = one.line + 1 < len(figures.lines)
    is_headed = is_within and figures.lines[min(place for place, _ in one.parts)].heads_block
    is_lone = is_lone and not is_headed  # 'Total North' below the heading 'North' is hardly a customer
    return one.bits >= (_NATURAL_LONE if is_lone and is_within else _NATURAL)


def _is_called_after(figures: TableFigures, one: SumFound) -> bool:
    """Whether a line is called the total of just what all its parts are called: 'Anne total' of two rows 'Anne'."""
    stem = without_total_name(figures.lines[one.line].label).casefold()
    return bool(stem) and all(figures.lines[place].label.strip().casefold() == stem for place, _ in one.parts)


def _is_surely_total(line: TableLine) -> bool:
    """Whether a name is hardly that of anything but a total: 'Total', 'Profit before tax', not 'Total Marine'."""
    return line.naming in (Naming.RESULT, Naming.CLOSING) or (
        line.naming is Naming.TOTAL and is_plain_total(line.label)
    )


def _is_likely(figures: TableFigures, one: SumFound) -> bool:
    """Whether a line without a total's name comes to the block before it, beyond what is common by chance."""
    is_plain = one.shape is Shape.PLUS and one.is_natural and not one.fit.off and len(one.parts) > 1
    return is_plain and one.bits >= _UNNAMED_LEAST and figures.are_of_one_sign(one.line, one.places)


def _with_doubts(
    structure: Structure, figures: TableFigures, readings: Sequence[_Reading], places: Sequence[int]
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
    unproven = []
    for place in sorted(best.unproven):
        asked = _unproven(structure, figures, best, place, places)
        if asked is not None:
            return replace(structure, asked=asked)
        unproven.append(place)
    asked = _lone_group(structure, figures, places)
    return replace(structure, unproven=tuple(unproven)) if asked is None else replace(structure, asked=asked)


def _lone_group(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Asked | None:
    """What to ask about a line that is the sum of those beside it; None where a proven total counts them all."""
    wholes = [(one.line, {one.line, *(place for place, _ in one.parts)}) for one in structure.sums]
    for group in (*two_below(figures, places), *called_groups(figures, places)):
        if not any(line == group[0] or lines.issuperset(group) for line, lines in wholes):
            return Asked(line=group[0], doubt=Doubt.GROUP, nearest=tuple((place, 1) for place in group[1:]))
    # Of what no total counts: 'Tickets' that are a total themselves, less 'Running' leave 'Surplus'.
    parts = {place for one in structure.sums for place, _ in one.parts}
    for whole, taken, left in two_below(figures, [place for place in places if place not in parts]):
        if whole in structure.totals:
            return Asked(line=left, doubt=Doubt.DIFFERENCE, nearest=((whole, 1), (taken, -1)))
    return None


def _maybe_totals(structure: Structure, figures: TableFigures, places: Sequence[int]) -> tuple[int, ...]:
    """Lines that come to others, with too little evidence to be taken for their total."""
    upward = TableFigures(structure.lines[::-1])
    last = len(structure.lines) - 1
    groups = () if structure.sums else maybe_groups(figures) or [last - place for place in maybe_groups(upward)]
    return tuple(sorted({*_closing_blocks(structure, figures, places), *groups}))


def _closing_blocks(structure: Structure, figures: TableFigures, places: Sequence[int]) -> Iterator[int]:
    """Lines that come to all lines since the last total."""
    parts = {part for one in structure.sums for part, _ in one.parts}
    for place in places:
        before = _open_before(structure, places, place)
        if place in structure.totals or place in parts or len(before) < 2:
            continue
        if (
            figures.lines[place].naming is not Naming.NONE
            or figures.lines[place].indent != figures.lines[before[-1]].indent
        ):
            continue
        block = tuple((one, 1) for one in before)
        fit = figures.fit(place, block)
        if fit is not None and not fit.off and fit.bits >= _MAYBE and figures.are_of_one_sign(place, before):
            yield place


def _unproven(
    structure: Structure, figures: TableFigures, best: _Reading, place: int, places: Sequence[int]
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
    is_alone = not structure.sums and bool(after) and not _is_surely_total(lines[place])
    if near is not None and near.is_near and not (is_alone and near.distance > _NEAR_OF_LONE):
        return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=near.parts, off=near.off)
    is_sure = _is_surely_total(lines[place]) and (near is not None or is_strong_result(lines[place].label))
    is_sure = is_sure and any(one < place and any(figures.filled[one]) for one in places)
    if is_part or not (is_sure or any(one.line < place for one in structure.sums)):
        return None  # nothing else speaks for its being a total
    return Asked(line=place, doubt=Doubt.UNPROVEN, nearest=near.parts if near else (), off=near.off if near else None)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Near:
    """A sum that a line misses: where it misses it most and by how much, and whether it comes near."""

    parts: tuple[tuple[int, int], ...]
    off: tuple[int, Decimal]
    distance: Decimal
    is_near: bool


def _nearest(figures: TableFigures, place: int, before: Sequence[int]) -> _Near | None:
    """The natural sum of open lines before it that comes nearest to a line."""
    naming = figures.lines[place].naming
    starts = range(len(before) - 1) if len(before) <= _NEAREST_STARTS else (0,)
    blocks = [before[start:] for start in starts]
    tried = [
        tuple((one, 1 if at < plus else -1) for at, one in enumerate(block))
        for block in blocks
        for plus in (range(1, len(block) + 1) if naming is Naming.RESULT else (len(block),))
    ]
    return min((_missed(figures, place, parts) for parts in tried), key=lambda one: one.distance, default=None)


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
    at = max(range(len(columns)), key=lambda one: abs(apart[one]))
    distance = Decimal(sum(map(abs, apart))) / max(1, sum(map(abs, sums)))
    return _Near(
        parts=parts,
        off=(columns[at], Decimal(apart[at]).scaleb(-figures.decimals)),
        distance=distance,
        is_near=distance <= _NEAR or (len(columns) > 2 and sum(not one for one in apart) * 2 >= len(columns)),
    )


def _open_before(structure: Structure, places: Sequence[int], place: int) -> list[int]:
    """The lines before a place that no total before it has taken, from the last total on."""
    taken = {part for one in structure.sums for part, _ in one.parts if one.line < place}
    before = [one for one in places if one < place and one not in taken]
    last = max((at for at, one in enumerate(before) if one in structure.totals), default=0)
    return before[last:][-_NEAREST_OF:]
