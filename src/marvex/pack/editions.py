"""Editions: the figures of a pack as they were sent out, frozen by period, and what has changed since."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from decimal import Decimal
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, listed
from marvex.pack.piece import CARRIED, Piece
from marvex.pack.windows import ALL
from marvex.request.asked import asked
from marvex.request.settings import Settings
from marvex.tables.exact_json import exact_json

FOLDER = "editions"
_OF_A_POINT = (
    *("panel", "label", "kind", "state", "scenario", "current", "base", "change", "band", "tone", "comparison"),
    *("from", "to", "base_from", "base_to", "remark"),
)


def editions_in(folder: Path) -> list[str]:
    """The periods of the editions that are frozen in a folder, in order."""
    place = folder / FOLDER
    # What says no period may be from before the source said one.
    names = (one.name for one in place.iterdir() if one.is_dir()) if place.is_dir() else ()
    return sorted(names, key=lambda name: (name != ALL, name))


def last_edition(folder: Path) -> Path | None:
    """The folder of the edition that was frozen for the latest period."""
    names = editions_in(folder)
    return folder / FOLDER / names[-1] if names else None


def frozen(piece: Piece, settings: Settings) -> str:
    """The figures of a view as an edition keeps them: sorted, a key a line, so that two can be compared by eye.

    Parameters
    ----------
    settings : by which the pack asks for it.
    """
    content = json.loads(piece.figures, parse_float=Decimal, parse_int=Decimal)
    points = [{key: one.get(key) for key in sorted(_OF_A_POINT)} for one in content["points"]]
    record: dict[str, Any] = {
        "asked": asked(settings),
        "base": content["base"],
        "comparisons": content["comparisons"],
        "current": content["current"],
        "held": piece.held,
        "headline": content["headline"],
        "points": [{**one, "comparison": int(one["comparison"] or 0)} for one in points],
        "remarks": [{"point": point, "text": text} for point, text in piece.remarks],
        "source": content["source"],
        "structure": content["structure"],
        "unmatched": content["unmatched"],
        "view": content["view"],
    }
    return exact_json(record)


def carried_over(edition: Path | None, name: str) -> dict[str, str]:
    """The remarks of a view in an edition, by their points."""
    if edition is None:
        return {}
    try:
        content = json.loads((edition / f"{name}.json").read_text(encoding="utf-8"))
        return {str(one["point"]): str(one["text"]) for one in content["remarks"]}
    except (OSError, ValueError, KeyError, TypeError):
        return {}


def check_edition(folder: Path, name: str) -> Path:
    """The folder of an edition; raises Mistake with the nearest name where there is none."""
    names = editions_in(folder)
    if name not in names:
        hint = did_you_mean(name, names, f"There are {listed(names)}." if names else "Freeze one with --issue.")
        raise Mistake(f"there is no edition {name} in {folder}", hint)
    return folder / FOLDER / name


def compared(older: Path, newer: Path) -> str:
    """What differs between two editions, as a CSV-like list for a reader: view, point, side, was, is.

    Views that only one of them has are among it. Of several comparisons in a view the number tells which.
    """
    rows: list[tuple[object, ...]] = []
    for name in sorted({path.name for edition in (older, newer) for path in edition.glob("*.json")}):
        then, now = _points(older / name), _points(newer / name)
        for key in dict.fromkeys((*then, *now)):
            of_movement = all(one.get(key, {}).get("current") is None for one in (then, now))
            for figure in ("current", "base", *(("change",) if of_movement else ()), "band"):
                was, found = (one.get(key, {}).get(figure) for one in (then, now))
                if was != found:
                    comparison, panel, point, _ = key
                    rows.append(
                        (name.removesuffix(".json"), comparison, panel, point, figure, _text(was), _text(found))
                    )
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(("view", "comparison", "panel", "point", "figure", older.name, newer.name))
    writer.writerows(rows)
    return text.getvalue()


def _points(path: Path) -> dict[tuple[int, str, str, int], dict[str, Any]]:
    """The points of a view by comparison, from 1, panel, name, and place among those of that name."""
    found: dict[tuple[int, str, str, int], dict[str, Any]] = {}
    seen: Counter[tuple[int, str, str]] = Counter()
    if not path.is_file():
        return found
    content = json.loads(path.read_text(encoding="utf-8"), parse_float=Decimal, parse_int=Decimal)
    for one in content["points"]:
        named = (int(one["comparison"]) + 1, str(one["panel"] or ""), str(one["label"]))
        found[*named, seen[named]] = one
        seen[named] += 1
    return found


def _text(value: Any) -> str:
    return "" if value is None else f"{value:f}" if isinstance(value, Decimal) else str(value)


def lacking_remarks(piece: Piece) -> list[str]:
    """The points in a worse band that have no remark of this edition: one carried over has still to be confirmed."""
    remarked = {point for point, text in piece.remarks if CARRIED not in text}
    return [name for name in piece.worse if name not in remarked]
