"""Tools of the project itself."""
