"""Adapters to outside sources, one module each, behind one protocol."""
