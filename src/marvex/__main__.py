"""`python -m marvex`, the same as the command `marvex`."""

from marvex.cli.start import run

if __name__ == "__main__":
    run()
