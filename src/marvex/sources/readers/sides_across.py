"""Several amounts of several sides side by side, as `Qty 2025`, `Sales 2025`, `Qty 2026`, `Sales 2026`: where a call
names one without its side, each side of a row becomes a row of its own."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from marvex.core.errors import listed
from marvex.core.values import dataclass
from marvex.sources.headings import parted
from marvex.sources.readers.blocks import SCENARIO
from marvex.sources.readers.crossed_dates import DATE
from marvex.sources.readers.grid import SheetRow


@dataclass(frozen=True, slots=True)
class SidesAcross:
    """The amounts that every side has, and where each stands.

    Parameters
    ----------
    columns : the column that sides are told apart by, `date` or `scenario`, or both.
    sides : what each side says for these, and the places of its amounts in the order of `amounts`.
    asked : the headings of the amounts that the call names.
    """

    columns: tuple[str, ...]
    amounts: tuple[str, ...]
    sides: tuple[tuple[tuple[str, ...], tuple[int, ...]], ...]
    asked: tuple[str, ...]

    @property
    def told(self) -> str:
        """What is said of it."""
        of = listed((" ".join(said) for said, _ in self.sides), 3)
        return f"{listed(self.amounts, 4)} stand side by side for {of}: each is read as a row of its own"

    def rows(
        self, headings: Sequence[str], letters: Sequence[str], rows: Sequence[SheetRow]
    ) -> tuple[tuple[str, ...], tuple[str, ...], tuple[SheetRow, ...]]:
        """Headings, letters and rows with a row for each side that has a figure."""
        moved = {place for _, places in self.sides for place in places}
        others = [place for place in range(len(headings)) if place not in moved]
        new = (*(headings[place] for place in others), *self.columns, *self.amounts)
        turned = tuple(
            SheetRow(
                row.number,
                (*(row.cells[place] for place in others), *said, *(row.cells[place] for place in places)),
                row.indent,
            )
            for row in rows
            for said, places in self.sides
            if any(row.cells[place] for place in places)
        )
        return new, (*(letters[place] for place in others), *[""] * (len(new) - len(others))), turned


def sides_across(headings: Sequence[str], asked: Iterable[str] | None) -> SidesAcross | None:
    """The sides of a table whose headings say them beside two amounts or more, one of which is asked for by itself;
    None for all of them.

    >>> found = sides_across(["Item", "Qty 2025", "Sales 2025", "Qty 2026", "Sales 2026"], ["Sales", "Qty"])
    >>> found.columns, found.amounts, found.sides[1]
    (('date',), ('Qty', 'Sales'), (('2026',), (3, 4)))
    >>> sides_across(["Item", "Qty 2025", "Sales 2025", "Qty 2026", "Sales 2026"], ["Sales 2026"])
    """
    own = {heading.casefold() for heading in headings}
    texts = [text for text in asked or () if text.casefold() not in own]
    if asked is not None and not texts:
        return None
    found: dict[tuple[str, str], dict[str, int]] = {}
    for place, heading in enumerate(headings):
        said = parted(heading)
        if said.is_said and said.rest:
            found.setdefault((said.period or "", said.scenario or ""), {}).setdefault(said.rest, place)
    first = next(iter(found.values()), {})
    amounts = tuple(one for one in first if all(one in of_side for of_side in found.values()))
    used = [at for at in (0, 1) if any(side[at] for side in found)]
    is_whole = len(found) > 1 and len(amounts) > 1 and all(side[at] for side in found for at in used)
    named = [one for one in amounts if asked is None or any(_is_named(one, text) for text in texts)]
    columns = tuple((DATE, SCENARIO)[at] for at in used)
    if not is_whole or not named or not own.isdisjoint((*columns, *(one.casefold() for one in amounts))):
        return None
    return SidesAcross(
        columns=columns,
        amounts=amounts,
        sides=tuple(
            (tuple(side[at] for at in used), tuple(places[one] for one in amounts)) for side, places in found.items()
        ),
        asked=tuple(headings[places[one]] for places in found.values() for one in named),
    )


def _is_named(amount: str, text: str) -> bool:
    """Whether a text names an amount, alone or in what is worked out: 'Qty * Price'."""
    return re.search(rf"(?<!\w){re.escape(amount)}(?!\w)", text, re.IGNORECASE) is not None
