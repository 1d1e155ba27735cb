"""Each view as a place where settings are said."""

from __future__ import annotations

from marvex.request.place import Place
from marvex.views import about_view


def view_place(name: str) -> Place:
    """A view as a place where settings are said."""
    about = about_view(name)
    can = {"axes": about.on_axes, "time": about.along_time, "several": about.several}
    kinds = {"drawn", *(kind for kind, is_so in can.items() if is_so)}
    return Place(
        name=f"draw {name}",
        kinds=frozenset(kinds),
        takes=frozenset(about.takes),
        several=about.several,
        needs_categories=about.needs_categories,
        only_time=about.only_time,
        with_beyond=about.with_beyond,
    )
