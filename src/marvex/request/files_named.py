"""The files that settings name besides the sources: what an output must not be, and what a pack is made again by."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.request.per_source import named
from marvex.request.settings import Settings


def files_named(settings: Settings) -> list[str]:
    """The statement, the remarks, earlier figures, the rules, the style, maps of names and lookups.

    A style or a rule may be a name and no file, and a rule's name may stand behind its file.
    """
    said = (settings.statement_file, settings.remarks, settings.since, settings.rule, settings.style)
    found = [str(one) for one in said if one]
    found += [settings.rule.rpartition(":")[0]] if settings.rule and ":" in settings.rule else []
    return found + [one.rpartition("=")[2].partition(":")[0] for one in (*settings.name_map, *settings.lookup)]


def files_of(sources: Sequence[str]) -> list[str]:
    """The sources without the scenarios that they are said to hold: `actual=ledger.csv` is `ledger.csv`."""
    return [named(one).path for one in sources]
