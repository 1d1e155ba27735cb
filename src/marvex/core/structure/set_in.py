"""Lines that stand above others as their total, by how these are set in below them, and are not what they come to."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from itertools import takewhile

from marvex.core.exact import ZERO, total
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.structure_found import Asked, Doubt, Structure
from marvex.core.structure.total_names import Naming

_NEARLY = Decimal("0.1")  # of a line, that its parts may be away from it and still be all of them


def missed_head(lines: Sequence[TableLine], structure: Structure, *, is_outline: bool = False) -> Asked | None:
    """What has to be asked of a line that the lines set in right below it do not come to; None where all do.

    Only where another line is the total of what is set in below it, or this one nearly is, or is in half of its
    columns: a line may well stand above some of its parts alone.

    Parameters
    ----------
    is_outline : numbers say what stands below what, 1.1 below 1, so that any difference is asked about.

    >>> from decimal import Decimal
    >>> rows = [("Quay", 57, 0), ("Wall", 20, 1), ("Steps", 35, 1)]
    >>> lines = tuple(TableLine(label=name, figures=(Decimal(size),), indent=deep) for name, size, deep in rows)
    >>> missed_head(lines, Structure(lines=lines)).off
    (0, Decimal('2'))
    """
    is_usual = is_outline or any(
        all(place > one.line and lines[place].indent > lines[one.line].indent for place, _ in one.parts)
        for one in structure.sums
    )
    for head, line in enumerate(lines):
        parts = _right_below(lines, head)
        is_part_of_them = any(one.line in parts and head in one.places for one in structure.sums)
        if len(parts) < 2 or head in structure.totals or line.is_percent or is_part_of_them:
            continue
        apart = {
            at: own - total(one for place in parts if (one := lines[place].figures[at]) is not None)
            for at, own in enumerate(line.figures)
            if own
        }
        is_near = all(abs(off) <= abs(line.figures[at] or ZERO) * _NEARLY for at, off in apart.items())
        is_near = is_near or 2 * sum(not off for off in apart.values()) >= len(apart)
        if any(apart.values()) and (is_usual or is_near):
            worst = max(apart, key=lambda at: abs(apart[at]))
            nearest = tuple((place, 1) for place in parts)
            return Asked(line=head, doubt=Doubt.UNPROVEN, nearest=nearest, off=(worst, apart[worst]))
    return None


def _right_below(lines: Sequence[TableLine], head: int) -> list[int]:
    """The lines set in below another, without those set in below them, and without ratios."""
    below = list(takewhile(lambda place: lines[place].indent > lines[head].indent, range(head + 1, len(lines))))
    first = min((lines[place].indent for place in below), default=0)
    are_amounts = (
        place for place in below if not lines[place].is_percent and lines[place].naming is not Naming.RATIO
    )
    return [place for place in are_amounts if lines[place].indent == first]
