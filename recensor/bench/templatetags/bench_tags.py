"""Template tags of the bench."""

from functools import lru_cache

from django import template
from django.template.loader import render_to_string

from recensor.bench.ledger import Section
from recensor.core.circuit import Basis

register = template.Library()


@register.simple_tag
def ledger_section(section: Section, against: Basis, point: int | None) -> str:
    """One section of the ledger, the row of the point that is read next marked."""
    here = point if any(row.point == point for row in section.rows) else None
    return _rendered(section, against, here)


@lru_cache(maxsize=4096)
def _rendered(section: Section, against: Basis, point: int | None) -> str:
    """The same section is the same text, so it is made once."""
    return render_to_string("bench/_section.html", {"section": section, "against": against, "point": point})
