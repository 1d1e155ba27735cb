"""Facts, and the questions asked of them."""
