"""What a pack file may hold; every option is a key of it."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, create_model

from marvex.request.from_keys import FIELD_OF
from marvex.request.option import COMPARING, READING
from marvex.request.rule_model import RuleTable
from marvex.request.settings import OPTIONS
from marvex.request.toml_file import Model

Plain = str | int | float | bool | list[str]
CALENDAR = ("year_starts", "year_named", "weeks", "year_ends", "holidays", "as_of")
STATEMENT = ("account", "unmapped", "lines")


def _of_options(fields: tuple[str, ...]) -> dict[str, Any]:
    """The keys of some settings, each with what it is to be."""
    return {
        key: (Plain | None, Field(default=None, description=OPTIONS[field].metavar or "true or false"))
        for key, field in FIELD_OF.items()
        if field in fields
    }


def _group(*groups: str) -> tuple[str, ...]:
    return tuple(field for field, about in OPTIONS.items() if about.group in groups)


class Head(Model):
    """What `[pack]` alone says; it takes every option as a default besides."""

    title: str = Field(default="", description="the pack's title")
    choices: list[str] = Field(default=[], description="a list of grains and columns, ['month', 'route']")
    restated: Literal["told", "fails"] = Field(default="told", description="'told' or 'fails'")
    remarks_needed: Literal["worse"] | None = Field(default=None, description="'worse'")
    language: str = Field(default="en", description="the language of the pack's own words, 'en'")


class ViewHead(Model):
    """What a `[[view]]` alone says."""

    draw: str = Field(description="a view, 'table' or 'commentary'")
    name: str | None = Field(default=None, description="a name of letters, digits and hyphens")
    source: str | None = Field(default=None, description="the name of a [source.NAME]")


class SourceHead(Model):
    file: str | list[str] = Field(description="a file, or a list of SCENARIO=FILE")


class StatementHead(Model):
    file: str | None = Field(default=None, description="a statement file, 'found' or 'none'")


class StyleTable(Model):
    """Which style."""

    name: str | None = Field(default=None, description="a style's name, such as 'teal'")
    file: str | None = Field(default=None, description="a style file")


_every = _of_options(tuple(FIELD_OF.values()))
PackTable = create_model("PackTable", __base__=Head, **{k: v for k, v in _every.items() if k != "title"})
ViewTable = create_model("ViewTable", __base__=ViewHead, **_every)
SourceTable = create_model(
    "SourceTable", __base__=SourceHead, **_of_options((*_group(READING), "source_sign", "amounts_in"))
)
CalendarTable = create_model("CalendarTable", __base__=Model, **_of_options(CALENDAR))
StatementTable = create_model("StatementTable", __base__=StatementHead, **_of_options(STATEMENT))
assert set(CALENDAR) <= set(_group(COMPARING))


class PackFile(Model):
    """All of a pack file; `source` is one table, or tables by their names, which `pack_file` tells apart."""

    pack: PackTable = Field(default_factory=PackTable, description="a table [pack]")  # type: ignore[valid-type]
    source: SourceTable | None = Field(default=None, description="a table [source]")  # type: ignore[valid-type]
    calendar: CalendarTable = Field(default_factory=CalendarTable, description="a table [calendar]")  # type: ignore[valid-type]
    statement: StatementTable = Field(default_factory=StatementTable, description="a table [statement]")  # type: ignore[valid-type]
    style: StyleTable = Field(default_factory=StyleTable, description="a table [style]")
    rules: dict[str, RuleTable] = Field(default={}, description="tables [rules.NAME]")
    view: list[ViewTable] = Field(min_length=1, description="tables [[view]]")  # type: ignore[valid-type]


class PackOfSources(PackFile):
    """A pack of several sources, `[source.NAME]`."""

    source: dict[str, SourceTable] = Field(default={}, description="tables [source.NAME]")  # type: ignore[assignment, valid-type]
