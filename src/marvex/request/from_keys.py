"""Settings from the keys of a pack: the same words as on the command line, with values of TOML."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, sentence, setting
from marvex.request.settings import FIELDS, OPTIONS

OF_COLUMNS = ("by", "then_by", "date", "amount")
WRITTEN_BY_THE_PACK = ("output", "figures", "since", "since_gate", "overwrite", "at", "trace_rows")


def key_of(field: str) -> str:
    """What a setting is called as a key: `for_` is `for`."""
    return field.rstrip("_")


FIELD_OF = {key_of(field): field for field in FIELDS if field not in WRITTEN_BY_THE_PACK}


def settings_from(said: Mapping[str, Any]) -> dict[str, Any]:
    """The values of the fields of `Settings`, by the keys that say them.

    Raises Mistake where a value cannot be read.
    """
    return {FIELD_OF[key]: _value(FIELD_OF[key], value) for key, value in said.items()}


def _value(field: str, value: Any) -> Any:
    about, default = OPTIONS[field], FIELDS[field].default
    if default is False:
        if not isinstance(value, bool):
            raise Mistake(f"{setting(field)} cannot be {value!r}", "Write true or false.")
        return value
    if about.repeats:
        values = value if isinstance(value, list) else [value]
        return tuple(_read(field, one) for one in (_columns(values) if field in OF_COLUMNS else values))
    return _read(field, ",".join(map(str, value)) if isinstance(value, list) else value)


def _columns(values: list[Any]) -> list[str]:
    """Several columns as the command line names them, with commas between; what is of one source stays apart."""
    texts = [str(value) for value in values]
    of_all = [text for text in texts if "=" not in text]
    return [*([",".join(of_all)] if of_all else []), *(text for text in texts if "=" in text)]


def _read(field: str, value: Any) -> Any:
    about, text = OPTIONS[field], ("on" if value else "off") if isinstance(value, bool) else str(value)
    try:
        found = about.read(text)
    except ValueError as problem:
        raise Mistake(f"{setting(field, text)} cannot be read", sentence(str(problem))) from None
    if about.choices and found not in about.choices:
        hint = did_you_mean(text, about.choices, f"There are {', '.join(about.choices)}.")
        raise Mistake(f"{setting(field)}: there is no '{text}'", hint)
    return found
