"""Which columns a call names, and what it says of the headings."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.values import dataclass

UNNAMED_HEADINGS = "heading"  # headings that are categories of a column without a name


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnsAsked:
    """The columns that options name, and what they say of the headings.

    Parameters
    ----------
    per : the column that the amounts are divided by.
    along_time : time is the axis, so that no column of names is needed.
    then_by : the columns of the parts of each category, one level down.
    are_lines : `by` is of the lines of a statement, in which categories among the headings are added up.
    fields : what the call names `by`, `then_by` and `per` with.
    is_by_panel : the columns of `by` are panels, and those of `then_by` the categories within each.
    year : that of months that say none; `dates` the order of day and month.
    parts_across : columns of amounts that together are `total_across`, which was left out.
    led_across : columns of amounts of which the last is what the first and its movements come to.
    worked_out : the amounts that are worked out of several columns.
    of : the scenario of the source, where it is one of several, whose columns may be called otherwise.
    of_one : columns of which a condition keeps one value, which tells no rows apart.
    shared : the columns, in small letters, that all of several sources have: by these their rows are named alike.
    """

    date: str | None = None
    amounts: tuple[str, ...] = ()
    scenario: str | None = None
    current: str | None = None
    base: str | None = None
    by: tuple[str, ...] = ()
    headings_are: str | None = None
    year: str | None = None
    dates: str = "auto"
    parts_across: tuple[str, ...] = ()
    total_across: str = ""
    led_across: tuple[str, ...] = ()
    needs_amounts: bool = True
    per: str | None = None
    along_time: bool = False
    then_by: tuple[str, ...] = ()
    are_lines: bool = False
    fields: tuple[str, str, str] = ("by", "then_by", "per")
    is_by_panel: bool = False
    worked_out: tuple[str, ...] = ()
    of: str | None = None
    shared: frozenset[str] | None = None
    of_one: frozenset[str] = frozenset()


def found_column(asked: str, names: Sequence[str], source: str, field: str, own: str | None = None) -> str:
    """The column so named, whatever its case; raises Mistake with the nearest name.

    Parameters
    ----------
    own : how one of several sources is told a column of its own, `budget=Line`.
    """
    if asked in names:
        return asked
    alike = [name for name in names if name.strip().casefold() == asked.strip().casefold()]
    # A second heading that is the same but for case has been numbered, by Marvex or by the engine.
    numbered = [f"{one} 2".casefold() for one in alike] + [f"{one}_1".casefold() for one in alike]
    twins = [name for name in names if name.casefold() in numbered]
    if twins:
        raise Mistake(
            f"{source} has several columns '{asked}' that are alike but for case: {listed((*alike, *twins))} "
            f"({setting(field)})",
            "Name one of these.",
        )
    if len(alike) == 1:
        return alike[0]
    hint = did_you_mean(asked, names, f"Its columns are {listed(names)}.")
    if own:
        hint += f" {setting(field, own)} is for it alone."
    raise Mistake(f"{source} has no column '{asked}' ({setting(field)})", hint)


def check_different(found: Sequence[str], field: str, source: str) -> None:
    """Raises Mistake where a column is named twice, which would count it twice."""
    twice = next((one for place, one in enumerate(found) if one in found[:place]), None)
    if twice is not None:
        raise Mistake(f"{source}: {setting(field)} names {twice} twice", "Name it once.")


def new_column(headings_are: str | None) -> str:
    """The name of the column that headings would become the values of, by what they are said to be."""
    return UNNAMED_HEADINGS if headings_are in (None, "period", "scenario") else headings_are
