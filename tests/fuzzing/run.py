"""`make fuzz MINUTES=5`: damaged whole commands for half of the time, then each part by itself; prints what was found."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

import commands

HERE = Path(__file__).parent
SLOWEST = 10  # seconds that one input may take


def of_a_part(name: str, seconds: float, folder: Path) -> tuple[int, str]:
    """How many inputs were tried, and what the first finding says; empty where there is none."""
    fresh = folder / name
    fresh.mkdir()
    done = subprocess.run(
        [
            *(sys.executable, str(HERE / "parts.py"), name),
            *(f"-max_total_time={max(1, round(seconds))}", f"-timeout={SLOWEST}", "-rss_limit_mb=4000"),
            *("-print_final_stats=1", f"-artifact_prefix={fresh}/found-", str(fresh), str(HERE / "corpus" / name)),
        ],
        capture_output=True,
        check=False,
    )
    told = (done.stdout + done.stderr).decode("utf-8", "replace")
    tried = re.search(r"number_of_executed_units: (\d+)", told)
    found = re.search(r"Uncaught Python exception: ===\s*(.{0,600})|ERROR: (.{0,200})", told, re.DOTALL)
    inputs = [path.read_bytes()[:200] for path in fresh.glob("found-*")]
    what = (found[1] or found[2]).strip() if found else told[-400:]
    return int(tried[1]) if tried else 0, f"{what}\n    {inputs}" if done.returncode else ""


def main() -> int:
    minutes = float(os.environ.get("MINUTES", "1"))
    names = sorted(path.name for path in (HERE / "corpus").iterdir())
    statuses, found = commands.run(minutes / 2, int(os.environ.get("SEED", "0")))
    total = sum(statuses.values())
    print(f"commands: {total:,} inputs; by status: {dict(sorted(statuses.items()))}; {len(found)} findings")
    findings = list(found)
    with tempfile.TemporaryDirectory() as folder:
        for name in names:
            tried, wrong = of_a_part(name, 30 * minutes / len(names), Path(folder))
            total += tried
            findings += [f"{name}: {wrong}"] * bool(wrong)
            print(f"{name}: {tried:,} inputs; {int(bool(wrong))} findings", flush=True)
    print(f"{total:,} inputs in all, {len(findings)} findings")
    for one in findings:
        print(one)
    return bool(findings)


if __name__ == "__main__":
    sys.exit(main())
