"""Reference pages without rows of their own: reading bands and codes, and a value out of two parts."""
