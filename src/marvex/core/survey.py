"""What is in a source, before anything is drawn: the facts that a survey finds, as values."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ColumnFacts:
    """A column, the role it was taken for, and why."""

    name: str
    role: str
    why: str
    filled: int
    absent: int
    distinct: int
    examples: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ScenarioFacts:
    """A scenario: how many rows, how much, how far, and the periods within that have no row."""

    dates: ScenarioDates
    rows: int
    amount: Decimal | None
    missing: tuple[date, ...]


@dataclass(frozen=True, slots=True, eq=False)
class CategorySize:
    """A category with its rows and its sum."""

    name: str
    rows: int
    amount: Decimal | None


@dataclass(frozen=True, slots=True, eq=False)
class CategoryColumn:
    """A column of categories, with the largest of them first."""

    name: str
    distinct: int
    largest: tuple[CategorySize, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Outlier:
    """An amount far from the others of its category: where it is, and what is usual there."""

    place: str
    category: str
    day: str
    amount: Decimal
    usual: Decimal


@dataclass(frozen=True, slots=True, eq=False)
class Repeated:
    """How many rows repeat another, and the place of the first that does."""

    rows: int
    place: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Survey:
    """All that a survey says of one source."""

    name: str
    rows: int
    counted: str
    columns: tuple[ColumnFacts, ...]
    left_out: tuple[str, ...]
    scenarios: tuple[ScenarioFacts, ...]
    duplicates: Repeated | None
    doubled: Repeated | None
    outliers: tuple[Outlier, ...]
    categories: tuple[CategoryColumn, ...]
    cautions: tuple[str, ...]
    next: tuple[str, ...]
