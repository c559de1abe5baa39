"""Puts the rooms together: the only one that knows all."""
