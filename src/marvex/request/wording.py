"""How a setting is called where it is said: on a command line as its option."""

from __future__ import annotations

import re

from marvex.core.errors import worded

_PLAIN = re.compile(r"[\w@%+=:,./-]+")


def flag(name: str) -> str:
    """The option of a field: `total_as` is `--total-as`, `for_` is `--for`."""
    return "--" + name.rstrip("_").replace("_", "-")


def as_options(text: str) -> str:
    """A message with its settings as options: '--versus year-ago'."""
    return worded(text, _option)


def _option(field: str, value: str | None) -> str:
    if value is None:
        return flag(field)
    return f"{flag(field)} {shell_word(value)}"


def shell_word(value: str) -> str:
    """A value as it is typed in a shell, in quotes where it needs them."""
    if _PLAIN.fullmatch(value):
        return value
    return "'" + value.replace("'", "'\"'\"'") + "'"
