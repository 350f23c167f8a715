"""Recensor: what was drawn, what was built, what was measured."""

__version__ = "0.2.0"
