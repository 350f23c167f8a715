"""The bench page: one builder of everything that its templates show."""
