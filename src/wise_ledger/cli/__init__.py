"""The command line, a client of the service."""
