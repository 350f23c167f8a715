"""What was written down differs from what was shown."""
