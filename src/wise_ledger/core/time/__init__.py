"""Days, instants, periods: the ground floor."""
