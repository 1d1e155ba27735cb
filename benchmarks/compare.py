"""Times two commands in turn and prints the ratio of their times and of their peak memory.

    python benchmarks/compare.py start        marvex --help against python -c pass
    python benchmarks/compare.py waterfall    the demo waterfall against a plain pandas script

Whole processes, run in turn so that a machine that drifts slows both; medians of the pairs.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent
MARVEX = str(Path(sys.executable).parent / "marvex")
PAIRS = 9


@dataclass(frozen=True)
class Run:
    """One finished process: wall seconds and peak memory in MB."""

    seconds: float
    megabytes: float


def timed(command: list[str]) -> Run:
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    if status:
        raise SystemExit(f"failed: {' '.join(command)}")
    return Run(time.perf_counter() - start, usage.ru_maxrss / 1024)


def compared(name: str, ours: list[str], theirs: list[str]) -> None:
    timed(ours), timed(theirs)  # once each to fill the caches
    pairs = [(timed(ours), timed(theirs)) for _ in range(PAIRS)]
    for label, index in (("marvex", 0), ("yardstick", 1)):
        seconds = statistics.median(pair[index].seconds for pair in pairs)
        megabytes = statistics.median(pair[index].megabytes for pair in pairs)
        print(f"{name:10} {label:10} {seconds:6.2f} s  {megabytes:6.0f} MB")
    ratio = statistics.median(one.seconds / other.seconds for one, other in pairs)
    memory = statistics.median(one.megabytes / other.megabytes for one, other in pairs)
    extra = statistics.median(one.seconds - other.seconds for one, other in pairs)
    print(f"{name:10} ratio      {ratio:6.2f}    {memory:6.2f}     {extra:+.2f} s")


def main(what: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        if what == "start":
            compared("start", [MARVEX, "--help"], [sys.executable, "-c", "pass"])
            return
        subprocess.run([MARVEX, "demo", folder, "-q"], check=True, stdout=subprocess.DEVNULL)
        ledger, picture = f"{folder}/ledger.csv", f"{folder}/picture.png"
        ours = [MARVEX, "draw", "waterfall", ledger, "--by", "route", "--for", "2026", "--versus", "2025"]
        compared(
            "waterfall",
            [*ours, "-o", picture],
            [sys.executable, str(HERE / "plain_waterfall.py"), ledger, picture],
        )


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "waterfall")
