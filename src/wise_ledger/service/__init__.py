"""The HTTP service: one router per resource, access, problem responses, and the console's files."""
