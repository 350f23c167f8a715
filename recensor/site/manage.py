"""``.venv/bin/recensor-manage``: Django's management commands for the running site's database."""

import os
import sys


def main() -> None:
    """Run one management command."""
    from django.core.management import execute_from_command_line
    from django.db import OperationalError

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
    program, *words = sys.argv
    # Names of commands are typed as options are, with a hyphen.
    try:
        execute_from_command_line([program, *(word.replace("-", "_") for word in words[:1]), *words[1:]])
    except OperationalError as error:
        sys.exit(f"The database does not answer; is Recensor running? It says: {error.args[-1]}")


if __name__ == "__main__":
    main()
