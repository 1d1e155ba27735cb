"""The pictures of a pack, painted by other processes while the next views are worked out."""

from __future__ import annotations

import importlib
import multiprocessing
import os
import pickle
import tempfile
from collections.abc import Callable, Sequence
from multiprocessing.connection import wait
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from marvex.core.errors import Mistake
from marvex.pack.making import Unpainted, painted
from marvex.pack.piece import Piece

_IMPORTED = (
    *("marvex.views.drawing.saving", "matplotlib.backends.backend_svg", "matplotlib.backends.backend_pdf"),
    *("fontTools.subset", "PIL.PngImagePlugin"),
)


class Painters:
    """Processes that paint, as many at a time as there are cores; use it in a `with` block.

    On two cores a pack of ten views and twelve choices took 22 s with them, and 38 s without; one of 24 views
    without choices 7.6 s and 10.8 s, of which setting the document beside the page was 0.6 s.
    """

    def __init__(self) -> None:
        can_fork = "fork" in multiprocessing.get_all_start_methods()
        self._cores = len(os.sched_getaffinity(0)) if can_fork and hasattr(os, "sched_getaffinity") else 1
        self._results: dict[str, Any] = {}
        self._running: dict[str, tuple[Any, Callable[[], Any]]] = {}
        self._folder = tempfile.TemporaryDirectory(prefix="marvex-")

    def __enter__(self) -> Self:
        # What every process would import for itself: 0.3 s of each.
        for module in _IMPORTED if self._cores > 1 else ():
            importlib.import_module(module)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None
    ) -> None:
        for process, _ in self._running.values():
            process.kill()
            process.join()
        self._folder.cleanup()

    def begin(self, name: str, work: Callable[[], Any]) -> None:
        """Lets some work be done, whose result can be pickled."""
        if self._cores < 2:
            self._results[name] = work()
            return
        while len(self._running) >= self._cores:
            wait([process.sentinel for process, _ in self._running.values()])
            for ended in [one for one, (process, _) in self._running.items() if not process.is_alive()]:
                self._collect(ended)
        # What the work needs is there already when it begins, so that nothing is sent to it.
        process = multiprocessing.get_context("fork").Process(target=_do, args=(work, self._file(name)), daemon=True)
        process.start()
        self._running[name] = process, work

    def result(self, name: str) -> Any:
        """What came of some work."""
        if name in self._running:
            self._collect(name)
        return self._results[name]

    def _collect(self, name: str) -> None:
        process, work = self._running.pop(name)
        process.join()
        path = self._file(name)
        # What a process took with it when it ended is done here.
        self._results[name] = pickle.loads(path.read_bytes()) if path.exists() else work()

    def _file(self, name: str) -> Path:
        return Path(self._folder.name) / name


def _do(work: Callable[[], Any], path: Path) -> None:
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the one who began it is told, and ends it
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    try:
        content = pickle.dumps(work())
        draft = path.with_suffix(".draft")
        draft.write_bytes(content)
        draft.replace(path)
    finally:  # what went wrong goes wrong again where it can be told
        os._exit(0)


def painted_all(jobs: Sequence[tuple[Unpainted, bool]]) -> list[Piece | Mistake]:
    """Each piece with its picture, or the mistake that it ended with.

    Parameters
    ----------
    jobs : what is to be painted, each with whether all of its files are.
    """
    return [_one(one, is_whole) for one, is_whole in jobs]


def _one(one: Unpainted, is_whole: bool) -> Piece | Mistake:
    try:
        return painted(one, is_whole=is_whole)
    except Mistake as mistake:
        return mistake
