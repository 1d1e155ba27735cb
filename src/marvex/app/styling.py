"""Which style a call asks for: one that comes with Marvex, or a file of the analyst's own."""

from __future__ import annotations

from pathlib import Path

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.views.drawing.style import KEYS, Shape, Style, style_named, style_names, style_of


def styled(asked: str | None) -> Style:
    """The style; raises Mistake where there is neither a style nor a file so named."""
    names = style_names()
    if asked is None or asked in names:
        return style_named(asked or names[0])
    path = Path(asked)
    if not path.is_file():
        raise Mistake(
            f"{setting('style')}: there is neither a style nor a file '{asked}'",
            did_you_mean(asked, names, f"Styles are {', '.join(names)}."),
        )
    # Pydantic is loaded only where a file is named.
    from marvex.request.style_model import style_file
    from marvex.request.toml_file import read_toml

    said = read_toml(path, style_file(KEYS, Shape, names), "style")
    style = style_of(said.model_dump(exclude_none=True), path.parent)
    if style.fonts is not None:
        from marvex.views.drawing.text_metrics import check_font

        for font in style.fonts:
            check_font(font, path.name)
    return style


def weaknesses_of(asked: str) -> tuple[str, ...]:
    """What has to be said of a style of the analyst's own that is hard to read."""
    if asked in style_names():
        return ()
    from marvex.views.drawing.contrast import weaknesses

    return tuple(f"style {Path(asked).name}: {one}" for one in weaknesses(styled(asked)))
