"""The checksum of a run document: by it a printed report and a file are known to say the same."""

import hashlib
import json
from collections.abc import Mapping
from typing import Any

# What a signature adds to a document is not part of what is signed.
_SIGNED = "signed"

# So many digits are printed, in groups of so many.
_PRINTED, _GROUP = 32, 4


def checksum(tree: Mapping[str, Any]) -> str:
    """SHA-256 in hexadecimal of a document's tree without ``signed``: keys sorted, no blanks, UTF-8.

    Examples
    --------
    >>> checksum({"title": "Vane", "signed": []}) == checksum({"title": "Vane"})
    True
    """
    signed = {key: value for key, value in tree.items() if key != _SIGNED}
    text = json.dumps(signed, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)
    return hashlib.sha256(text.encode()).hexdigest()


def printed(digits: str) -> str:
    """The first digits of a checksum as a report prints them.

    Examples
    --------
    >>> printed("0123456789abcdef" * 4)
    '0123 4567 89ab cdef 0123 4567 89ab cdef'
    """
    return " ".join(digits[k : k + _GROUP] for k in range(0, _PRINTED, _GROUP))
