"""A core result in, a Matplotlib figure out; one file a view."""
