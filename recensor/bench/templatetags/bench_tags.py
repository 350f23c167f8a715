"""Template filters of the bench."""

from collections.abc import Sequence

from django import template

register = template.Library()


@register.filter
def item(items: Sequence[object], index: int) -> object:
    """The item at an index."""
    return items[index]
