"""What is built differs from what is drawn."""
