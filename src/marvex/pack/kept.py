"""What a build keeps for the next one: each view's pieces, and by what they were made."""

from __future__ import annotations

import dataclasses
import hashlib
import json
import os
from collections.abc import Mapping
from datetime import date
from pathlib import Path
from typing import Any

from marvex import __version__
from marvex.core.errors import Mistake
from marvex.core.values import dataclass
from marvex.pack.pack_file import Pack, PackView
from marvex.pack.piece import Piece
from marvex.request.files_named import files_named, files_of
from marvex.sources.readers.places import is_address, paths_of

FOLDER = ".built"
STATE = f"{FOLDER}/state.json"
PLAIN = ""  # the key of a view as it is before anything is chosen
Pieces = dict[str, Piece]  # by the choice, `month=2026-09`

_BY_THE_CLOCK = ("today", "yesterday")


class Digests:
    """What each view is made by, as a digest; a file is read once, however many views it is of."""

    def __init__(self, pack: Pack, edition: Path | None) -> None:
        self._pack, self._edition = pack, edition
        self._files: dict[str, str] = {}

    def of_view(self, view: PackView) -> str:
        """Of its settings, all files that they name, the version, and the edition that it is measured against."""
        settings = {
            field.name: str(getattr(view.settings, field.name)) for field in dataclasses.fields(view.settings)
        }
        own = [
            view.draw,
            json.dumps(settings, sort_keys=True),
            str(self._pack.choices),
            str(self._pack.for_),
            str(self._pack.restated_fails),
        ]
        own += [self._of_file(path) for path in self._inputs(view)]
        own.append(self._of_file(str(self._edition / f"{view.name}.json")) if self._edition else "")
        windows = (*view.settings.for_, *view.settings.versus, *map(str, view.settings.column))
        own.append(str(date.today()) if any(word in one for word in _BY_THE_CLOCK for one in windows) else "")
        return _digest(__version__, *own)

    def of_pack(self) -> str:
        """Of what stands around the views."""
        pack = self._pack
        return _digest(__version__, pack.title, pack.language, str(pack.style), *(one.name for one in pack.views))

    def _inputs(self, view: PackView) -> list[str]:
        sources = [path for one in files_of(view.sources) for path in paths_of(one)]
        # Of the pack itself only the rule is an input, not all else that it says.
        return sources + [one for one in files_named(view.settings) if Path(one) != self._pack.path]

    def _of_file(self, path: str) -> str:
        """A digest of a file's content; of a name that is of no file, the name."""
        if path not in self._files:
            # A rule of the pack is in its own file, with all else that may change there.
            name, _, rule = path.rpartition(":")
            if name and Path(name) == self._pack.path:
                self._files[path] = _digest(_rule_text(self._pack.path, rule))
            elif is_address(path):
                # Nobody but the database itself could tell whether it has changed.
                self._files[path] = os.urandom(16).hex()
            elif Path(path).is_file():
                with Path(path).open("rb") as file:
                    self._files[path] = hashlib.file_digest(file, "blake2b").hexdigest()
            else:
                self._files[path] = path
        return self._files[path]


def _rule_text(path: Path, rule: str) -> str:
    import tomllib

    return json.dumps(tomllib.loads(path.read_text(encoding="utf-8-sig"))["rules"][rule], sort_keys=True)


def _digest(*texts: str) -> str:
    return hashlib.blake2b("\0".join(texts).encode("utf-8", "surrogatepass")).hexdigest()[:40]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Kept:
    """What the last build left."""

    views: Mapping[str, str]  # digests by name
    pack: str
    files: tuple[str, ...]  # what it wrote, in its folder

    def is_current(self, name: str, digest: str) -> bool:
        return self.views.get(name) == digest


def kept_in(folder: Path) -> Kept:
    """What the last build left in a folder; nothing where there was none, or where that cannot be read."""
    try:
        state = json.loads((folder / STATE).read_text(encoding="utf-8"))
        return Kept(views=dict(state["views"]), pack=str(state["pack"]), files=tuple(state["files"]))
    except (OSError, ValueError, KeyError, TypeError):
        return Kept(views={}, pack="", files=())


def state_text(views: Mapping[str, str], pack: str, files: list[str]) -> str:
    return json.dumps({"files": sorted(files), "pack": pack, "views": views}, indent=1, sort_keys=True) + "\n"


def pieces_path(name: str) -> str:
    return f"{FOLDER}/{name}.json"


def pieces_text(pieces: Pieces) -> str:
    return json.dumps({key: dataclasses.asdict(piece) for key, piece in pieces.items()}, ensure_ascii=False)


def pieces_in(folder: Path, name: str) -> Pieces | None:
    """A view's pieces as the last build left them; None where they cannot be read."""
    try:
        content: dict[str, dict[str, Any]] = json.loads((folder / pieces_path(name)).read_text(encoding="utf-8"))
        return {key: Piece(**one) for key, one in content.items()}
    except (OSError, ValueError, TypeError):
        return None


def check_folder(folder: Path, pack: Pack) -> None:
    """Raises Mistake where a pack must not be built in a folder: over its own sources, or over other files."""
    inputs = [path for view in pack.views for one in files_of(view.sources) for path in paths_of(one)]
    names = ("pictures", "figures", "editions", FOLDER)
    for path in (pack.path, *map(Path, inputs)):
        inside = path.resolve().parent
        if any(inside == (folder / name).resolve() for name in names):
            raise Mistake(f"{path} lies in the folder that the pack is built in", "Name another folder.")
