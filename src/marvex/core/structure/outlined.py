"""The structure of a table that is an outline: its groups as totals of what is above or below them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.core.structure.evidence import TableFigures, TableLine
from marvex.core.structure.finder import MOST_SEARCHED, found_structure
from marvex.core.structure.outline import Outline, outline_of
from marvex.core.structure.structure_found import Structure
from marvex.core.structure.sums import Shape, SumFound


def outlined(lines: Sequence[TableLine]) -> Structure | None:
    """The groups of an outline as totals of what is below them, which is set in; None of a table that is none.

    Where no name speaks of a total, groups may stand below their members as well.
    """
    figures = TableFigures(lines)
    outline = outline_of(figures)
    if outline is None:
        turned = outline_of(TableFigures(lines[::-1]))
        return _of_outline(figures, turned, len(lines) - 1) if turned is not None and turned.is_whole else None
    if not outline.is_whole:
        set_in = tuple(replace(line, indent=level) for line, level in zip(lines, outline.levels, strict=True))
        return found_structure(set_in) if len(lines) <= MOST_SEARCHED else None
    return _of_outline(figures, outline)


def _of_outline(figures: TableFigures, outline: Outline, last: int | None = None) -> Structure:
    """The groups as totals.

    Parameters
    ----------
    last : the last line, where the outline is of the lines from there up.
    """
    places = list(range(len(figures.lines))) if last is None else list(range(last, -1, -1))
    levels = {places[at]: level for at, level in enumerate(outline.levels)}
    sums = []
    for line, members in outline.members.items():
        parts = tuple((place, 1) for place in sorted(places[one] for one in members))
        if (fit := figures.fit(places[line], parts)) is not None:
            found = SumFound(
                line=places[line],
                parts=parts,
                shape=Shape.PLUS,
                taken_from=None,
                is_natural=True,
                fit=fit,
                bits=fit.bits,
            )
            sums.append(found)
    lines = tuple(replace(line, indent=levels[place]) for place, line in enumerate(figures.lines))
    return Structure(lines=lines, sums=tuple(sorted(sums, key=lambda one: one.line)))
