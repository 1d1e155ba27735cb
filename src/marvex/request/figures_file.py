"""The `--figures` of an earlier run, read back: its sides and its points, as far as they are asked again."""

from __future__ import annotations

import json
from datetime import date
from decimal import Decimal
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from marvex.core.compare.since import EarlierPoint
from marvex.core.errors import Mistake, setting


class _Record(BaseModel):
    """An object of the file; keys that are not asked for are passed by."""

    model_config = ConfigDict(extra="ignore")


class _Side(_Record):
    scenario: str | None


class _Point(_Record):
    panel: str | None
    label: str
    kind: str
    state: str
    current: Decimal | None
    base: Decimal | None
    from_: date | None = Field(alias="from")
    to: date | None
    base_from: date | None
    base_to: date | None
    band: str | None
    comparison: int = 0


class _Run(_Record):
    current: _Side
    base: _Side | None
    points: list[_Point]


def earlier_points(path: Path) -> tuple[tuple[EarlierPoint, ...], str | None, str | None]:
    """The points of an earlier run, and the scenarios of its two sides.

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
            panel=one.panel,
            label=one.label,
            kind=one.kind,
            state=one.state,
            current=one.current,
            base=one.base,
            days=(one.from_, one.to) if one.from_ and one.to else None,
            base_days=(one.base_from, one.base_to) if one.base_from and one.base_to else None,
            band=one.band,
        )
        for one in run.points
        if one.comparison == 0
    )
    return points, run.current.scenario, run.base.scenario if run.base else None
