"""Which sums of the lines before it a line could be the total of, and what each costs in bits.

The lines that no total has taken yet stand open, in order; a total is a signed run of them up to its own place,
and then stands for them. That alone gives blocks, running totals, chains and blocks of blocks.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from enum import Enum
from math import log2

from marvex.core.structure.cost_names import speaks_of_cost
from marvex.core.structure.evidence import Fit, TableFigures
from marvex.core.structure.total_names import Naming, without_total_name
from marvex.core.values import dataclass

PARTS_LOOKED_AT = 60  # of the open lines, for signs that differ
ABOVE_LOOKED_AT = 200  # of the open lines, for totals that stand above their parts
SEARCHED_PARTS = 22  # for signs of any pattern
MEMO_LINES = 16  # the last of those that are taken, for a line of two of them
_TOLERATED = 2.0
_COPY, _COPY_BESIDE_OTHERS = 4.0, 10.0  # of one line alone; where other lines stand open before it
_COPY_AFTER_TOTAL = 2.0  # of the one line of a block: 'Capex' below 'Cash from operations', and 'Cash from investing'
_SET_OUT = 4.0  # where parts are set in less than their total, as where that is moved to the right
_SIGNED_TOTAL = 4.0  # where a line called a total subtracts
_SPARE_OF_SEARCH = 2.0  # bits by which the figures must tell more than the signs ask


class Shape(Enum):
    """How the signs of a sum run."""

    PLUS = "all plus"
    LESS_REST = "the first less the rest"
    PLUS_THEN_MINUS = "some plus, then minus"
    ONE_TURNED = "one sign turned"
    ALL_TURNED = "all turned"
    ONE_LEFT_OUT = "one line left out"
    SEARCHED = "any signs"
    MEMO = "of lines that are taken already"
    COPY = "the same as one line"


@dataclass(frozen=True, slots=True, kw_only=True)
class SumFound:
    """A line as the signed sum of others.

    Parameters
    ----------
    parts : their places, each with the sign with which it counts.
    taken_from : the first place on the stack of open lines that it takes up; None where it takes none.
    is_natural : it begins where a block does.
    bits : the evidence less the cost.
    is_unique : no other signs serve as well.
    left_out : the line that has to be left out for it to hold.
    """

    line: int
    parts: tuple[tuple[int, int], ...]
    shape: Shape
    taken_from: int | None
    is_natural: bool
    fit: Fit
    bits: float
    is_unique: bool = True
    left_out: int | None = None

    @property
    def places(self) -> list[int]:
        """Those of its parts."""
        return [place for place, _ in self.parts]


@dataclass(frozen=True, slots=True, kw_only=True)
class Open:
    """The lines that no total has taken yet, and those of them that are totals; and those that were taken."""

    places: tuple[int, ...]
    totals: frozenset[int]
    headings: frozenset[int]  # lines before which a heading stands, or that are set in otherwise than the one before
    taken: tuple[int, ...] = ()

    @property
    def block_starts(self) -> tuple[int, ...]:
        """The places of the stack where the last block begins: at the last total, right after it, at a heading."""
        last = max((at for at, place in enumerate(self.places) if place in self.totals), default=-1)
        heading = max((at for at, place in enumerate(self.places) if place in self.headings), default=-1)
        return (last, last + 1, heading) if heading > last else (last, last + 1)

    def place_cost(self, start: int) -> tuple[float, bool]:
        """What it costs that a sum begins at a place of the stack, and whether a block begins there."""
        if start in self.block_starts:
            return 0.5, True
        begins = [at for at, place in enumerate(self.places) if at == 0 or place in self.totals | self.headings]
        if start in begins:
            return 1 + log2(1 + len(begins)), True
        return 2 + log2(1 + len(self.places)), False


def sums_of(figures: TableFigures, line: int, stack: Open, *, can_be_left: bool = False) -> list[SumFound]:
    """Every reading of a line as a sum of open lines before it, those that hold exactly first.

    Only a line with a total's name is tried with signs, with tolerance, and against lines that are taken.

    Parameters
    ----------
    can_be_left : one without such a name is tried as what some lines are less the others.
    """
    if not figures.told(line):
        return []
    is_named = figures.lines[line].naming.is_total
    tried = _Trial(figures, line, stack)
    found = [one for one in (tried.found(*shape) for shape in tried.exact(is_named, can_be_left)) if one]
    if figures.lines[line].naming is Naming.GROUP and not found:
        return [one for one in (tried.found(*shape) for shape in tried.nearly(only_plus=True)) if one]
    if not is_named:
        if not found and can_be_left:
            near = (tried.found(*shape) for shape in tried.nearly(only_plus=True))
            found = [one for one in near if one and one.is_natural]
        return found + (tried.memos() if can_be_left else [])
    if not any(one.shape is not Shape.ONE_LEFT_OUT for one in found):
        found += [one for one in (tried.found(*shape) for shape in tried.nearly()) if one]
    if not any(one.shape is not Shape.ONE_LEFT_OUT for one in found):
        found += tried.searched()
    return _one_of_alike(figures, found) + tried.memos()


def _one_of_alike(figures: TableFigures, found: Sequence[SumFound]) -> list[SumFound]:
    """The sums without those that differ from another by lines alone that are nothing in all columns.

    The signs that remain are those that the names of such lines say, as what is called a cost lowers a result; and such
    lines before all others are counted where a block begins with them.
    """
    alike: dict[tuple[object, ...], list[SumFound]] = {}
    for one in found:
        counted = tuple((place, sign) for place, sign in one.parts if any(figures.filled[place]))
        alike.setdefault((one.shape is Shape.COPY, one.left_out, counted), []).append(one)
    return [
        max(several, key=lambda one: (one.is_natural, _signed_as_named(figures, one), one.bits, len(one.parts)))
        if len(several) > 1
        else several[0]
        for several in alike.values()
    ]


def _signed_as_named(figures: TableFigures, one: SumFound) -> int:
    """How many of the lines that are nothing have the sign in a sum that is usual for their names."""
    lines, filled = figures.lines, figures.filled
    empty = {place for place, _ in one.parts if not any(filled[place])}
    costs = [place for place, line in enumerate(lines) if speaks_of_cost(line.label)]
    lowers = lines[one.line].naming is Naming.RESULT and not any(sum(filled[place]) < 0 for place in costs)
    # Below the first line, what stands among lines that are subtracted is subtracted as they are.
    others = [sign for place, sign in one.parts[1:] if place not in empty]
    all_lower = bool(others) and max(others) < 0
    return sum(
        (sign < 0) is (all_lower or (lowers and place in costs)) for place, sign in one.parts if place in empty
    )


class _Trial:
    """One line against the stack of open lines."""

    def __init__(self, figures: TableFigures, line: int, stack: Open) -> None:
        self.figures, self.line, self.stack = figures, line, stack
        as_one = figures.as_one(figures.told(line))
        self.target = as_one[line]
        self.values = [as_one[place] for place in stack.places]
        self.sums = [0] * (len(self.values) + 1)  # of all from a place on
        for at in range(len(self.values) - 1, -1, -1):
            self.sums[at] = self.sums[at + 1] + self.values[at]

    def exact(self, is_named: bool, can_be_left: bool) -> Iterator[tuple[Shape, int, tuple[int, ...], float]]:
        """The shapes whose sum is the line in all columns, by their start, their signs and their cost."""
        count, target, sums, values = len(self.values), self.target, self.sums, self.values
        blocks = {0, *self.stack.block_starts}
        for start in range(count - 1, -1, -1):
            size = count - start
            if size == 1:
                if is_named and values[start] == target and target:
                    cost = self._cost_of_copy(start)
                    if not cost or not self._is_one_of_several():
                        yield Shape.COPY, start, (1,), cost
                continue
            if sums[start] == target:
                yield Shape.PLUS, start, (1,) * size, 0.0
            if size > PARTS_LOOKED_AT:
                continue
            if not is_named:
                if can_be_left and start in blocks:
                    yield from self._differences(start)
                continue
            if -sums[start] == target:
                yield Shape.ALL_TURNED, start, (-1,) * size, 4.0
            yield from self._differences(start)
            if sums[start] - 2 * values[start] == target and values[start]:
                yield Shape.ONE_TURNED, start, (-1, *(1,) * (size - 1)), 3 + log2(size)
            for at in range(start + 1, count):
                turned = sums[start] - 2 * values[at]
                if turned == target and values[at] and at < count - 1:
                    signs = tuple(-1 if start + place == at else 1 for place in range(size))
                    yield Shape.ONE_TURNED, start, signs, 3 + log2(size)
                if size > 2 and 2 * values[start] - sums[start] + 2 * values[at] == target and values[at]:
                    signs = (1, *(1 if start + place == at else -1 for place in range(1, size)))
                    if at != start + 1:
                        yield Shape.ONE_TURNED, start, signs, 3.5 + log2(size)
                if size > 2 and sums[start] - values[at] == target and values[at]:
                    signs = tuple(0 if start + place == at else 1 for place in range(size))
                    yield Shape.ONE_LEFT_OUT, start, signs, 5 + log2(size)
                if size > 3 and 2 * values[start] - sums[start] + values[at] == target and values[at]:
                    signs = (1, *(0 if start + place == at else -1 for place in range(1, size)))
                    yield Shape.ONE_LEFT_OUT, start, signs, 6 + log2(size)

    def _is_one_of_several(self) -> bool:
        """Whether several lines without a total's name have the line's very figures: none proves that it is of it."""
        as_one = self.figures.as_one(self.figures.told(self.line))
        plain = zip(self.figures.lines, as_one, strict=True)
        return sum(one.naming is Naming.NONE and its == self.target for one, its in plain) > 1

    def _differences(self, start: int) -> Iterator[tuple[Shape, int, tuple[int, ...], float]]:
        """The lines from a place up to some other less those from there on."""
        count = len(self.values)
        for at in range(start + 1, count):
            if self.sums[start] - 2 * self.sums[at] == self.target:
                yield _as_difference(start, at, count)

    def _cost_of_copy(self, start: int) -> float:
        """What it costs that the line is the same as one before it; 'Bert total' below 'Bert' costs nothing."""
        own, other = (self.figures.lines[place].label for place in (self.line, self.stack.places[start]))
        if without_total_name(own).casefold() == other.strip().casefold():
            return 0.0
        if start and self.stack.places[start - 1] in self.stack.totals:
            return _COPY_AFTER_TOTAL
        return _COPY_BESIDE_OTHERS if start else _COPY

    def nearly(self, *, only_plus: bool = False) -> Iterator[tuple[Shape, int, tuple[int, ...], float]]:
        """The natural shapes, which are then held against the line with tolerance."""
        count, column = len(self.values), self.figures.told(self.line)[0]
        filled = [row[column] for row in self.figures.filled]
        sums = [0] * (count + 1)  # of all from a place on, in the first column: what misses there by more misses
        for at in range(count - 1, -1, -1):
            sums[at] = sums[at + 1] + filled[self.stack.places[at]]
        near_starts = range(max(0, count - PARTS_LOOKED_AT), count - 1)
        for start in sorted(
            {*near_starts, *(at for at in self.stack.block_starts if 0 <= at < count - 1)}, reverse=True
        ):
            size = count - start
            apart, room = sums[start] - filled[self.line], self.figures.room(size)
            if abs(apart) <= room:
                yield Shape.PLUS, start, (1,) * size, _TOLERATED
            near = () if only_plus else [at for at in range(start + 1, count) if abs(apart - 2 * sums[at]) <= room]
            if near and self.stack.place_cost(start)[1]:
                for at in near:
                    shape, _, signs, cost = _as_difference(start, at, count)
                    yield shape, start, signs, _TOLERATED + cost

    def found(self, shape: Shape, start: int, signs: Sequence[int], cost: float) -> SumFound | None:
        """The sum, if it holds in every column by itself too."""
        places = self.stack.places[start:]
        parts = tuple((place, sign) for place, sign in zip(places, signs, strict=True) if sign)
        fit = self.figures.fit(self.line, parts)
        if fit is None or (shape is not Shape.COPY and len(parts) < 2) or self._cancel(parts):
            return None
        where, is_natural = self.stack.place_cost(start)
        lines = self.figures.lines
        if any(lines[place].indent < lines[self.line].indent for place, _ in parts):
            if any(sign < 0 for _, sign in parts):
                return None  # it is a part of what stands above it
            where += _SET_OUT
        if lines[self.line].naming is Naming.TOTAL and any(sign < 0 for _, sign in parts):
            where += _SIGNED_TOTAL
        left_out = next((place for place, sign in zip(places, signs, strict=True) if not sign), None)
        return SumFound(
            line=self.line,
            parts=parts,
            shape=shape,
            taken_from=start,
            is_natural=is_natural,
            fit=fit,
            bits=fit.bits - cost - where,
            left_out=left_out,
        )

    def _cancel(self, parts: Sequence[tuple[int, int]]) -> bool:
        """Whether a line is taken away that was added under another name: a copy, which proves nothing."""
        as_one = self.figures.as_one(self.figures.told(self.line))
        added = {as_one[place] for place, sign in parts if sign > 0 and as_one[place]}
        return any(as_one[place] in added for place, sign in parts if sign < 0)

    def searched(self) -> list[SumFound]:
        """The signs by which a block comes to the line, whatever their pattern, all columns at once."""
        count = len(self.values)
        for start in range(count - 2, -1, -1):
            filled = [at for at in range(start, count) if self.values[at]]
            if not self.stack.place_cost(start)[1] or not 2 < len(filled) <= SEARCHED_PARTS:
                continue
            solutions = _signs([self.values[at] for at in filled], self.target)
            if not solutions:
                continue
            found = []
            for signs in solutions[:4]:
                by_place = dict(zip(filled, signs, strict=True))
                all_signs = [by_place.get(at, 1) for at in range(start, count)]
                one = self.found(Shape.SEARCHED, start, all_signs, len(filled) + 3.0)
                if one is not None:
                    spare = one.fit.bits - len(filled)
                    is_unique = len(solutions) == 1 and spare >= _SPARE_OF_SEARCH
                    found.append(replace(one, is_unique=is_unique))
            if found:
                return found[:2]
        return []

    def memos(self) -> list[SumFound]:
        """The line as a sum or difference of two earlier ones, of which one at least has been taken."""
        as_one = self.figures.as_one(self.figures.told(self.line))
        known = sorted({*self.stack.taken[-MEMO_LINES:], *self.stack.places[-MEMO_LINES:]})
        by_value: dict[int, int] = {as_one[place]: place for place in known if as_one[place]}
        taken = frozenset(self.stack.taken)
        pairs = len(known) * (len(known) - 1) // 2
        found = []
        for place in known:
            value = as_one[place]
            for signs, wanted in (((1, 1), self.target - value), ((1, -1), value - self.target)):
                other = by_value.get(wanted)
                is_twice = signs == (1, 1) and other is not None and other <= place
                if other is None or not value or other == place or is_twice or not {place, other} & taken:
                    continue
                parts = tuple(zip((place, other), signs, strict=True))
                fit = self.figures.fit(self.line, parts)
                if fit is not None:
                    bits = fit.bits - 3 - log2(3 * pairs)
                    found.append(
                        SumFound(
                            line=self.line,
                            parts=parts,
                            shape=Shape.MEMO,
                            taken_from=None,
                            is_natural=False,
                            fit=fit,
                            bits=bits,
                        )
                    )
        return found


def _as_difference(start: int, at: int, count: int) -> tuple[Shape, int, tuple[int, ...], float]:
    """The lines up to a place less those from there on, with what it costs."""
    signs = (1,) * (at - start) + (-1,) * (count - at)
    if at == start + 1:
        return Shape.LESS_REST, start, signs, 1.0
    return Shape.PLUS_THEN_MINUS, start, signs, 2 + log2(count - start)


def _signs(values: Sequence[int], target: int) -> list[tuple[int, ...]]:
    """Every choice of signs under which numbers come to a target, by halves that meet in the middle."""
    half = len(values) // 2
    first: dict[int, list[int]] = {}
    for mask, reached in enumerate(_signed_sums(values[:half])):
        first.setdefault(reached, []).append(mask)
    rest = values[half:]
    found = []
    for mask, reached in enumerate(_signed_sums(rest)):
        for before in first.get(target - reached, ()):
            found.append((*_signs_of(before, half), *_signs_of(mask, len(rest))))
    return found


def _signed_sums(values: Sequence[int]) -> list[int]:
    """The sums under all choices of signs; in the place of a choice, its bits tell which values are subtracted."""
    sums = [0]
    for value in values:
        sums = [one + value for one in sums] + [one - value for one in sums]
    return sums


def _signs_of(mask: int, count: int) -> tuple[int, ...]:
    return tuple(-1 if mask >> place & 1 else 1 for place in range(count))


def above(figures: TableFigures, stack: Open) -> Iterator[SumFound]:
    """The open lines that are the sum of all open lines below them: totals that stand above their parts."""
    places = stack.places
    if len(places) < 2:
        return
    lines, as_one = figures.lines, figures.as_one(tuple(range(figures.width)))
    below, least = as_one[places[-1]], lines[places[-1]].indent
    for at in range(len(places) - 2, max(-1, len(places) - ABOVE_LOOKED_AT), -1):
        head, sum_below, indent_below = places[at], below, least
        below, least = below + as_one[head], min(least, lines[head].indent)
        is_deeper = indent_below > lines[head].indent
        if head in stack.totals or not any(figures.filled[head]) or (at == len(places) - 2 and not is_deeper):
            continue
        is_natural = is_deeper or lines[head].naming is Naming.TOTAL
        is_exact = sum_below == as_one[head]
        if (lines[head].naming is Naming.RESULT and not is_deeper) or not (is_exact or is_natural):
            continue
        parts = tuple((place, 1) for place in places[at + 1 :])
        fit = figures.fit(head, parts)
        if fit is not None:
            cost = (0.0 if is_exact else _TOLERATED) + (0.5 if is_deeper else 1 + log2(1 + len(places)))
            yield SumFound(
                line=head,
                parts=parts,
                shape=Shape.PLUS,
                taken_from=at,
                is_natural=is_natural,
                fit=fit,
                bits=fit.bits - cost,
            )
