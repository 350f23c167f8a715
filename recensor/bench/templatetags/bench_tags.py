"""Template tags of the bench: pieces of the page that are sent only where it has not got them yet."""

import hashlib
from collections.abc import Iterator, Sequence
from functools import lru_cache

from django import template
from django.template.loader import get_template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from recensor.core.circuit import NOMINAL, Basis
from recensor.drawing.resistor import BandedResistor
from recensor.ledger import SEALED, LedgerSection, Row

register = template.Library()


@register.simple_tag
def held_piece(name: str, markup: str, held: frozenset[str]) -> SafeString:
    """A piece of the page under a name that says what is in it; only its place where the page holds it already."""
    if name in held:
        return format_html('<div id="{}" hx-preserve="true"></div>', name)
    return format_html('<div id="{}" data-held>{}</div>', name, mark_safe(markup))  # noqa: S308 (rendered by a template)


@register.simple_tag
def ledger_rows(sections: Sequence[LedgerSection], against: Basis, address: str, held: frozenset[str]) -> SafeString:
    """The table of readings, the row of what is read next marked.

    A row's id says what is in it: rows are compared as data, and of one that the page holds already only the place is
    written, where the page puts its own.
    """
    return mark_safe("".join(_bodies(sections, against, address, held)))  # noqa: S308 (rows are templates)


@register.simple_tag
def filled_row(row: Row, address: str) -> SafeString:
    """A row of the loop, node or group that is being filled, marked where it is the one that is read next."""
    return mark_safe(_filled_row(row, row.address == address))  # noqa: S308 (a template)


@lru_cache(maxsize=4096)
def _filled_row(row: Row, is_here: bool) -> str:
    return get_template("bench/_filled_row.html").render({"row": row, "is_here": is_here})


@register.simple_tag
def banded(resistor: BandedResistor) -> SafeString:
    """A resistor as it looks: drawn once for all that bear the same bands."""
    return mark_safe(_banded(resistor))  # noqa: S308 (a template)


@lru_cache(maxsize=256)
def _banded(resistor: BandedResistor) -> str:
    return get_template("drawing/resistor.svg").render({"resistor": resistor})


def _bodies(sections: Sequence[LedgerSection], against: Basis, address: str, held: frozenset[str]) -> Iterator[str]:
    for section in sections:
        yield '<tbody class="account">'
        if section.title:
            yield format_html('<tr class="account-title"><th colspan="5" scope="rowgroup">{}</th></tr>', section.title)
        for row in section.rows:
            is_here = row.address == address
            name = f"row-{section.number}-{_digest(row, is_here)}"
            if name in held:
                yield format_html('<tr id="{}" hx-preserve="true"></tr>', name)
            else:
                yield _row(name, row, against, is_here)
        yield _closing(section)
        yield "</tbody>"


def _digest(*what: object) -> str:
    return hashlib.blake2b(repr(what).encode(), digest_size=6).hexdigest()


@lru_cache(maxsize=4096)
def _row(name: str, row: Row, against: Basis, is_here: bool) -> str:
    calculated = row.nominal if against == NOMINAL else row.measured or row.nominal
    calculated = "" if calculated == SEALED else calculated  # the page says so once
    shows = {"name": name, "row": row, "calculated": calculated, "is_here": is_here}
    return get_template("bench/_row.html").render(shows)


@lru_cache(maxsize=1024)
def _closing(section: LedgerSection) -> str:
    if not section.note and section.closing is None:
        return ""
    return get_template("bench/_closing.html").render({"section": section})
