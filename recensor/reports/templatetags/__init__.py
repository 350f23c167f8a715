"""Template tags of reports."""
