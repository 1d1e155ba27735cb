"""The commentary as plain text and as Markdown."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

from marvex.core.words.commentary import Sentence
from marvex.tables.cells import in_markdown

WIDTH = 96


def commentary_text(sentences: Sequence[Sentence], subtitle: str, foot: str, cautions: Sequence[str]) -> str:
    """Paragraphs to paste into a report: the finding first, the cautions last."""
    first, *others = (one.text for one in sentences)
    paragraphs = [first, subtitle, *others, *(f"Caution: {one}." for one in cautions), foot]
    lines = [textwrap.fill(one, WIDTH, break_on_hyphens=False) for one in paragraphs]
    return "\n\n".join([f"{lines[0]}\n{lines[1]}", *lines[2:]]) + "\n"


def commentary_markdown(sentences: Sequence[Sentence], subtitle: str, foot: str, cautions: Sequence[str]) -> str:
    """The same as a list under the finding."""
    first, *others = (in_markdown(one.text) for one in sentences)
    lines = [f"**{first}**", "", in_markdown(subtitle), "", *(f"- {one}" for one in others)]
    lines += ["", *(f"> Caution: {in_markdown(one)}.  " for one in cautions)] if cautions else []
    return "\n".join([*lines, "", in_markdown(foot), ""])
