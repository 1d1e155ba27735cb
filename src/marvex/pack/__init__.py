"""Packs: pictures, tables and words that are built together from one file."""
