"""Simulated outside services, each an ASGI app with its share of the made-up world."""
