"""What a style file may hold: colours by tone, shapes, sizes and lines; what it leaves out is as in the default."""

from __future__ import annotations

from enum import Enum
from typing import Annotated, Any

from pydantic import Field, StringConstraints, create_model

from marvex.core.rules.bands import Tone
from marvex.request.toml_file import Model

Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
Ground = Annotated[str, StringConstraints(pattern=r"^(#[0-9A-Fa-f]{6}|transparent)$")]
Pixels = Annotated[float, Field(gt=0, le=200, strict=False)]
TONES = tuple(tone.value for tone in Tone)


def style_file(keys: dict[str, tuple[str, ...]], shapes: type[Enum], names_of_styles: tuple[str, ...]) -> type[Model]:
    """The model of a style file.

    Parameters
    ----------
    keys : the keys of the tables `colours`, `sizes`, `lines` and `fonts`.
    shapes : the shapes that may stand beside a figure.
    names_of_styles : those that a file may inherit.
    """
    inherited = Annotated[str, StringConstraints(pattern=f"^({'|'.join(names_of_styles)})$")]
    names = tuple(str(one.value) for one in shapes)
    shape = Annotated[str, StringConstraints(pattern=f"^({'|'.join(names)})$")]
    colours = create_model(
        "Colours",
        __base__=_table(
            "Inks", tuple(key for key in keys["colours"] if key != "ground"), Colour, "a colour, such as #238573"
        ),
        ground=(Ground | None, Field(default=None, description="a colour, such as #FFFFFF, or transparent")),
    )
    a_colour, a_size = "a colour, such as #238573", "a size in pixels, from 0 to 200"
    return create_model(
        "StyleFile",
        __base__=Model,
        **_field("fills", _table("Fills", TONES, Colour, a_colour)),
        **_field("texts", _table("Texts", TONES, Colour, a_colour)),
        **_field("shapes", _table("Shapes", TONES, shape, f"a shape: {', '.join(names)}")),
        **_field("colours", colours),
        **_field("sizes", _table("Sizes", keys["sizes"], Pixels, a_size)),
        **_field("lines", _table("Lines", keys["lines"], Pixels, a_size)),
        **_field("fonts", _table("Fonts", keys["fonts"], str, "a font file, .ttf or .otf")),
        inherits=(inherited | None, Field(default=None, description=f"a style: {', '.join(names_of_styles)}")),
    )


def _table(name: str, keys: tuple[str, ...], kind: Any, description: str) -> type[Model]:
    fields: dict[str, Any] = {key: (kind | None, Field(default=None, description=description)) for key in keys}
    return create_model(name, __base__=Model, **fields)


def _field(name: str, model: type[Model]) -> dict[str, Any]:
    return {name: (model | None, Field(default=None, description=f"a table [{name}]"))}
