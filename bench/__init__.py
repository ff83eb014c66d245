"""Measurements, each a command that prints a table: `python -m bench NAME`."""
