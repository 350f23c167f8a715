"""Django's test runner, which also keeps how long every test took."""

import json
import os
import time
import unittest
from pathlib import Path
from typing import Any

from django.db import connection
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.test.runner import DiscoverRunner


class TimedResult(unittest.TextTestResult):
    """A result that knows the seconds of every test, its fixtures not counted."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.seconds: dict[str, float] = {}
        self._begun = 0.0

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802 (unittest's own name)
        """It begins."""
        self._begun = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802 (unittest's own name)
        """It has ended, however."""
        super().stopTest(test)
        self.seconds[test.id()] = time.monotonic() - self._begun


class TimedRunner(DiscoverRunner):
    """Writes the seconds of every test into the file that RECENSOR_TEST_TIMES names.

    The tables are made from the models, which is quicker by ten seconds for each process; the migrations are noted as
    done, because backups name them.
    """

    def setup_databases(self, **kwargs: Any) -> Any:
        """Make them, where a test uses one."""
        made = super().setup_databases(**kwargs)
        if made:
            recorder = MigrationRecorder(connection)
            recorder.ensure_schema()
            for app, name in MigrationLoader(None).graph.nodes:
                recorder.record_applied(app, name)
        return made

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        """The result that measures."""
        return TimedResult

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> unittest.TextTestResult:
        """Run them, and keep what they took."""
        result = super().run_suite(suite, **kwargs)
        if name := os.environ.get("RECENSOR_TEST_TIMES"):
            Path(name).write_text(json.dumps(result.seconds), encoding="utf-8")
        return result
