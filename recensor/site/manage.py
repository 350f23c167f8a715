"""``.venv/bin/recensor-manage``: Django's management commands for the running site's database."""

import os
import sys


def main() -> None:
    """Run one management command."""
    from django.core.management import execute_from_command_line

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
