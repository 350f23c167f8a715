"""The board's page."""
