"""A TOML file checked against its model: what is wrong, in which table, and the nearest right key.

Only a command that names such a file comes here, for loading Pydantic takes a while.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from pathlib import Path
from types import UnionType
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel, ConfigDict, ValidationError

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.words.trade_words import SETTINGS
from marvex.request.toml_lines import line_of

_LISTS = ("line", "view")  # the tables of which there are several


class Model(BaseModel):
    """A table of a file; the description of each field says what its value is to be."""

    model_config = ConfigDict(extra="forbid", strict=True)


M = TypeVar("M", bound=Model)


def read_toml(path: Path, model: type[M], field: str) -> M:
    """The content of a file as its model says.

    Parameters
    ----------
    field : the setting that names the file; empty where it is an argument.

    Raises Mistake where the file cannot be read, or with the place and the nearest key where something is wrong in it.
    """
    try:
        text = path.read_text(encoding="utf-8-sig")
        content = tomllib.loads(text)
    except (OSError, ValueError, RecursionError) as problem:
        named = setting(field, path.name) if field else path.name
        raise Mistake(f"{named} cannot be read: {problem}", "Mend the file.") from problem
    try:
        return model.model_validate(content)
    except ValidationError as problem:
        raise _mistake(problem, model, content, path.name, text) from None


def _mistake(
    problem: ValidationError, model: type[Model], content: Mapping[str, Any], file: str, text: str
) -> Mistake:
    # A wrong key says more than the one that is missing for it.
    errors = sorted(problem.errors(), key=lambda one: one["type"] != "extra_forbidden")
    error = errors[0]
    *above, key = error["loc"]
    while isinstance(key, int) or (above and _at(model, above) is None):
        *above, key = above  # what is wrong within a list, or in one reading of several, is wrong of its key
    line = line_of(text, [*above, key])
    place = ", ".join((file, *([f"line {line}"] if line else []), *_place(above, content)))
    known = _at(model, above)
    if error["type"] == "extra_forbidden":
        names = list(known.model_fields) if known else []
        if not above and isinstance(error["input"], dict):
            names = [f"[[{name}]]" if name in _LISTS else f"[{name}]" for name in names]
            return Mistake(
                f"{place} has no table [{key}]", did_you_mean(f"[{key}]", names, f"There are {listed(names)}.")
            )
        ours = SETTINGS.get(str(key).replace("-", "_").casefold(), "").rstrip("_")
        if ours in names:
            return Mistake(f"{place}: {key} is called {ours} here", f"Write {ours} = ….")
        return Mistake(
            f"{place}: there is no key '{key}'", did_you_mean(str(key), names, f"There are {listed(names)}.")
        )
    described = known.model_fields[str(key)].description if known and str(key) in known.model_fields else None
    expected = described or _described(model, [*above, key]) or "of its kind"
    if error["type"] == "missing":
        return Mistake(f"{place} does not say its {key}", f"Write {key} as {expected}.")
    value = _value(content, [*above, key])
    return Mistake(f"{place}: {key} cannot be {_written(value)}", f"Write {key} as {expected}.")


def _written(value: Any) -> str:
    """A value as TOML writes it, not too long."""
    text = str(value).lower() if isinstance(value, bool) else repr(value)
    return text if len(text) <= 60 else text[:59] + "…"


def _value(content: Any, loc: Sequence[int | str]) -> Any:
    for part in loc:
        try:
            content = content[part]
        except (KeyError, IndexError, TypeError):
            break
    return content


def _place(loc: Sequence[int | str], content: Any) -> list[str]:
    """A place within a file in words: `[rules.spend]`, `line 'Fuel'`."""
    if any(isinstance(part, int) for part in loc):
        table, number = str(loc[0]), int(loc[1])
        label = _value(content, [table, number, "name" if table == "view" else "label"])
        return [f"{table} '{label}'" if isinstance(label, str) else f"{table} {number + 1}"]
    return [f"[{'.'.join(str(part) for part in loc)}]"] if loc else []


def _at(model: type[Model], loc: Sequence[int | str]) -> type[Model] | None:
    """The model of a table within a file; None where there is none."""
    found: Any = model
    for part in loc:
        found = _inner(found, part)
    return found if isinstance(found, type) and issubclass(found, Model) else None


def _inner(annotation: Any, part: int | str) -> Any:
    if isinstance(annotation, type) and issubclass(annotation, Model):
        field = annotation.model_fields.get(str(part))
        return _plain(field.annotation) if field else None
    arguments = get_args(annotation)
    return _plain(arguments[-1 if get_origin(annotation) is dict else 0]) if arguments else None


def _plain(annotation: Any) -> Any:
    """An annotation without what is said of it, and without None."""
    while get_origin(annotation) in (Annotated, Union, UnionType):
        arguments = [one for one in get_args(annotation) if one is not type(None)]
        annotation = arguments[0]
    return annotation


def _described(model: type[Model], loc: Sequence[int | str]) -> str | None:
    """What the table that a key names is to be."""
    return "a table" if _at(model, loc) is not None else None
