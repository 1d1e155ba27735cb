"""What is said of a setting: its help, its group, what it may be, and the commands and views that can use it."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from typing import Any

from marvex.core.values import dataclass

# Commands, and what views are to options: `drawn` is any view, `axes` and `time` those that have a value axis, and
# those that can show points along time. Options of one view are named by the view itself.
TABLE, SURVEY, TRACE, RULE, COMMENTARY = "table", "survey", "trace", "rule", "commentary"
DRAWN, ON_AXES, DRAWN_ALONG_TIME = "drawn", "axes", "time"
SEVERAL = "several"  # comparisons side by side
COMPARISONS = (TABLE, DRAWN, TRACE, RULE, COMMENTARY)
SHOWN = (TABLE, DRAWN, COMMENTARY)
ALONG_TIME = (TABLE, DRAWN_ALONG_TIME, TRACE, RULE, COMMENTARY)
JUDGED_AS_SAID = (TABLE, DRAWN, TRACE, COMMENTARY)  # where the rule is not named by the command itself
EVERYWHERE = (SURVEY, *COMPARISONS)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Option:
    """What the command and the pack need to know of a setting."""

    help: str
    group: str
    metavar: str | None
    choices: tuple[str, ...]
    read: Callable[[str], Any]
    repeats: bool
    places: tuple[str, ...]


def option(
    group: str,
    help: str,
    metavar: str | None = None,
    *,
    choices: tuple[str, ...] = (),
    read: Callable[[str], Any] = str,
    repeats: bool = False,
    places: tuple[str, ...] = COMPARISONS,
    default: Any = None,
) -> Any:
    """A field of the settings with all that is said of it."""
    about = Option(
        help=help, group=group, metavar=metavar, choices=choices, read=read, repeats=repeats, places=places
    )
    return dataclasses.field(default=() if repeats else default, metadata={"option": about})


def of_source(group: str, help: str, metavar: str, places: tuple[str, ...] = EVERYWHERE) -> Any:
    """A field that can be said for each of several sources: `COL` for all, `NAME=COL` for one."""
    return option(group, help, metavar, repeats=True, places=places)


GRAINS = ("day", "week", "month", "quarter", "half", "year")
READING, COMPARING, JUDGING, PRESENTING = "reading", "comparing", "judging", "presenting"
