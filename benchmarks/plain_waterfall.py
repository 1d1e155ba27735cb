"""The yardstick: the demo waterfall's bars drawn by a plain pandas and Matplotlib script.

python benchmarks/plain_waterfall.py LEDGER OUTPUT
"""

import sys

import matplotlib

matplotlib.use("Agg")
import matplotlib.pyplot as plt
import pandas as pd

ledger, output = sys.argv[1:3]
rows = pd.read_csv(ledger, parse_dates=["date"])
rows = rows[rows["scenario"] == "actual"]
this_year = rows[rows["date"].between("2026-01-01", "2026-10-31")].groupby("route")["net"].sum()
last_year = rows[rows["date"].between("2025-01-01", "2025-10-31")].groupby("route")["net"].sum()
change = this_year.sub(last_year, fill_value=0)

figure, axes = plt.subplots(figsize=(12.8, 8), dpi=100)
names = ["2025", *change.index, "2026"]
heights = [last_year.sum(), *change, this_year.sum()]
starts = [0, *(last_year.sum() + change.cumsum().shift(fill_value=0)), 0]
colours = ["silver", *("teal" if one > 0 else "purple" for one in change), "silver"]
axes.bar(names, heights, bottom=starts, color=colours)
for place, (start, height) in enumerate(zip(starts, heights, strict=True)):
    axes.text(place, start + max(height, 0), f"{height / 1000:,.0f}", ha="center", va="bottom")
axes.set_title("Net by route")
figure.savefig(output)
