"""What a file of rules may hold."""

from __future__ import annotations

from typing import Literal

from pydantic import ConfigDict, Field

from marvex.request.toml_file import Model


class RuleTable(Model):
    """One rule, `[rules.NAME]`."""

    bands: list[str] = Field(min_length=1, description="a list of bands, ['Over [worse]: change > 5%', …]")
    better: Literal["up", "down"] | None = Field(default=None, description="'up' or 'down'")
    applies_to: list[str] = Field(default=[], description="a list of names, with * for any text")


class RulesAmongOthers(Model):
    """The rules of a file that holds more than rules, such as a pack."""

    model_config = ConfigDict(extra="ignore")

    rules: dict[str, RuleTable] = Field(default={}, description="tables [rules.NAME]")


class RuleFile(Model):
    """All rules of a file, by their names."""

    rules: dict[str, RuleTable] = Field(default={}, description="tables [rules.NAME]")
