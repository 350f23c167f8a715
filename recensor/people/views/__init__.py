"""Pages of accounts: one's own, and everybody's for a supervisor."""
