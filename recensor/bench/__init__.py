"""The bench page, where readings are typed."""
