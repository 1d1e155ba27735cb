"""The pictures of a pack, painted by as many processes as there are cores."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Sequence
from multiprocessing.connection import wait
from typing import Any

from marvex.core.errors import Mistake
from marvex.pack.piece import Piece, Unpainted, painted

FEW = 3  # pictures that one process has painted before others have begun

Job = tuple[Unpainted, bool]
Result = Piece | Mistake


def all_painted(jobs: Sequence[Job], done: Callable[[int], None]) -> list[Result]:
    """Each picture, or the mistake that it ended with, in order.

    Parameters
    ----------
    done : is told of each that is done, by its place.
    """
    cores = min(len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else 1, len(jobs))
    if cores < 2 or len(jobs) <= FEW or "fork" not in multiprocessing.get_all_start_methods():
        return [_told(place, _one(job), done) for place, job in enumerate(jobs)]
    # What is to be painted is there already when they begin, so that nothing is sent but what they made.
    context = multiprocessing.get_context("fork")
    results: dict[int, Result] = {}
    ends: list[tuple[Any, Any]] = []
    for core in range(cores):
        receiving, sending = context.Pipe(duplex=False)
        process = context.Process(target=_share, args=(jobs, core, cores, sending), daemon=True)
        process.start()
        sending.close()
        ends.append((receiving, process))
    try:
        waiting = {receiving for receiving, _ in ends}
        while waiting:
            for ready in list[Any](wait(list(waiting))):
                try:
                    place, result = ready.recv()
                except EOFError:
                    waiting.discard(ready)
                    continue
                results[place] = _told(place, result, done)
    finally:
        for _, process in ends:
            process.terminate()
            process.join()
    for place, job in enumerate(jobs):  # what a process took with it when it ended
        if place not in results:
            results[place] = _told(place, _one(job), done)
    return [results[place] for place in range(len(jobs))]


def _share(jobs: Sequence[Job], core: int, cores: int, sending: Any) -> None:
    """Paints every so many-th picture."""
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the one who began them is told, and ends them
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    for place in range(core, len(jobs), cores):
        sending.send((place, _one(jobs[place])))
    sending.close()
    os._exit(0)


def _one(job: Job) -> Result:
    one, is_whole = job
    try:
        return painted(one, is_whole=is_whole)
    except Mistake as mistake:
        return mistake


def _told(place: int, result: Result, done: Callable[[int], None]) -> Result:
    done(place)
    return result
