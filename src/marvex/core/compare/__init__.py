"""Two sides set against each other: which days of which scenario, points, totals, order, cautions."""
