"""The bench: runs, their readings and the ledger."""
