"""The terminal, or what stands in its place: where a result is printed."""

from __future__ import annotations

from typing import NoReturn

from rich.console import Console


class Screen(Console):
    """A console that leaves a reader who has had enough to the one place that knows what then happens."""

    def on_broken_pipe(self) -> NoReturn:
        raise BrokenPipeError


def screen(width: int) -> Screen:
    """Standard output: as wide as the terminal, or so wide where it is none."""
    console = Screen(highlight=False)
    return console if console.is_terminal else Screen(highlight=False, width=width)
