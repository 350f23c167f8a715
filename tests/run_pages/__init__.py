"""The pages of runs beside the bench."""
