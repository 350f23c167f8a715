"""Files that a page gives to keep."""

from django.http import HttpResponse


def download(text: str, name: str, content_type: str) -> HttpResponse:
    """A text as a file of this name."""
    response = HttpResponse(text, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
