"""Panels: many measures of many companies on many dates, or by fiscal period."""
