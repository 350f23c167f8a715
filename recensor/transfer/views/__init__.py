"""Pages of what goes out whole and comes in."""
