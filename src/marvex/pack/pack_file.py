"""A pack file read and checked: its views, each with the settings that its nearest tables say."""

from __future__ import annotations

import contextlib
import os
import re
import tomllib
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from marvex.app.view_places import view_place
from marvex.core.errors import Mistake, did_you_mean, listed, worded
from marvex.core.values import dataclass
from marvex.core.words.trade_words import VIEWS
from marvex.request.from_keys import FIELD_OF, key_of, settings_from
from marvex.request.place import COMMENTARY, TABLE, Place
from marvex.request.request import Request, request_of
from marvex.request.settings import OPTIONS, Settings
from marvex.request.toml_file import read_toml
from marvex.request.toml_lines import line_of
from marvex.views import view_names

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,60}")
VARIABLE = re.compile(r"\$\{(\w+)\}")
_DATED = re.compile(r"(?:FY)?(?:19|20)\d\d(?:[-/].*)?")  # a window of the calendar
_DATE_WITHIN = re.compile(r"(?<!\d)(?:19|20)\d\d-\d\d(?!\d)")
MOVING = re.compile(r"latest.*|year-to-date|quarter-to-date|rolling:\d+|full-year|today|yesterday")
OF_HEAD = ("title", "choices", "restated", "remarks_needed", "language")
OF_VIEW = ("draw", "name", "source")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PackView:
    """One view of a pack.

    Parameters
    ----------
    draw : a view, `table` or `commentary`.
    stands : its window is a date of its own, which the pack's does not move.
    line : where it stands in the file.
    """

    name: str
    draw: str
    place: Place
    sources: tuple[str, ...]
    settings: Settings
    stands: bool
    default_for: str | None  # the pack's own window, where the view has none of its own
    line: int | None
    file: str

    @property
    def has_dates(self) -> bool:
        """Whether it says a date that the pack does not move: its own, of its base, of a column or in a condition."""
        settings = self.settings
        windows = [
            *settings.versus,
            *(one for group in settings.column for one in (group.window, group.versus) if one),
        ]
        is_dated = any(map(_DATED.fullmatch, windows)) or any(map(_DATE_WITHIN.search, settings.where))
        return self.stands or settings.as_of is not None or is_dated

    def request(self, **more: Any) -> Request:
        """What it asks for; raises Mistake with its place in the file where that contradicts itself."""
        with self.placed():
            return request_of(self.sources, replace(self.settings, **more), self.place)

    @contextlib.contextmanager
    def placed(self) -> Any:
        """Says of a mistake which view it is of, and calls settings by their keys."""
        try:
            yield
        except Mistake as mistake:
            if mistake.what.startswith(f"{self.file}, line"):
                raise
            at = f"line {self.line}, " if self.line else ""
            what = as_keys(f"{self.file}, {at}view '{self.name}': {mistake.what}")
            raise Mistake(what, as_keys(mistake.mend), place=mistake.place) from mistake


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Pack:
    """A pack as its file says it."""

    path: Path
    title: str
    for_: str | None
    choices: tuple[str, ...]
    restated_fails: bool
    remarks_needed: bool
    language: str
    style: str | None
    views: tuple[PackView, ...]

    @property
    def name(self) -> str:
        return self.path.stem


def as_keys(text: str) -> str:
    """A message with its settings as keys: 'key versus', or 'versus = "year-ago"'."""
    return worded(text, lambda field, value: key_of(field) if value is None else f'{key_of(field)} = "{value}"')


def read_pack(path: Path, for_: str | None = None) -> Pack:
    """The pack of a file.

    Parameters
    ----------
    for_ : what stands in place of the pack's own window.

    Raises Mistake, with the line, where something in it is wrong.
    """
    if not path.is_file():
        known = [one.name for one in path.parent.glob("*.toml")] if path.parent.is_dir() else []
        raise Mistake(
            f"there is no pack file '{path}'",
            did_you_mean(path.name, known, "Start one with marvex begin SOURCE -o PACK.toml."),
        )
    from marvex.pack.pack_model import PackFile, PackOfSources

    source: Any = {}
    with contextlib.suppress(OSError, ValueError, RecursionError):
        source = tomllib.loads(path.read_text(encoding="utf-8-sig")).get("source", {})
    is_one = isinstance(source, dict) and ("file" in source or not source)
    said = read_toml(path, PackFile if is_one else PackOfSources, "")
    content = _with_variables(said.model_dump(exclude_none=True, exclude_unset=True), path.name)
    head = content.get("pack", {})
    if for_ is not None:
        head["for"] = for_
    reader = _Reader(path, content, head)
    views = tuple(reader.view(place, table) for place, table in enumerate(content["view"]))
    names = [one.name for one in views]
    for place, name in enumerate(names):
        if name in names[:place]:
            raise Mistake(f"{path.name}, line {views[place].line}: there are two views '{name}'", "Give each a name.")
    return Pack(
        path=path,
        title=head.get("title", ""),
        for_=_one(head.get("for")),
        choices=tuple(head.get("choices", ())),
        restated_fails=head.get("restated") == "fails",
        remarks_needed="remarks_needed" in head,
        language=head.get("language", "en"),
        style=reader.style,
        views=views,
    )


class _Reader:
    """The tables of a pack while its views are put together."""

    def __init__(self, path: Path, content: Mapping[str, Any], head: Mapping[str, Any]) -> None:
        self.path, self.content, self.head = path, content, head
        self.text = path.read_text(encoding="utf-8-sig")
        style = content.get("style", {})
        self.style: str | None = style.get("name") or style.get("file") or head.get("style")

    def view(self, number: int, table: Mapping[str, Any]) -> PackView:
        """One view, its settings from its own table, its rule, its sections and the pack: the nearest wins."""
        draw = str(table["draw"])
        if draw not in (*view_names(), "table", "commentary"):
            raise self.wrong(number, "draw", draw)
        place = TABLE if draw == "table" else COMMENTARY if draw == "commentary" else view_place(draw)
        name = table.get("name") or f"{number + 1:02}-{draw}"
        if not NAME.fullmatch(name):
            line = line_of(self.text, ["view", number, "name"])
            raise Mistake(
                f"{self.path.name}, line {line}: a view cannot be called '{name}'",
                "Write letters, digits and hyphens: it names files.",
            )
        source = self.source(number, table.get("source"))
        own = {key: value for key, value in table.items() if key not in OF_VIEW}
        defaults = {key: value for key, value in self.head.items() if key not in OF_HEAD}
        sections = {key: value for key, value in source.items() if key != "file"}
        sections |= self.content.get("calendar", {}) | self.statement()
        if self.style:
            sections["style"] = self.style
        said: dict[str, Any] = {}
        for layer in (defaults, sections):
            # What a view cannot use is a default that passes it by; what excludes what it says itself, likewise.
            said |= {key: value for key, value in layer.items() if place.can_use(FIELD_OF[key], _places(key))}
        said = self.without_excluded(said, own) | own
        with PackView(
            name=name, draw=draw, place=place, sources=(), settings=Settings(), stands=False,
            default_for=None, line=line_of(self.text, ["view", number]), file=self.path.name,
        ).placed():  # fmt: skip
            values = settings_from(said)
        if values.get("rule") in self.content.get("rules", {}):
            values["rule"] = f"{self.path}:{values['rule']}"
        dated = own.get("for")
        files = source["file"]
        return PackView(
            name=name,
            draw=draw,
            place=place,
            sources=(files,) if isinstance(files, str) else tuple(files),
            settings=Settings(**values),
            default_for=_one(self.head.get("for")) if dated is None else None,
            stands=dated is not None and not MOVING.fullmatch(str(_one(dated))),
            line=line_of(self.text, ["view", number]),
            file=self.path.name,
        )

    def without_excluded(self, said: Mapping[str, Any], own: Mapping[str, Any]) -> dict[str, Any]:
        """The defaults without those in whose place the view says something else."""
        found = dict(said)
        for one, others in EXCLUDING.items():
            if one in own:
                for other in others:
                    found.pop(other, None)
        return found

    def source(self, number: int, name: str | None) -> Mapping[str, Any]:
        sources = self.content.get("source", {})
        if "file" in sources or not sources:
            if name is not None or not sources:
                what = f"there is no [source.{name}]" if name else "there is no table [source]"
                raise Mistake(f"{self.path.name}: {what}", 'Write [source] with file = "ledger.csv".')
            return sources  # type: ignore[no-any-return]
        if name is None and len(sources) == 1:
            return next(iter(sources.values()))
        if name not in sources:
            line = line_of(self.text, ["view", number, "source"]) or line_of(self.text, ["view", number])
            what = f"there is no [source.{name}]" if name else "the view does not say its source"
            hint = did_you_mean(name or "", sources, f"There are {listed(sources)}.")
            raise Mistake(f"{self.path.name}, line {line}: {what}", hint)
        return sources[name]  # type: ignore[no-any-return]

    def statement(self) -> dict[str, Any]:
        table = dict(self.content.get("statement", {}))
        file = table.pop("file", None)
        if file not in (None, "found"):
            table["statement"] = file
        return table

    def wrong(self, number: int, key: str, value: str) -> Mistake:
        line = line_of(self.text, ["view", number, key])
        known = (*view_names(), "table", "commentary")
        ours = VIEWS.get(value.casefold())
        hint = f"It is called {ours} here." if ours else did_you_mean(value, known, f"There are {listed(known, 12)}.")
        return Mistake(f"{self.path.name}, line {line}: there is no view '{value}'", hint)


# Settings of which a view says one in place of the other.
EXCLUDING = {
    "band": ("rule",),
    "rule": ("band",),
    "column": ("for", "versus"),
    "current": ("of", "versus", "amount", "scenario", "headings_are"),
    "by": ("statement", "account", "unmapped", "lines"),
    "statement": ("by", "order", "keep", "name_map", "better"),
}


def _places(key: str) -> tuple[str, ...]:
    return OPTIONS[FIELD_OF[key]].places


def _one(value: Any) -> str | None:
    """The first of several windows, as a text."""
    return None if value is None else str(value[0] if isinstance(value, list) else value)


def _with_variables(value: Any, file: str) -> Any:
    """The content with `${NAME}` as the environment has it."""
    if isinstance(value, dict):
        return {key: _with_variables(one, file) for key, one in value.items()}
    if isinstance(value, list):
        return [_with_variables(one, file) for one in value]
    if not isinstance(value, str):
        return value

    def found(match: re.Match[str]) -> str:
        if match[1] not in os.environ:
            raise Mistake(f"{file}: the environment has no {match[1]}", f"Set {match[1]} before the command.")
        return os.environ[match[1]]

    return VARIABLE.sub(found, value)
