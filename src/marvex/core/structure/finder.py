"""The structure of a table, found from its figures: which lines are totals of which others, and which are ratios.

Each line is tried as a signed sum of the lines and totals before it, or of those below it, in all columns at once.
Names are evidence, arithmetic is proof; both are weighed in bits. What cannot be told is asked, never guessed.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from itertools import pairwise
from math import log2

from marvex.core.structure.cost_names import is_income_of_costs, looks_like_cost, speaks_of_cost, speaks_of_income
from marvex.core.structure.doubts import is_surely_total, maybe_totals, with_doubts
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.quotients import could_be_ratio, may_be_margin, ratio_of
from marvex.core.structure.structure_found import Reading, Structure
from marvex.core.structure.sums import Open, Shape, SumFound, above, sums_of
from marvex.core.structure.total_names import (
    Naming,
    is_opening_name,
    may_be_result,
    without_total_name,
)

_FEW = 400  # lines, up to which the bits asked for leave out what is chance
READINGS = 6  # of the lines so far, that are kept beside one another
MOST_SEARCHED = 2_000  # lines of which each is tried as a sum
CANDIDATES = 3  # of one line in each of them
_UNPROVEN = 15.0  # what it costs that a line with a total's name stays unproven
_BALANCED = 20.0  # what it earns that a total is the same as one before it
_UNNAMED, _UNNAMED_LESS_EACH, _UNNAMED_LEAST = 12.0, 2.0, 6.0
_MAY_BE_LEAST = 8.0  # of what is left, where the name may be a result's
_SURE_UNNAMED = 24.0
_ROUNDED_LEAST = 0.0  # of a total with a name that its block comes to but for rounding, where another bears it out
_GROUP_LEAST = 2.0  # of a group by its name ('Revenue'), where a total with a name bears it out
_WHOLE = 3.0  # of the last line, where it comes to all others
_SURE = -6.0  # where the name can hardly be another's
_ELSEWHERE_LONE, _NATURAL_LONE = 10.0, 6.0
_NATURAL, _TOLERATED, _TOLERATED_ALONE, _ELSEWHERE, _SEARCHED = 1.0, 2.0, 5.0, 5.0, 8.0
_DIFFERENCES = (Shape.LESS_REST, Shape.PLUS_THEN_MINUS)
_LONE_COPY = 8.0  # bits of the only total of a table, where that is the same as the line before it


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
    is_percent = [line.is_percent or line.naming is Naming.RATIO for line in lines]
    are_small = len(lines) - len(maybe_ratios) < 2  # as rates are, and amounts in millions
    if are_small:
        maybe_ratios = [place for place in maybe_ratios if is_percent[place]]
    amounts = [place for place in range(len(lines)) if place not in maybe_ratios]
    margins = [place for place in amounts if not only_named and may_be_margin(figures, place)]
    reach = len(lines) if len(lines) <= MOST_SEARCHED else MOST_SEARCHED
    near = ((at, [one for one in amounts if 0 < abs(one - at) <= reach]) for at in sorted((*maybe_ratios, *margins)))
    ratios = [one for one in (ratio_of(figures, at, among) for at, among in near) if one]
    known = {one.line for one in ratios}
    loose = tuple(place for place in maybe_ratios if place not in known and is_percent[place])
    summed = [place for place in range(len(lines)) if place not in known and place not in loose]
    if len(amounts) < 2:
        return Structure(lines=tuple(lines))  # a table of rates, which are no ratios of its own lines
    readings = _readings(figures, summed, only_named=only_named)
    readings = [_without_lone_copies(figures, one) for one in readings]
    structure = Structure(
        lines=_with_results(lines, readings[0]),
        sums=tuple(sorted(readings[0].sums, key=lambda one: one.line)),
        ratios=tuple(ratios),
        loose_ratios=loose,
    )
    found = with_doubts(structure, figures, readings, summed)
    if are_small and not structure.sums:
        return Structure(lines=tuple(lines))
    return found if only_named else replace(found, maybe=maybe_totals(found, figures, summed))


def _with_results(lines: Sequence[TableLine], reading: Reading) -> tuple[TableLine, ...]:
    """The lines; what lines come to that may be a result by its name is one."""
    totals = {one.line for one in reading.sums}
    results = {place for place in totals if lines[place].naming is Naming.NONE and may_be_result(lines[place].label)}
    return tuple(replace(one, naming=Naming.RESULT) if at in results else one for at, one in enumerate(lines))


def _readings(figures: TableFigures, places: Sequence[int], *, only_named: bool) -> list[Reading]:
    """The likeliest readings of the lines, the best first."""
    has_names = any(figures.lines[place].naming.is_total for place in places)
    headings = _block_starts(figures.lines, places)
    readings = [Reading(stack=Open(places=(), totals=frozenset(), headings=headings))]
    for place in places:
        is_within = place != places[-1]
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
    different: dict[frozenset[tuple[int, tuple[tuple[int, int], ...]]], Reading] = {}
    for one in sorted(readings, key=lambda one: -one.bits):
        different.setdefault(one.parts, one)
    return list(different.values())


def _without_lone_copies(figures: TableFigures, reading: Reading) -> Reading:
    """The reading, unless all its totals are one copy of a line whose name may be another's."""
    copies = [one for one in reading.sums if one.shape is Shape.COPY]
    is_lone = len(copies) == 1 and copies[0].bits < _LONE_COPY
    if (
        len(copies) < len(reading.sums)
        or not is_lone
        or any(is_surely_total(figures.lines[one.line]) for one in copies)
    ):
        return reading
    return replace(reading, sums=(), unproven=reading.unproven | {one.line for one in copies})


def _block_starts(lines: Sequence[TableLine], places: Sequence[int]) -> frozenset[int]:
    """The lines before which a heading or an opening stands, or that are set in otherwise than the one before."""
    changed = (place for before, place in pairwise(places) if lines[before].indent != lines[place].indent)
    openings = (after for one, after in pairwise(places[:2]) if is_opening_name(lines[one].label))
    return frozenset((*changed, *openings, *(place for place in places if lines[place].heads_block)))


def _is_borne_out(figures: TableFigures, reading: Reading) -> bool:
    """Whether what was taken for a total without a name is a part of a sure one, or of another such; one beside the
    others, whether a sure total comes to all of them without it."""
    parts = {one.line: one.places for one in reading.sums}
    sure = [
        one
        for one in reading.sums
        if (not one.fit.off or one.line not in reading.guessed)
        and _takes_block(one)
        and _is_sure(figures, reading, one)
    ]
    borne_out = {
        one.line
        for one in reading.sums
        if one.shape is Shape.MEMO and any(min(each.places) < one.line < each.line for each in sure)
    }
    waiting = [one.line for one in sure]
    while waiting:
        found = reading.guessed & set(parts[waiting.pop()]) - borne_out
        borne_out |= found
        waiting += found
    return reading.guessed <= borne_out


def _is_sure(figures: TableFigures, reading: Reading, one: SumFound) -> bool:
    """Whether a total needs none to bear it out: by its name, or by its figures alone."""
    line = figures.lines[one.line]
    is_named = line.naming.is_total or may_be_result(line.label)
    return is_named or (one.line not in reading.guessed and one.bits >= _SURE_UNNAMED)


def _is_left(one: SumFound, least: float) -> bool:
    """Whether a line is what is left of the lines before it, beyond chance."""
    return len(one.parts) > 1 and _takes_block(one) and not one.fit.off and one.bits >= least


def _takes_block(one: SumFound) -> bool:
    """Whether a sum begins where a block does, or takes all lines that are open."""
    return one.is_natural or one.taken_from == 0


def _after(
    figures: TableFigures, reading: Reading, place: int, *, only_named: bool, can_guess: bool = False
) -> Iterator[Reading]:
    """A reading with one more line: as a total of lines before it, as a line, or as the last below its own total.

    Parameters
    ----------
    can_guess : a sure total, which is still to come, may prove what has no name and too little evidence itself.
    """
    line = figures.lines[place]
    if only_named and not line.naming.is_total:
        pushed = replace(reading, stack=replace(reading.stack, places=(*reading.stack.places, place)))
        yield from _closed(figures, pushed, place) if reading.unproven else (pushed,)
        return
    closes = not can_guess and bool(reading.sums)
    can_be_left = can_guess or closes or may_be_result(line.label)
    candidates = sums_of(figures, place, reading.stack, can_be_left=can_be_left)
    taken = [
        one
        for one in candidates
        if _is_proven(figures, one, len(reading.sums)) or (closes and _closes_all(figures, one, reading))
    ]
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


def _closed(figures: TableFigures, reading: Reading, last: int) -> Iterator[Reading]:
    """The reading, and those in which a line above now has all its parts below it."""
    lines = figures.lines
    if last + 1 < len(lines) and lines[last + 1].indent > lines[last].indent:
        yield reading
        return  # what is set in below the last line is still to come
    found = [one for one in above(figures, reading.stack) if not _is_income(figures, one)]
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


def _is_income(figures: TableFigures, one: SumFound) -> bool:
    """Whether a total is called income and its parts costs, which are what it covers and no parts of it."""
    lines = figures.lines
    names = [lines[place].label for place in one.places]
    return lines[one.line].naming is Naming.TOTAL and is_income_of_costs(lines[one.line].label, names)


def _heads(figures: TableFigures, one: SumFound, last: int) -> bool:
    """Whether a sum is that of a line of all that is set in below it, which ends with the last one, to the digit."""
    lines, head = figures.lines, figures.lines[one.line]
    is_set_in = all(lines[place].indent > head.indent for place, _ in one.parts)
    is_ended = last + 1 >= len(lines) or lines[last + 1].indent <= head.indent
    return is_set_in and is_ended and one.shape is Shape.PLUS and not one.fit.off


def _taking(figures: TableFigures, reading: Reading, one: SumFound) -> Reading:
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


def _balances(figures: TableFigures, reading: Reading, one: SumFound) -> bool:
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


def _behind(figures: TableFigures, reading: Reading) -> Reading:
    """The reading with the cost of the lines that have waited for their proof to the end, and of groups above their
    members of which one leads to a total beside them: that is what is left, and no member."""
    waiting = (at for at, place in enumerate(reading.stack.places) if place in reading.unproven)
    cost = sum(_UNPROVEN - _cost_of_unproven(figures, reading.stack.places[at], at) for at in waiting)
    beside = {place for one in reading.sums if one.shape is Shape.MEMO for place in one.places}
    groups = (
        one for one in reading.sums if one.line < min(one.places) and not figures.lines[one.line].naming.is_total
    )
    taken_apart = sum(not beside.isdisjoint(one.places) for one in groups)
    return replace(reading, bits=reading.bits - cost - _UNPROVEN * taken_apart)


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
        least += max(0.0, log2(len(lines) / _FEW))  # among more lines more come to others by chance
        is_plain = one.shape is Shape.PLUS and not one.fit.off
        is_of_all = one.line == len(lines) - 1 and min(one.places) == 0
        if figures.lines[one.line].naming is Naming.WHOLE and is_plain and is_of_all:
            return one.bits >= _WHOLE
        if figures.lines[one.line].naming is Naming.GROUP and one.is_natural and len(one.parts) > 2:
            return one.shape is Shape.PLUS and one.bits >= (_UNNAMED if one.fit.off else _UNNAMED_LEAST)
        is_of_several = len(one.parts) > 2 or figures.are_of_one_sign(one.line, one.places)
        if one.shape in _DIFFERENCES or not is_of_several:
            return _is_left(one, _MAY_BE_LEAST) and may_be_result(figures.lines[one.line].label)
        return is_plain and one.bits >= least
    if one.shape in (Shape.SEARCHED, Shape.MEMO, Shape.ONE_TURNED):
        return one.bits >= _SEARCHED
    is_sure = is_surely_total(figures.lines[one.line]) or _is_called_after(figures, one)
    is_lone = not proven and not is_sure  # 'Total Marine' may be a customer
    if not one.is_natural and not (is_sure and _are_the_costs(figures, one)):
        return one.bits >= (_ELSEWHERE_LONE if is_lone else _ELSEWHERE)
    if not one.fit.off and is_sure:
        return one.bits >= _SURE
    if one.fit.off:
        return one.bits >= (_TOLERATED_ALONE if len(figures.told(one.line)) == 1 else _TOLERATED)
    is_within = one.line + 1 < len(figures.lines)
    is_headed = is_within and figures.lines[min(place for place, _ in one.parts)].heads_block
    is_lone = is_lone and not is_headed  # 'Total North' below the heading 'North' is hardly a customer
    return one.bits >= (_NATURAL_LONE if is_lone and is_within else _NATURAL)


def _are_the_costs(figures: TableFigures, one: SumFound) -> bool:
    """Whether a line that speaks of costs comes to just what stands before it from the first cost by its name on."""
    lines, first = figures.lines, min(one.places)
    if one.shape is not Shape.PLUS or one.fit.off or not first:
        return False
    is_first = looks_like_cost(lines[first].label) and not looks_like_cost(lines[first - 1].label)
    is_called_so = speaks_of_cost(lines[one.line].label)
    return is_called_so and is_first and not any(speaks_of_income(lines[place].label) for place in one.places)


def _closes_all(figures: TableFigures, one: SumFound, reading: Reading) -> bool:
    """Whether the last line is what all lines that are open come to, some of them below zero and totals among them.

    Where all are above zero it may be one of two parts that a total is split into as well.
    """
    is_mixed = one.shape is Shape.PLUS and not figures.are_of_one_sign(one.line, one.places)
    is_of_totals = any(place in reading.stack.totals for place in one.places)
    return is_mixed and is_of_totals and one.taken_from == 0 and not one.fit.off and one.bits >= _WHOLE


def _is_called_after(figures: TableFigures, one: SumFound) -> bool:
    """Whether a line is called the total of just what all its parts are called: 'Anne total' of two rows 'Anne'."""
    stem = without_total_name(figures.lines[one.line].label).casefold()
    return bool(stem) and all(figures.lines[place].label.strip().casefold() == stem for place, _ in one.parts)


def _is_likely(figures: TableFigures, one: SumFound) -> bool:
    """Whether a line without a total's name comes to the block before it, or is what is left of it, or one that is
    called a group comes to lines before it, beyond what is common by chance; or one with such a name but for rounding.
    """
    if one.shape is Shape.MEMO:
        return not one.fit.off and one.bits >= _UNNAMED and all(sign > 0 for _, sign in one.parts)
    if figures.lines[one.line].naming.is_total and one.fit.off:
        return one.is_natural and one.shape in (Shape.PLUS, *_DIFFERENCES) and one.bits >= _ROUNDED_LEAST
    is_mixed = one.shape is Shape.PLUS and not figures.are_of_one_sign(one.line, one.places)
    if one.shape in _DIFFERENCES or is_mixed:
        return _is_left(one, _UNNAMED_LEAST)
    is_group = figures.lines[one.line].naming is Naming.GROUP
    is_plain = one.shape is Shape.PLUS and (one.is_natural or is_group) and len(one.parts) > 1
    return is_plain and one.bits >= (_GROUP_LEAST if is_group and not one.fit.off else _UNNAMED_LEAST)
