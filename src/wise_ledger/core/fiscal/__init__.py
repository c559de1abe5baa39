"""Fiscal calendars as known, figures formed from others, zeros implied, reasons."""
