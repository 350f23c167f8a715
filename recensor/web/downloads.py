"""Files that a page gives to keep."""

from django.http import HttpResponse


def download(content: str | bytes, name: str, content_type: str) -> HttpResponse:
    """Something as a file of this name."""
    response = HttpResponse(content, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
