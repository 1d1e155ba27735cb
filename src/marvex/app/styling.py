"""Which style a call asks for: one that comes with Marvex, or a file of the analyst's own."""

from __future__ import annotations

from pathlib import Path

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.views.style import Style, read_style, style_named, style_names


def styled(asked: str | None) -> tuple[Style, tuple[str, ...]]:
    """The style, and what has to be said of one of the analyst's own that is hard to read.

    Raises Mistake where there is neither a style nor a file so named.
    """
    names = style_names()
    if asked is None or asked in names:
        return style_named(asked or names[0]), ()
    path = Path(asked)
    if not path.is_file():
        raise Mistake(
            f"{setting('style')}: there is neither a style nor a file '{asked}'",
            did_you_mean(asked, names, f"Styles are {', '.join(names)}."),
        )
    try:
        style = read_style(path.read_text(encoding="utf-8-sig"), path.name)
    except (OSError, UnicodeDecodeError) as problem:
        raise Mistake(f"the style {path.name} cannot be read: {problem}", "Give a TOML file.") from problem
    from marvex.views.contrast import weaknesses

    return style, tuple(f"style {path.name}: {one}" for one in weaknesses(style))
