"""The `--figures` of an earlier run, read back: its sides and its points, as far as they are asked again."""

from __future__ import annotations

import json
from datetime import date
from decimal import Decimal
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from marvex.core.compare.since import Days, EarlierLines, EarlierPoint, EarlierRun, EarlierSide
from marvex.core.errors import Mistake, setting


class _Record(BaseModel):
    """An object of the file; keys that are not asked for are passed by."""

    model_config = ConfigDict(extra="ignore")


class _Side(_Record):
    scenario: str | None
    actual_to: date | None = None

    @property
    def asked(self) -> EarlierSide:
        return EarlierSide(self.scenario, self.actual_to)


class _Unmatched(_Record):
    side: str
    from_: date | None = Field(alias="from")
    to: date | None


class _Sides(_Record):
    current: _Side
    base: _Side | None
    unmatched: list[_Unmatched] = []

    @property
    def left(self) -> tuple[tuple[Days, ...], tuple[Days, ...]]:
        """The days of the current side, and of the base, that are in no total."""
        now, then = (
            tuple((one.from_, one.to) for one in self.unmatched if one.side == side and one.from_ and one.to)
            for side in ("current", "base")
        )
        return now, then


class _Point(_Record):
    panel: str | None
    label: str
    kind: str
    state: str
    scenario: str | None = None
    current: Decimal | None
    base: Decimal | None
    change: Decimal | None = None
    from_: date | None = Field(alias="from")
    to: date | None
    base_from: date | None
    base_to: date | None
    band: str | None
    comparison: int = 0


class _Line(_Record):
    label: str


class _Total(_Line):
    total_of: list[str]


class _Structure(_Record):
    result: str | None
    lines: list[_Line]
    totals: list[_Total]

    @property
    def asked(self) -> EarlierLines:
        return EarlierLines(
            lines=tuple(one.label for one in self.lines),
            totals={one.label: frozenset(one.total_of) for one in self.totals},
            result=self.result,
        )


class _Run(_Sides):
    comparisons: list[_Sides] = []
    points: list[_Point]
    structure: _Structure | None = None
    held: dict[str, date] = {}  # by scenario, '' where there are none; of an edition
    asked: dict[str, str] | None = None  # of an edition, but for old ones

    def has_sides(self, point: _Point) -> bool:
        """Whether the file says what a point is of: editions once did so of the first comparison alone."""
        return 0 <= point.comparison < max(1, len(self.comparisons))

    def of(self, point: _Point) -> _Sides:
        """The comparison that a point is of."""
        return self.comparisons[point.comparison] if self.comparisons else self

    def sides_of(self, point: _Point) -> tuple[EarlierSide, EarlierSide]:
        """What a point is of: along an outlook, of the one scenario that is in use there."""
        sides = self.of(point)
        now = sides.current.asked
        now = EarlierSide(point.scenario, now.actual_to) if point.scenario else now
        return now, sides.base.asked if sides.base else now


def earlier_run(path: Path) -> EarlierRun:
    """An earlier run, from the figures that it left.

    Raises Mistake where the file is no `--figures` in JSON.
    """
    try:
        content = json.loads(path.read_text(encoding="utf-8"), parse_float=Decimal)
        run = _Run.model_validate(content)
    except (OSError, UnicodeDecodeError, ValueError, RecursionError, ValidationError) as problem:
        what = "is not the figures of a run" if isinstance(problem, ValidationError) else "cannot be read"
        raise Mistake(
            f"{setting('since')} {path.name} {what}",
            f"Name a file that {setting('figures', 'FILE.json')} wrote.",
        ) from problem
    points = tuple(
        EarlierPoint(
            comparison=one.comparison,
            sides=run.sides_of(one),
            panel=one.panel,
            label=one.label,
            kind=one.kind,
            state=one.state,
            current=one.current,
            base=one.base,
            change=one.change,
            days=(one.from_, one.to) if one.from_ and one.to else None,
            base_days=(one.base_from, one.base_to) if one.base_from and one.base_to else None,
            band=one.band,
            left=run.of(one).left,
        )
        for one in run.points
        if run.has_sides(one)
    )
    lines = run.structure.asked if run.structure else None
    held = {name or None: day for name, day in run.held.items()}
    return EarlierRun(points=points, held=held, lines=lines, asked=run.asked)
