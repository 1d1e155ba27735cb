"""Which column plays which role: as named by an option, or worked out from names and values.

Where two columns serve equally the analyst is asked; nothing is guessed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.core.errors import MarvexError, did_you_mean, listed
from marvex.core.sides import ACTUAL_NAMES, PLANNED_NAMES

DATE_NAMES = ("date", "day", "month", "period", "posted", "booked", "year", "week")
AMOUNT_NAMES = ("amount", "net", "value", "total", "sum", "net amount", "net_amount")
SCENARIO_NAMES = ("scenario", "version")
CODE_WORDS = {"id", "code", "no", "nr", "number", "account", "ref", "reference", "year", "month", "key"}


@dataclass(frozen=True, slots=True)
class Column:
    """A column as a sample of it shows: how many cells are filled, and how many of them are what."""

    name: str
    filled: int
    figures: int
    dates: int
    scenarios: int  # cells that hold a usual scenario's name

    @property
    def is_dates(self) -> bool:
        bare_years = self.dates == self.figures
        return _is_most(self.dates, self.filled) and (not bare_years or self.name.casefold() in DATE_NAMES)

    @property
    def is_figures(self) -> bool:
        return _is_most(self.figures, self.filled) and not self.is_dates

    @property
    def is_code(self) -> bool:
        """Whether its name says that its figures are not to be added up."""
        return bool(CODE_WORDS & set(self.name.casefold().replace("_", " ").replace("-", " ").split()))

    @property
    def is_text(self) -> bool:
        return self.filled > 0 and not self.is_dates and not self.is_figures


@dataclass(frozen=True, slots=True)
class Asked:
    """The columns that options name."""

    date: str | None = None
    amount: str | None = None
    scenario: str | None = None
    current: str | None = None
    base: str | None = None
    by: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Roles:
    """Which column plays which role; None where no column does."""

    date: str | None
    scenario: str | None
    amounts: tuple[str, ...]  # one, or the two sides of a table that has both as columns
    by: tuple[str, ...]
    each_row: bool  # every row is a category of its own, named by the first of `by`

    @property
    def has_sides_as_columns(self) -> bool:
        return len(self.amounts) > 1


def work_out(columns: Sequence[Column], asked: Asked, source: str) -> Roles:
    """The roles of the columns of a source; raises MarvexError where that cannot be told."""
    names = [column.name for column in columns]
    named = {
        option: found_column(column, names, source, f"--{option}")
        for option, column in (
            ("date", asked.date),
            ("amount", asked.amount),
            ("scenario", asked.scenario),
            ("current", asked.current),
            ("base", asked.base),
        )
        if column is not None
    }
    by = tuple(found_column(column, names, source, "--by") for column in asked.by)
    free = [column for column in columns if column.name not in (*named.values(), *by)]
    date = named.get("date") or _date(free, source)
    amounts = _amounts(free, named, source, date)
    scenario = None
    if "current" not in named:
        scenario = named.get("scenario") or _scenario(free)
    if date is None and not by:
        return Roles(None, scenario, amounts, (_label(free, scenario, source),), each_row=scenario is None)
    return Roles(date, scenario, amounts, by, each_row=False)


def found_column(asked: str, names: Sequence[str], source: str, option: str) -> str:
    """The column so named, whatever its case; raises MarvexError with the nearest name."""
    if asked in names:
        return asked
    alike = [name for name in names if name.strip().casefold() == asked.strip().casefold()]
    if len(alike) == 1:
        return alike[0]
    raise MarvexError(
        f"{source} has no column '{asked}' ({option})",
        did_you_mean(asked, names, f"Its columns are {listed(names)}."),
    )


def _date(columns: Sequence[Column], source: str) -> str | None:
    candidates = [column.name for column in columns if column.is_dates]
    return _the_one(candidates, DATE_NAMES[:1], "the date", "--date", source) if candidates else None


def _amounts(
    columns: Sequence[Column], named: dict[str, str], source: str, date: str | None
) -> tuple[str, ...]:
    if "current" in named:
        return (named["current"], *([named["base"]] if "base" in named else []))
    if "amount" in named:
        return (named["amount"],)
    figures = [column for column in columns if column.is_figures and column.name != date]
    candidates = [column.name for column in figures if not column.is_code] or [one.name for one in figures]
    if not candidates:
        # Unreadable cells may be in the majority: then the heading has to say it.
        candidates = [column.name for column in columns if column.name.casefold() in AMOUNT_NAMES]
    if not candidates:
        raise MarvexError(f"no column of {source} holds figures", "Name the column of amounts with --amount.")
    return (_the_one(candidates, AMOUNT_NAMES, "the amount", "--amount", source),)


def _scenario(columns: Sequence[Column]) -> str | None:
    texts = [column for column in columns if column.is_text]
    for wanted in SCENARIO_NAMES:
        for column in texts:
            if column.name.casefold() == wanted:
                return column.name
    all_known = [column for column in texts if column.scenarios == column.filled]
    return all_known[0].name if len(all_known) == 1 else None


def _label(columns: Sequence[Column], scenario: str | None, source: str) -> str:
    texts = [column.name for column in columns if column.is_text and column.name != scenario]
    if not texts:
        raise MarvexError(
            f"{source} has neither dates nor names to compare by", "Name a column of categories with --by."
        )
    return texts[0]


def _the_one(candidates: Sequence[str], usual: Sequence[str], role: str, option: str, source: str) -> str:
    if len(candidates) == 1:
        return candidates[0]
    preferred = [name for name in candidates if name.casefold() in usual]
    if len(preferred) == 1:
        return preferred[0]
    several = preferred or list(candidates)
    raise MarvexError(
        f"{source}: {' and '.join(several[:3])} could each be {role}",
        f"Say which, such as {option} {several[0]}.",
    )


def _is_most(some: int, of_all: int) -> bool:
    """Most cells are so: an odd unreadable one is then found and told, not taken for another kind."""
    return 2 * some > of_all


def scenario_words() -> tuple[str, ...]:
    """The names by which scenarios are known where no heading says so."""
    return (*ACTUAL_NAMES, *PLANNED_NAMES)
