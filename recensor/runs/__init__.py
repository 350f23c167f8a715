"""What a run is, and what changes and reads it. No page."""
