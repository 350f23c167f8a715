"""Pages of runs: parse, call one service or query, render."""
