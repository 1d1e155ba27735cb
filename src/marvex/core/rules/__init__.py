"""The variance rules: their language, bands and ready rules, and points judged by them."""
