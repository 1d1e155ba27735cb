"""Names and values within SQL, where they cannot be bound."""

from __future__ import annotations


def quoted_text(text: str) -> str:
    """A value within SQL, where it cannot be bound."""
    return "'" + text.replace("'", "''") + "'"


def quoted_name(name: str) -> str:
    """A column's name within SQL."""
    return '"' + name.replace('"', '""') + '"'
