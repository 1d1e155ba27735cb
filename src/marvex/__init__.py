"""Marvex: variances worked out exactly, judged by a stated rule, and drawn so that they tie out."""

__version__ = "0.1.0"
