"""Categories that are sums of others in figure after figure, though no name says so: an account of other accounts."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence

from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.total_names import Naming, is_whole_name

LEAST_DIGITS = 4  # of its figures together, where codes say of what an account is the sum
LEAST_BITS = 12.0  # of evidence, where nothing but figures says it
_OF_ONE_COLUMN = 4.0  # bits more, where there is one figure of each
MOST_LINES = 60  # of which each is tried as the sum of those before or after it
NEAR, _LEAST_NEAR = 0.1, 3  # how far a group may be from its companies, in so many figures
_CODE = re.compile(r"\s*(\d+(?:[.-]\d+)*)(?![\w.,%-])")
_CODE_BEHIND = re.compile(r".*\((\d{2,})\)\s*$")
_PATH = re.compile(r"\s*[:/>\\|›»]|\s[-–]\s")  # what stands between a group and its own in a name: `Costs:Fuel`


def parents_by_code(lines: Sequence[TableLine]) -> dict[int, tuple[int, ...]]:
    """The lines whose codes or paths stand above those of others, and whose figures are their sums, with these.

    >>> from decimal import Decimal
    >>> sizes = {"5000": 6621, "5100": 2221, "5110": 1001, "5120": 1220, "5200": 4400}
    >>> lines = [TableLine(label=one, figures=(Decimal(size),)) for one, size in sizes.items()]
    >>> parents_by_code(lines)
    {1: (2, 3), 0: (2, 3, 4)}
    """
    found_in = (
        (place, _CODE.match(line.label) or _CODE_BEHIND.match(line.label)) for place, line in enumerate(lines)
    )
    codes = {place: code[1] for place, code in found_in if code}
    below = _below(codes) or below_by_path({place: line.label for place, line in enumerate(lines)})
    found: dict[int, tuple[int, ...]] = {}
    digits = 0
    figures = TableFigures(lines) if below else None
    # What is below others first: an account above both is the sum of the lowest.
    for place in sorted(below, key=lambda one: (len(below[one]), one)):
        parts = tuple(one for one in below[place] if one not in found)
        if figures is not None and len(parts) > 1 and figures.fit(place, [(one, 1) for one in parts]) is not None:
            found[place] = parts
            digits += sum(len(one.normalize().as_tuple().digits) for one in lines[place].figures if one)
    return found if digits >= LEAST_DIGITS else {}


def number_an_outline(codes: Collection[str]) -> bool:
    """Whether codes are the numbers of an outline, some of them above others: 1, 1.1, 1.2."""
    are_codes = all(_CODE.fullmatch(one) for one in codes)
    return are_codes and any("." in one for one in codes) and bool(_below(dict(enumerate(codes))))


def parents_by_figures(lines: Sequence[TableLine], least: float = LEAST_BITS) -> tuple[int, ...]:
    """The lines that are sums of others by their codes, of all others or of those after or before them; in order.

    Without a code the figures alone have to prove it: so many columns of them that they cannot agree by chance.

    Parameters
    ----------
    least : of evidence, in bits, where neither codes nor names speak for it.
    """
    found = set(parents_by_code(lines))
    more = _OF_ONE_COLUMN if lines and len(lines[0].figures) == 1 else 0.0
    # Of what is called as a group is, such as `Revenue`, one figure of enough digits tells.
    leasts = [least if line.naming is Naming.GROUP else least + more for line in lines]
    if 2 < len(lines) <= MOST_LINES:
        figures, count = TableFigures(lines), len(lines)
        found |= {place for place in range(count) if _is_sum_of_all(figures, place, leasts[place])}
        for place in range(count - 1, -1, -1):
            _take(figures, place, range(place + 1, count), found, leasts[place])
        for place in range(count):
            _take(figures, place, range(place - 1, -1, -1), found, leasts[place])
    return tuple(sorted(found))


def _is_sum_of_all(figures: TableFigures, place: int, least: float) -> bool:
    """Whether a line is the sum of all others that have figures, as its name says or so many figures prove.

    A group is nearly what its companies come to: what they owe one another is taken out, and figures are rounded.
    """
    others = [one for one in range(len(figures.lines)) if one != place and any(figures.filled[one])]
    if len(others) < 2 or not any(figures.filled[place]):
        return False
    fit = figures.fit(place, [(one, 1) for one in others])
    if fit is None:
        return is_whole_name(figures.lines[place].label) and _is_near(figures, place, others)
    return not fit.off and (figures.lines[place].naming is Naming.WHOLE or fit.bits >= least)


def _is_near(figures: TableFigures, place: int, others: Sequence[int]) -> bool:
    columns = figures.told(place)
    own = figures.filled[place]
    rest = {at: sum(figures.filled[one][at] for one in others) for at in columns}
    return len(columns) >= _LEAST_NEAR and all(
        own[at] and abs(own[at] - rest[at]) <= abs(own[at]) * NEAR for at in columns
    )


def _take(figures: TableFigures, place: int, others: Iterable[int], found: set[int], least: float) -> None:
    """Adds a line to those found where it is the sum of the next few of some others."""
    columns = figures.told(place)
    if place in found or not columns:
        return
    as_one, reached = figures.as_one(columns), 0
    run: list[int] = []
    for one in others:
        if one in found:
            continue
        run.append(one)
        reached += as_one[one]
        if figures.lines[one].naming.is_total:
            return  # sales are costs and profit, and no sum of them
        if len(run) > 1 and reached == as_one[place] and all(any(figures.filled[part]) for part in run):
            fit = figures.fit(place, [(part, 1) for part in run])
            if fit is not None and not fit.off and fit.bits >= least:
                found.add(place)
            return


def _below(codes: Mapping[int, str]) -> dict[int, Sequence[int]]:
    """The places of the codes that stand below each: those that go on from it, 511 of 51 and 5.1.2 of 5.1, or else
    those that have digits where it has zeros, 5110 of 5100 and 5000."""
    known = set(codes.values())
    longer, filled = defaultdict[str, list[int]](list), defaultdict[str, list[int]](list)
    for place, code in codes.items():
        is_parted = re.search(r"[.-]", code) is not None
        for end in range(1, len(code)):
            head = code[:end]
            if head in known and (code[end] in ".-" or not is_parted):
                longer[head].append(place)
            whole = head + "0" * (len(code) - end)
            if whole in known and whole != code and head[-1] != "0":
                filled[whole].append(place)
    # 41 is no account of 40 where 400 and 401 are.
    found = ((place, longer.get(code) or filled.get(code)) for place, code in codes.items())
    return {place: below for place, below in found if below}


def below_by_path(names: Mapping[int, str]) -> dict[int, Sequence[int]]:
    """The places of the names that go on from each with another: 'Costs:Fuel' from 'Costs'."""
    places = {name: place for place, name in names.items()}
    found = defaultdict[int, list[int]](list)
    for at, name in names.items():
        for between in _PATH.finditer(name):
            if (place := places.get(name[: between.start()])) is not None:
                found[place].append(at)
    return dict(found)
