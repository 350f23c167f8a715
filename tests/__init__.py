"""All tests. Generated examples are the same on every machine; deadlines are no business of a test."""

from hypothesis import settings

settings.register_profile("project", derandomize=True, deadline=None)
settings.load_profile("project")
