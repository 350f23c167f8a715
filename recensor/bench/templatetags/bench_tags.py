"""Template filters of the bench."""

from collections.abc import Sequence
from functools import lru_cache

from django import template
from django.template.loader import render_to_string

from recensor.bench.ledger import Section

register = template.Library()


@register.filter
def item(items: Sequence[object], index: int) -> object:
    """The item at an index."""
    return items[index]


@register.simple_tag
@lru_cache(maxsize=4096)
def ledger_section(section: Section, against: str) -> str:
    """One section of the ledger. The same section is the same text, so it is made once."""
    return render_to_string("bench/_section.html", {"section": section, "against": against})
