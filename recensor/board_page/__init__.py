"""The board of a run: planned, built, probed, and the way of the current."""
