"""Experiments: a sheet drawn, edited in versions, worked out, tried with other values, and asked of runs."""
