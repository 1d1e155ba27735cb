"""From settings to judged points: the one way through that every command and pack takes."""
