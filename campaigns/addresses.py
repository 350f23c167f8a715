"""The addresses there are, found in the urlconf, filled in with rows that exist."""

import re
from collections.abc import Iterator, Mapping

from django.urls import URLPattern, URLResolver, get_resolver

_PLACE = re.compile(r"<(?:\w+:)?(\w+)>")


def routes() -> list[str]:
    """Every route, as it is written."""
    return sorted(set(_routes(get_resolver().url_patterns, "/")))


def filled(route: str, values: Mapping[str, object]) -> str:
    """A route with its places filled in. Raises KeyError for a place that no value is known for."""
    return _PLACE.sub(lambda place: str(values[place[1]]), route)


def _routes(patterns: list[URLPattern | URLResolver], before: str) -> Iterator[str]:
    for pattern in patterns:
        route = before + str(pattern.pattern)
        if isinstance(pattern, URLResolver):
            yield from _routes(pattern.url_patterns, route)
        else:
            yield route
