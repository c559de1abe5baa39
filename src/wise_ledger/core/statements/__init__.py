"""Statements of one company: lines down, periods across."""
