"""Times the drawing of a picture against a bare Matplotlib figure with as many bars and texts, at the same size.

    python benchmarks/drawing.py

Within one process, so that neither side pays for start-up: from judged points to the bytes of a PNG.
"""

from __future__ import annotations

import csv
import io
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path

from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure

from marvex.app import draw as pictures
from marvex.request.settings import Settings
from marvex.views.drawing.saving import saved

ROUNDS = 15


def rows(points: int) -> list[tuple[str, int]]:
    step = 30 if points == 12 else 1
    return [
        ((date(year, 1, 15) + timedelta(days=place * step)).isoformat(), place * 37 % 91 + year % 7 * place % 13)
        for year in (2023, 2024)
        for place in range(points)
    ]


def bare(bars: int, texts: int) -> bytes:
    figure = Figure(figsize=(12.8, 8), dpi=100)
    axes = figure.add_subplot()
    axes.bar(range(bars), [place % 17 + 1 for place in range(bars)])
    for place in range(texts):
        axes.text(place % bars, place % 17 + 1, f"{place}")
    content = io.BytesIO()
    FigureCanvasAgg(figure).print_png(content)
    return content.getvalue()


def median(work: Callable[[], object]) -> float:
    work()
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        for points in (12, 366):
            source = Path(folder) / f"{points}.csv"
            with source.open("w", newline="") as file:
                csv.writer(file).writerows([("date", "net"), *rows(points)])
            for view in ("variance", "against", "paired", "trend"):
                every = "month" if points == 12 else "day"
                settings = Settings(for_=("2024",), versus=("year-ago",), every=every)
                plan = pictures.planned(view, [str(source)], settings)
                one = pictures.drawn_as(plan, settings)
                texts = len(one.canvas.texts)

                def ours(plan: pictures.Planned = plan, settings: Settings = settings) -> bytes:
                    picture = pictures.drawn_as(plan, settings)
                    return saved(picture.canvas, ".png", "title", "description").content

                def theirs(points: int = points, texts: int = texts) -> bytes:
                    return bare(points, texts)

                mine, other = median(ours), median(theirs)
                print(
                    f"{view:9} {points:3} points, {texts:3} texts  {mine:.3f} s / {other:.3f} s = {mine / other:.2f}"
                )


if __name__ == "__main__":
    main()
