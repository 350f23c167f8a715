"""Instruments: the meters that readings were taken with, by name."""
