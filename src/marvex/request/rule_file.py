"""The rules that a call asks for: bands in its words, a ready rule, or those of a TOML file.

[rules.spend]
better = "down"
applies_to = ["Fuel", "Crew*"]
bands = ["Overspend [worse]: change > 5%", "Within budget [better]: otherwise"]
"""

from __future__ import annotations

from pathlib import Path

from marvex.core.compare.point import Better
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.rules.bands import NamedRule

READY = ("direction", "budget", "effect")


def rules_from(text: str) -> tuple[NamedRule, ...]:
    """The rules of a file, or the one of them that is named: `policy.toml:spend`.

    Raises Mistake where there is no such file or rule, or where one is written wrongly.
    """
    path, name = _place(text)
    # The language and Pydantic are loaded only where a file is named.
    from marvex.core.rules.language import parse_rule
    from marvex.request.rule_model import RuleFile, RulesAmongOthers
    from marvex.request.toml_file import read_toml

    rules = (
        read_toml(path, RuleFile, "rule").rules if name is None else read_toml(path, RulesAmongOthers, "rule").rules
    )
    if not rules:
        raise Mistake(f"{path.name} has no rules", "Write them as [rules.NAME] with bands = [...].")
    if name is not None and name not in rules:
        raise Mistake(f"{path.name} has no rule '{name}'", did_you_mean(name, rules, f"There are {listed(rules)}."))
    found = []
    for one in rules if name is None else [name]:
        table, place = rules[one], f"{path.name}, [rules.{one}]"
        try:
            rule = parse_rule(table.bands)
        except Mistake as mistake:
            raise Mistake(f"{place}: {mistake.what}", mistake.mend, place=mistake.place) from None
        better = Better(table.better) if table.better else None
        found.append(NamedRule(rule=rule, name=one, better=better, applies_to=tuple(table.applies_to)))
    return tuple(found)


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
