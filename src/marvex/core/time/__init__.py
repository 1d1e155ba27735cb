"""Days to periods: calendars, windows and how they are written, points along time."""
