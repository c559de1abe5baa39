"""Checks of figures as they come in (Q1)."""
