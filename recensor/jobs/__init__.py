"""Work in the background: what was asked for, step by step, by whichever worker takes it."""
