"""What a view says of itself: its question, the options that it takes, an example, and the class that draws it."""

from __future__ import annotations

from typing import Any

from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class About:
    """A view as the command line, the pack and the application know it.

    Parameters
    ----------
    also : what the trade calls the picture.
    drawn : what is drawn, in a sentence.
    view : the class; its `made(look, said, analysis)` gives the view with all its settings.
    takes : the options that it takes beside those that all views do.
    show : what a label says unless told otherwise.
    on_axes : it has a value axis, and labels at its points.
    along_time : it can show points along time; `only_time`, nothing else.
    needs_base, needs_categories, needs_statement : it shows nothing without.
    shows_changes : it draws a column of differences as it stands, without a base.
    several : it sets several comparisons side by side.
    with_beyond : it shows the base of the periods that the current side has not reached.
    walks : it draws a walk's bars instead of points.
    turns : it shows where the colour of a bar would turn.
    by_effect : its bars are what a statement's lines do to the result, and so are its labels.
    """

    question: str
    also: tuple[str, ...]
    drawn: str
    example: str
    view: type[Any]
    takes: tuple[str, ...] = ()
    show: tuple[str, ...] = ("change",)
    on_axes: bool = True
    along_time: bool = True
    only_time: bool = False
    needs_base: bool = False
    shows_changes: bool = False
    needs_categories: bool = False
    needs_statement: bool = False
    several: bool = False
    with_beyond: bool = False
    walks: bool = False
    turns: bool = False
    by_effect: bool = False
