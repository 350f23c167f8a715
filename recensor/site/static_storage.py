"""Where static files are collected: their list lies beside them, where nobody can fetch it."""

from typing import Any

from django.conf import settings
from django.core.files.storage import FileSystemStorage
from whitenoise.storage import CompressedManifestStaticFilesStorage


class Storage(CompressedManifestStaticFilesStorage):
    """Hashed and compressed, with `staticfiles.json` in the folder above."""

    def __init__(self, *arguments: Any, **named: Any) -> None:
        beside = FileSystemStorage(location=settings.VAR)
        super().__init__(*arguments, manifest_storage=beside, **named)
