"""Pure computation on values and numpy arrays: no SQL, no HTTP, no clock, no environment."""
