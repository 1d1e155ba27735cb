"""Text from outside as it may be shown: nothing in it moves a cursor, turns a line about, or breaks one."""

from __future__ import annotations

import re

# Controls, escape sequences, and the signs that change the direction of what follows them.
_ESCAPES = re.compile(r"\x1b(?:\[[0-?]*[ -/]*[@-~]|\][^\x07\x1b]*(?:\x07|\x1b\\)?|.)?")
_HIDDEN = re.compile("[\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]")
_CONTROLS = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029]+")
_SURROGATES = re.compile("[\ud800-\udfff\ufffe\uffff]")


def printable(text: str) -> str:
    r"""The text in one line, without controls, overrides of direction, and what no file can hold.

    >>> printable("Gift cards,\nboxed"), printable("A\x1b[31mred"), printable("\u202eevil")
    ('Gift cards, boxed', 'Ared', 'evil')
    """
    if text.isprintable() and text.isascii():
        return text
    text = _HIDDEN.sub("", _ESCAPES.sub("", text))
    return _SURROGATES.sub("\ufffd", _CONTROLS.sub(" ", text))
