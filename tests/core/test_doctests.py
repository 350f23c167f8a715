"""The examples in the core's docstrings run."""

import doctest
import importlib
import pkgutil
import unittest

from recensor import core


def load_tests(loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None) -> unittest.TestSuite:
    """Add the examples of every module of the core."""
    for module in pkgutil.walk_packages(core.__path__, "recensor.core."):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    return tests
