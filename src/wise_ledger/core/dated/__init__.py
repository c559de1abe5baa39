"""Dated series of values: what was known of an entity on a day."""
