"""What goes out whole and comes in."""
