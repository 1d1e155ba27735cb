"""The command: options in, results out, and every mistake as one short message."""
