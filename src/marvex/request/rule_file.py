"""The rules that a call asks for: bands in its words, a ready rule, or those of a TOML file.

[rules.spend]
better = "down"
applies_to = ["Fuel", "Crew*"]
bands = ["Overspend [worse]: change > 5%", "Within budget [better]: otherwise"]
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from marvex.core.compare.point import Better
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.rules.bands import NamedRule
from marvex.core.rules.language import parse_rule

READY = ("direction", "budget", "effect")
KEYS = ("better", "applies_to", "bands")


def rules_from(text: str) -> tuple[NamedRule, ...]:
    """The rules of a file, or the one of them that is named: `policy.toml:spend`.

    Raises Mistake where there is no such file or rule, or where one is written wrongly.
    """
    path, name = _place(text)
    tables = _tables_in(path)
    if name is not None and name not in tables:
        raise Mistake(f"{path.name} has no rule '{name}'", did_you_mean(name, tables, f"There are {listed(tables)}."))
    names = tables if name is None else [name]
    return tuple(_rule(one, tables[one], f"{path.name}, [rules.{one}]") for one in names)


def _place(text: str) -> tuple[Path, str | None]:
    """The file that is meant, and the rule within it."""
    path, name = Path(text), None
    if not path.is_file():
        before, sign, after = text.rpartition(":")
        if sign and Path(before).is_file():
            path, name = Path(before), after
    if not path.is_file():
        known = [*READY, *(one.name for one in Path().glob("*.toml"))]
        raise Mistake(
            f"{setting('rule')}: there is neither a ready rule nor a file '{text}'",
            did_you_mean(text, known, f"Ready rules are {', '.join(READY)}."),
        )
    return path, name


def _tables_in(path: Path) -> dict[str, Any]:
    try:
        content = tomllib.loads(path.read_text(encoding="utf-8-sig"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError) as problem:
        raise Mistake(f"{path.name} cannot be read: {problem}", "Mend the file.") from problem
    tables = content.get("rules")
    if not isinstance(tables, dict) or not tables:
        raise Mistake(f"{path.name} has no rules", "Write them as [rules.NAME] with bands = [...].")
    return tables


def _rule(name: str, table: Any, place: str) -> NamedRule:
    if not isinstance(table, dict):
        raise Mistake(f"{place} is not a table", "Write bands = [...] under it.")
    for key in table:
        if key not in KEYS:
            raise Mistake(f"{place}: there is no key '{key}'", did_you_mean(key, KEYS, f"There are {listed(KEYS)}."))
    bands = _texts(table, "bands", place)
    if not bands:
        raise Mistake(f"{place} has no bands", "Write bands = ['Over [worse]: change > 5%'].")
    better = table.get("better")
    if better not in (None, "up", "down"):
        raise Mistake(f"{place}: better = {better!r} is neither up nor down", "Write 'up' or 'down'.")
    try:
        rule = parse_rule(bands)
    except Mistake as mistake:
        raise Mistake(f"{place}: {mistake.what}", mistake.mend, place=mistake.place) from None
    return NamedRule(
        rule=rule, name=name, better=Better(better) if better else None, applies_to=_texts(table, "applies_to", place)
    )


def _texts(table: Mapping[str, Any], key: str, place: str) -> tuple[str, ...]:
    found = table.get(key, [])
    if not isinstance(found, list) or not all(isinstance(one, str) for one in found):
        raise Mistake(f"{place}: {key} is not a list of texts", f"Write {key} = ['…', '…'].")
    return tuple(found)
