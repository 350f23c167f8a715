"""What stands for a part that is open, or shorted."""

from recensor.core.sentences import say

# Ohms of an open part, and of a shorted one.
OPEN, SHORT = 1e10, 0.05

# An empty row of the board, as a node.
EMPTY_ROW = say("faults.row_own")
