"""Run Django's test runner on a throwaway MariaDB: ``python -m tests.run LABEL...``."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from recensor.site.launch import private_database
from recensor.site.launch.private_database import PrivateDatabase

MOST_SECONDS = 14 * 60


def main() -> int:
    """Start the server, run the tests, take everything away again."""
    with tempfile.TemporaryDirectory(prefix="recensor-test-") as folder:
        database = Path(folder) / "mariadb"
        with PrivateDatabase(database, throwaway=True):
            environment = {
                **os.environ,
                "DATABASE_URL": private_database.url(database),
                "DJANGO_SETTINGS_MODULE": "tests.settings",
                "RECENSOR_VAR": folder,
                # Playwright's own event loop would otherwise forbid Django's calls in browser tests.
                "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
            }
            command = [sys.executable, "-m", "django", "test", "--timing", "--top-level-directory", ".", *sys.argv[1:]]
            try:
                return subprocess.run(command, env=environment, check=False, timeout=MOST_SECONDS).returncode
            except subprocess.TimeoutExpired:
                print(f"The tests did not end within {MOST_SECONDS} seconds.", file=sys.stderr)
                return 1


if __name__ == "__main__":
    sys.exit(main())
