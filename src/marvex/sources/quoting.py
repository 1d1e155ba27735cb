"""Names and values within SQL, where they cannot be bound."""

from __future__ import annotations

import re


def quoted_text(text: str) -> str:
    """A value within SQL, where it cannot be bound."""
    return "'" + text.replace("'", "''") + "'"


def quoted_name(name: str) -> str:
    """A column's name within SQL."""
    return '"' + name.replace('"', '""') + '"'


def quoted_path(path: str) -> str:
    """A path as SQL text that the engine takes for that path, not for a pattern of several."""
    return quoted_text(re.sub(r"[*?\[]", lambda found: f"[{found[0]}]", path))
