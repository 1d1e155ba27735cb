"""What each command does: from a request to a result and the files to write."""
