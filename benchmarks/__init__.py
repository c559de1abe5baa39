"""Benchmarks: our engine beside others on the same data in one run, answers compared."""
