"""A core result in, text out: the terminal's table, CSV, Markdown, and the figures behind a picture."""
