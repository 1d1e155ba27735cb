"""What is asked: the one model of settings, how each is read, and what goes together."""
