"""Accounts: who signs in."""
