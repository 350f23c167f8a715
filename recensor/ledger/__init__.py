"""The ledger of a run: a pure document of what was calculated and read, for pages, reports and tables alike."""

from recensor.ledger.document import Ledger, books
from recensor.ledger.means import mean_text
from recensor.ledger.rows import SEALED, LedgerSection, Row, Rows, account_in_setup, shown

__all__ = [
    "SEALED",
    "Ledger",
    "LedgerSection",
    "Row",
    "Rows",
    "account_in_setup",
    "books",
    "mean_text",
    "shown",
]
