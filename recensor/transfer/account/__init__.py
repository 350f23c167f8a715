"""A whole account as one file: every row that is a person's, written out and brought in again exactly as it was."""

from recensor.transfer.account.about import AccountAbout, about_of

__all__ = ["AccountAbout", "about_of"]
