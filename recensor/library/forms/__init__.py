"""What is typed in the library."""
