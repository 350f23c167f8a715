"""Template tags of the bench."""

import hashlib
from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.html import format_html
from django.utils.safestring import SafeString

from recensor.core.circuit import Basis
from recensor.ledger import LedgerSection

register = template.Library()


@register.simple_tag
def ledger_section(
    number: int, section: LedgerSection, against: Basis, address: str, held: frozenset[str]
) -> SafeString:
    """One section of the ledger, the row of what is read next marked.

    Its id says what is in it. Of one that the page holds already, as it said with its request, only the place is
    written, and the page puts its own there.
    """
    here = address if any(row.address == address for row in section.rows) else ""
    digest, rows = _rendered(section, against, here)
    name = f"section-{number}-{digest}"
    if name in held:
        return format_html('<tbody id="{}" hx-preserve="true"></tbody>', name)
    return format_html('<tbody id="{}" class="account">{}</tbody>', name, rows)


@lru_cache(maxsize=4096)
def _rendered(section: LedgerSection, against: Basis, here: str) -> tuple[str, SafeString]:
    """The same section is the same text, so it is made once; and a digest of it."""
    rows = render_to_string("bench/_section.html", {"section": section, "against": against, "here": here})
    return hashlib.sha256(rows.encode()).hexdigest()[:12], rows
