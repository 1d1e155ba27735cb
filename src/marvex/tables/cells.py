"""Text in the cells of files that others open: never a formula, never a break in the table."""

from __future__ import annotations

from marvex.core.words.printable import printable

STARTS_A_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_MARKDOWN = str.maketrans({**{sign: f"\\{sign}" for sign in "\\`*_|"}, "<": "&lt;", "\t": " "})


def never_a_formula(text: str) -> str:
    """The text as a spreadsheet shows it when it opens a CSV: behind an apostrophe where it would be worked out.

    >>> never_a_formula("=1+1"), never_a_formula("Fuel")
    ("'=1+1", 'Fuel')
    """
    return f"'{text}" if text.startswith(STARTS_A_FORMULA) else text


def in_markdown(text: str) -> str:
    """The text in one line, with nothing in it that Markdown or HTML would take for its own.

    >>> in_markdown("Gift | cards\\n<b>*new*</b>")
    'Gift \\\\| cards &lt;b>\\\\*new\\\\*&lt;/b>'
    """
    return " ".join(printable(text).translate(_MARKDOWN).split())
