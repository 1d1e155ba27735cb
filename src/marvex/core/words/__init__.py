"""Figures, windows, findings and commentary as text."""
