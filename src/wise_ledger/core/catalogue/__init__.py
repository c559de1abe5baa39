"""What can be asked for: one finder over every kind of column."""
