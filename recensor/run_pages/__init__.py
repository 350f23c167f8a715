"""The pages of runs beside the bench: their list, beginning, changing, plan, causes, lines, calculation, document."""
