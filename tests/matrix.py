"""`make matrix`: the tests on every Python that is here, and on the lowest versions that are allowed of each library.

Other Pythons are found by their names (python3.12), and where pyenv keeps them.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).parent.parent
LEAST = (3, 11)


def pythons() -> dict[str, str]:
    """The Pythons that are here, by their versions, the oldest first."""
    named = [shutil.which(f"python3.{minor}") for minor in range(LEAST[1], 30)]
    kept = sorted((Path.home() / ".pyenv" / "versions").glob("3.*/bin/python3"))
    found: dict[str, str] = {}
    for one in (sys.executable, *filter(None, named), *map(str, kept)):
        asked = [one, "-c", "import sys, venv, ensurepip; print('%d.%d' % sys.version_info[:2])"]
        done = subprocess.run(asked, capture_output=True, text=True, check=False)
        version = done.stdout.strip()
        if done.returncode == 0 and tuple(map(int, version.split("."))) >= LEAST:
            found.setdefault(version, one)
    return dict(sorted(found.items(), key=lambda one: int(one[0].partition(".")[2])))


def lowest(folder: Path) -> Path:
    """The lowest versions that are allowed, as what pip is held to."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    lines = [re.sub(">=", "==", one) for one in project["dependencies"]]
    path = folder / "lowest.txt"
    path.write_text("\n".join(lines) + "\n")
    return path


def tested(name: str, python: str, constraints: Path | None) -> str:
    """How the tests end on a Python, in one line."""
    place = ROOT / ".venv" / f"matrix-{name.replace(' ', '-')}"
    subprocess.run([python, "-m", "venv", "--clear", str(place)], check=True)
    held = ["-c", str(constraints)] if constraints else []
    pip = [str(place / "bin/pip"), "install", "--quiet", "--disable-pip-version-check", *held, f"{ROOT}[dev]"]
    installed = subprocess.run(pip, capture_output=True, text=True, check=False)
    if installed.returncode:
        return f"not installed: {installed.stderr.strip().splitlines()[-1]}"
    # What was installed is what is tested: the sources are not on its path.
    done = subprocess.run(
        [str(place / "bin/pytest"), "-q", "-p", "no:cacheprovider", "tests"],
        cwd=ROOT, capture_output=True, text=True, check=False,
    )  # fmt: skip
    failed = [line for line in done.stdout.splitlines() if line.startswith(("FAILED", "ERROR"))]
    return "all passed" if done.returncode == 0 else "\n    ".join([f"status {done.returncode}", *failed])


def main() -> int:
    found = pythons()
    runs: list[tuple[str, str, Path | None]] = [(version, python, None) for version, python in found.items()]
    oldest = next(iter(found))
    (ROOT / ".venv").mkdir(exist_ok=True)
    runs.append((f"{oldest} lowest", found[oldest], lowest(ROOT / ".venv")))
    results = {}
    for name, python, constraints in runs:
        results[name] = tested(name, python, constraints)
        print(f"Python {name}: {results[name]}", flush=True)
    return int(any(one != "all passed" for one in results.values()))


if __name__ == "__main__":
    sys.exit(main())
