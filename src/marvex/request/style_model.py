"""What a style file may hold: colours by tone, shapes, sizes and lines; what it leaves out is as in the default."""

from __future__ import annotations

from enum import Enum
from typing import Annotated, Any

from pydantic import Field, StringConstraints, create_model

from marvex.core.rules.bands import Tone
from marvex.request.toml_file import Model

Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
Pixels = Annotated[float, Field(gt=0, le=200, strict=False)]
TONES = tuple(tone.value for tone in Tone)


def style_file(keys: dict[str, tuple[str, ...]], shapes: type[Enum]) -> type[Model]:
    """The model of a style file.

    Parameters
    ----------
    keys : the keys of the tables `colours`, `sizes` and `lines`.
    shapes : the shapes that may stand beside a figure.
    """
    names = tuple(str(one.value) for one in shapes)
    shape = Annotated[str, StringConstraints(pattern=f"^({'|'.join(names)})$")]
    a_colour, a_size = "a colour, such as #238573", "a size in pixels, from 0 to 200"
    return create_model(
        "StyleFile",
        __base__=Model,
        **_field("fills", _table("Fills", TONES, Colour, a_colour)),
        **_field("texts", _table("Texts", TONES, Colour, a_colour)),
        **_field("shapes", _table("Shapes", TONES, shape, f"a shape: {', '.join(names)}")),
        **_field("colours", _table("Colours", keys["colours"], Colour, a_colour)),
        **_field("sizes", _table("Sizes", keys["sizes"], Pixels, a_size)),
        **_field("lines", _table("Lines", keys["lines"], Pixels, a_size)),
    )


def _table(name: str, keys: tuple[str, ...], kind: Any, description: str) -> type[Model]:
    fields: dict[str, Any] = {key: (kind | None, Field(default=None, description=description)) for key in keys}
    return create_model(name, __base__=Model, **fields)


def _field(name: str, model: type[Model]) -> dict[str, Any]:
    return {name: (model | None, Field(default=None, description=f"a table [{name}]"))}
