"""An outline: groups above their members, as pivot tables are pasted, whose levels only the figures still tell.

Every line is a group that is the sum of the lines below it, group by group to the end of the table. One such block
may be chance, or what is left of sales after costs; a table that is nothing else is an outline.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from functools import partial
from itertools import takewhile
from math import log2
from typing import Protocol

from marvex.core.structure.cost_names import could_be_department, is_income_of_costs
from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import (
    Naming,
    is_plain_total,
    may_be_group,
    may_be_result,
    speaks_of_side,
    speaks_of_variance,
)
from marvex.core.values import dataclass

MOST_LINES = 5_000
_FEW = 100  # lines, up to which the bits asked for leave out what is chance
_LEAST_BITS = 12.0  # of all groups of several members together, where the whole table is groups
_LEAST_CLOSED = 6.0  # of all its groups, where its last line is their total, or all of them are called totals
_LEAST_OF_ONE = 24.0  # the same, where only one of them has more than one member
_LEAST_TOLD = 8.0  # of several groups that are the whole table, to be said
_LEAST_EACH = 14.0  # of each group, where lines stand between the groups
_MOST_WAYS = 20_000  # in which members may come together, of all groups
_LEAST_OF_THREE = 10.0  # of a group of three or more, where lines stand beside it
_LEAST_TOLD_OF_THREE = 6.0  # of such a group, to be said
_LEAST_ALONE = 12.0  # of a group of two without another
_MOST_PARTS = 30  # of such a line
_LEAST_CALLED = 2.0  # of a line that is called 'Revenue' or 'Overheads'


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """The groups of a table.

    Parameters
    ----------
    members : the lines right below each group, by the group; the total of all groups is one of them.
    levels : how far each line is set in.
    is_whole : the table is nothing else; otherwise lines stand between the groups, which may be results of them.
    """

    members: dict[int, tuple[int, ...]]
    levels: tuple[int, ...]
    is_whole: bool


@dataclass(frozen=True, slots=True)
class _Block:
    """A group with what is below it, down to but without the line `end`."""

    end: int
    members: tuple[_Placed, ...]


_Placed = tuple[int, _Block | None]  # a line, and the group that it begins


def outline_of(figures: TableFigures) -> Outline | None:
    """The outline that a table's figures tell; None where they tell none, or its lines are set in already."""
    return _outline(figures, _is_proven)


def maybe_groups(figures: TableFigures) -> tuple[int, ...]:
    """The groups that a table would be made of, all of it, with too little evidence to be taken for them; in order.

    Figures of two digits meet by chance, but seldom so that a table is nothing but sums with their parts.
    """
    outline = _outline(figures, _may_be)
    return tuple(sorted(outline.members)) if outline is not None and outline.is_whole else ()


def groups_among(figures: TableFigures) -> tuple[tuple[int, ...], ...]:
    """The groups that a table seems to have among its other lines, each above or below its members, with these.

    Beyond chance together; that other lines stand between them may mean more, so that it has to be asked.
    """
    return _groups(figures, partial(_stand_among, least=_LEAST_BITS, of_three=_LEAST_OF_THREE))


def maybe_among(figures: TableFigures) -> tuple[int, ...]:
    """The lines that may be such groups, with too little evidence for a question."""
    may_be = partial(_stand_among, least=_LEAST_TOLD, of_three=_LEAST_TOLD_OF_THREE)
    return tuple(group[0] for group in _groups(figures, may_be))


def _groups(figures: TableFigures, is_proven: _Proof) -> tuple[tuple[int, ...], ...]:
    found, last = _outline(figures, is_proven), len(figures.lines) - 1
    if found is not None:
        return tuple((head, *of) for head, of in found.members.items() if len(of) > 1)
    turned = _outline(TableFigures(figures.lines[::-1]), is_proven)
    members = {} if turned is None else turned.members
    return tuple((last - head, *(last - one for one in reversed(of))) for head, of in members.items() if len(of) > 1)


def _outline(figures: TableFigures, is_proven: _Proof) -> Outline | None:
    lines = figures.lines
    count = len(lines)
    if not 4 <= count <= MOST_LINES or len({line.indent for line in lines}) > 1:
        return None
    has_total = lines[-1].naming.is_total and is_plain_total(lines[-1].label)
    last = count - 1 if has_total else count
    if any(line.is_percent or line.naming is Naming.RATIO for line in lines):
        return None
    if not all(any(figures.filled[place]) for place in (0, count - 1)):
        return None
    top = _Search(figures, last).top()
    if top is None:
        return None
    if any(block is None and not lines[place].naming.is_total for place, block in top):
        top = _without_copies(lines, top)
    members: dict[int, tuple[int, ...]] = {}
    levels = [0] * count
    for place, block in top:
        _note(place, block, 1, members, levels)
    names = [line.label.strip().casefold() for line in lines]
    siblings = [
        [names[place] for place, _ in top],
        *([names[one] for one in (place, *of)] for place, of in members.items()),
    ]
    if any(len(set(own)) < len(own) for own in siblings):
        return None  # the groups of a group have names of their own, which postings of a ledger do not have
    labels = [line.label for line in lines]
    if any(is_income_of_costs(labels[place], [labels[one] for one in of]) for place, of in members.items()):
        return None  # which its costs and what they leave come to
    loose = {place for place, block in top if block is None}
    are_results = all(lines[place].naming.is_total for place in loose)
    if any(lines[place].naming.is_total for place in range(last) if place not in loose and place not in members):
        return None  # a result among the members
    is_closed = has_total and _come_to(figures, count - 1, [place for place, _ in top])
    is_whole = not loose and (is_closed or not has_total)
    if not is_proven(figures, members, has_loose=not is_whole and not are_results, is_closed=is_closed):
        return None
    if is_closed:
        members[count - 1] = tuple(place for place, _ in top)
    return Outline(members=members, levels=tuple(levels), is_whole=is_whole)


def _without_copies(lines: Sequence[TableLine], top: Sequence[_Placed]) -> tuple[_Placed, ...]:
    """The groups where lines stand between them: two lines with the same figures are two such lines then.

    Unless the first of them is called a total, or a group.
    """
    found: list[_Placed] = []
    for place, block in top:
        naming = lines[place].naming
        if block is None or len(block.members) > 1 or naming.is_total or naming is Naming.GROUP:
            found.append((place, block))
        else:
            found += [(place, None), *block.members]
    return tuple(found)


def two_below(figures: TableFigures, places: Sequence[int]) -> Iterator[tuple[int, int, int]]:
    """The lines that are the sum of the two right below them, beyond chance, with these: groups, or what they leave.

    Sales above their costs and what is left of them look the same, so that it has to be asked.
    """
    lines, least = figures.lines, _LEAST_ALONE + log2(1 + len(places))
    for head, one, other in zip(places, places[1:], places[2:], strict=False):
        found = [lines[place] for place in (head, one, other)]
        if any(line.naming.is_total or line.is_percent or says_a_side(line.label) for line in found):
            continue
        fit = figures.fit(head, ((one, 1), (other, 1)))
        if fit is None or fit.off or fit.bits < least:
            continue
        if figures.are_of_one_sign(head, (one, other)):
            yield head, one, other


def called_groups(figures: TableFigures, places: Sequence[int]) -> Iterator[tuple[int, ...]]:
    """Lines that by name may be totals, and are the sums of those right before or after them, with these.

    Of small or round figures that is hardly beyond chance, so that it has to be asked.
    """
    lines = figures.lines
    for at, head in enumerate(places):
        if not may_be_group(lines[head].label):
            continue
        is_called = lines[head].naming is Naming.GROUP and not could_be_department(lines[head].label)
        least = _LEAST_CALLED if is_called else _LEAST_CLOSED
        for side in (places[at + 1 : at + 1 + _MOST_PARTS], places[max(0, at - _MOST_PARTS) : at][::-1]):
            parts = tuple(takewhile(lambda one: not (lines[one].naming.is_total or lines[one].is_percent), side))
            for count in range(2, len(parts) + 1):
                some = parts[:count]
                fit = figures.fit(head, [(one, 1) for one in some])
                is_sum = fit is not None and not fit.off and fit.bits >= least
                if is_sum and figures.are_of_one_sign(head, some):
                    yield head, *some


def says_a_side(label: str) -> bool:
    """An actual is what its budget and its variance come to, and no group of them."""
    return speaks_of_variance(label) or speaks_of_side(label)


def _note(
    place: int, block: _Block | None, level: int, members: dict[int, tuple[int, ...]], levels: list[int]
) -> None:
    if block is None:
        return
    members[place] = tuple(member for member, _ in block.members)
    for member, below in block.members:
        levels[member] = level
        _note(member, below, level + 1, members, levels)


def _come_to(figures: TableFigures, place: int, parts: Sequence[int]) -> bool:
    return all(
        figures.filled[place][column] == sum(figures.filled[part][column] for part in parts)
        for column in range(figures.width)
    )


def _is_proven(
    figures: TableFigures, members: dict[int, tuple[int, ...]], *, has_loose: bool, is_closed: bool
) -> bool:
    for place, of in members.items():
        if len(of) == 2 and any(says_a_side(figures.lines[one].label) for one in (place, *of)):
            return False
    fits = {place: figures.fit(place, [(one, 1) for one in of]) for place, of in members.items()}
    bits = {place: fit.bits for place, fit in fits.items() if fit is not None}
    named = {place for place in members if figures.lines[place].naming.is_total}
    sums = [bits[place] for place, of in members.items() if len(of) > 1 or place in named]
    if is_closed:
        return sum(bits.values()) >= _LEAST_CLOSED
    if len(named) == len(members) and sum(bits.values()) >= (_LEAST_BITS if has_loose else _LEAST_CLOSED):
        return True
    # Two lines with the same figures are two lines in most tables: alone they prove no group of one.
    if has_loose:
        return len(sums) > 1 and min(sums) >= _LEAST_EACH
    return bool(sums) and sum(sums) >= (_LEAST_BITS if len(sums) > 1 else _LEAST_OF_ONE)


def _may_be(figures: TableFigures, members: dict[int, tuple[int, ...]], *, has_loose: bool, is_closed: bool) -> bool:
    """Whether several groups, each of several lines, are no common chance together."""
    are_groups = len(members) > 1 and min(map(len, members.values())) > 1
    return not has_loose and not is_closed and are_groups and _are_several(figures, members, _LEAST_TOLD, _LEAST_TOLD)


def _stand_among(
    figures: TableFigures,
    members: dict[int, tuple[int, ...]],
    *,
    has_loose: bool,
    is_closed: bool,  # noqa: ARG001
    least: float,
    of_three: float,
) -> bool:
    """Whether there are groups with other lines between them, or a lone one of more than two lines."""
    return has_loose and _are_several(figures, members, least, of_three)


def _are_several(
    figures: TableFigures, members: Mapping[int, tuple[int, ...]], least: float, of_three: float
) -> bool:
    """Whether there are groups, or one of more than two lines, with so much evidence together; not of the two sides."""
    groups = {place: of for place, of in members.items() if len(of) > 1}
    lone = max(map(len, groups.values()), default=0) if len(groups) == 1 else 0
    fits = [figures.fit(place, [(one, 1) for one in of]) for place, of in groups.items()]
    are_sides = any(says_a_side(figures.lines[one].label) for place, of in groups.items() for one in (place, *of))
    # Among more lines more come to others by chance, each group for itself.
    bits = sum(fit.bits for fit in fits if fit is not None) - len(groups) * max(0.0, log2(len(figures.lines) / _FEW))
    return not are_sides and (bits >= of_three if lone > 2 else len(groups) > 1 and bits >= least)


class _Proof(Protocol):
    """Whether the groups found of a table are taken for such."""

    def __call__(
        self, figures: TableFigures, members: dict[int, tuple[int, ...]], *, has_loose: bool, is_closed: bool
    ) -> bool: ...


@dataclass(frozen=True, slots=True)
class _Way:
    """The last of the members so far, with its own group or not, and what they came to before it."""

    place: int = -1
    before: int = 0
    block: _Block | None = None
    height: int = 0  # of the members in the column whose sums only rise


class _Chain:
    """The lines from the end up, each with what follows it as a member of one group and what they come to together."""

    def __init__(self, last: int, sizes: Sequence[int], results: Collection[int]) -> None:
        self._last, self._sizes, self._results = last, sizes, results
        self._following: dict[int, tuple[int, _Block | None]] = {}
        self._tails = {last: 0}
        self._known = {0}

    def put(self, place: int, block: _Block | None) -> None:
        """Adds the line before all others, alone or with the group that it begins."""
        end = block.end if block else place + 1
        self._following[place] = end, block
        self._tails[place] = self._sizes[place] + self._tails[end]
        self._known.add(self._tails[place])

    def block(self, head: int) -> tuple[int, list[_Placed]] | None:
        """The members that follow a line and come to it, and where they end; None where none do."""
        wanted = self._tails[head + 1] - self._sizes[head]
        if wanted not in self._known:
            return None
        place, members = head + 1, list[_Placed]()
        while place < self._last and place not in self._results:
            end, block = self._following[place]
            members.append((place, block))
            place = end
            if self._tails[place] == wanted:
                return place, members
        return None


class _Search:
    """The groups that each line could begin, found once each."""

    def __init__(self, figures: TableFigures, last: int) -> None:
        self._sizes, self._last = figures.as_one(tuple(range(figures.width))), last
        self._filled = figures.filled
        self._rising = next((at for at in range(figures.width) if all(row[at] >= 0 for row in figures.filled)), None)
        # A gross profit is what overheads and the profit after them come to, and no group of them.
        lines = figures.lines[:last]
        self._results = {
            at for at, one in enumerate(lines) if one.naming is Naming.RESULT or may_be_result(one.label)
        }
        self._ways = 0
        self._found: dict[int, _Block | None] = {}
        # Of a line that is the same as the next, either may be meant: a group of one, or two lines.
        chains = [_Chain(last, self._sizes, self._results) for _ in range(2)]
        for place in range(last - 1, -1, -1):
            may_head = any(self._filled[place]) and place not in self._results
            block = self._block(place, chains) if may_head else None
            self._found[place] = block
            chains[0].put(place, block)
            chains[1].put(place, block if block and len(block.members) > 1 else None)

    def top(self) -> tuple[_Placed, ...] | None:
        """The groups of the whole table in order; None where it has none."""
        place, top = 0, []
        while place < self._last:
            block = self._found[place]
            top.append((place, block))
            place = block.end if block else place + 1
        return tuple(top) if any(block for _, block in top) else None

    def _block(self, head: int, chains: Sequence[_Chain]) -> _Block | None:
        """A group that a line begins: the lines below it that come to it, each with its own group or not."""
        for chain in chains:
            if (found := chain.block(head)) is not None:
                return self._whole(*found)
        return None if self._rising is None else self._searched(head)

    def _searched(self, head: int) -> _Block | None:
        """The shortest group where a member may be a line that only seems to begin a group."""
        whole = self._sizes[head]
        # By where the members so far end, and by what they come to, the way there.
        reached: dict[int, dict[int, _Way]] = {head + 1: {0: _Way()}}
        for place in range(head + 1, self._last):
            if place > max(reached) or place in self._results:
                return None
            block = self._found[place]
            ends = (block.end, place + 1) if block else (place + 1,)
            for so_far, way in list(reached.get(place, {}).items()):
                height = way.height + self._height(place)
                if self._rising is not None and height > self._height(head):
                    continue
                total = so_far + self._sizes[place]
                for end in ends:
                    if total in reached.setdefault(end, {}):
                        continue
                    group = block if end != place + 1 else None
                    reached[end][total] = _Way(place=place, before=so_far, block=group, height=height)
                    self._ways += 1
                    if total == whole:
                        return self._traced(head, end, total, reached)
                    if self._ways > _MOST_WAYS:
                        return None
        return None

    def _height(self, place: int) -> int:
        """A line's figure in the column without figures below zero, where there is one: sums there only rise."""
        return 0 if self._rising is None else self._filled[place][self._rising]

    def _traced(self, head: int, end: int, total: int, reached: Mapping[int, Mapping[int, _Way]]) -> _Block:
        members: list[_Placed] = []
        at = end
        while at > head + 1:
            way = reached[at][total]
            members.append((way.place, way.block))
            at, total = way.place, way.before
        members.reverse()
        return self._whole(end, members)

    def _whole(self, end: int, members: Sequence[_Placed]) -> _Block:
        """The group with the lines of nothing that follow."""
        more = []
        while end < self._last and not any(self._filled[end]):
            more.append((end, None))
            end += 1
        return _Block(end, (*members, *more))
