"""All tests. Generated examples are the same on every machine; deadlines are no business of a test."""

from hypothesis import HealthCheck, settings

from tests.samples import samples

settings.register_profile(
    "project",
    derandomize=True,
    deadline=None,
    max_examples=samples(30, 100),
    suppress_health_check=[HealthCheck.differing_executors],  # whoever counts mutations runs a test more than once
)
settings.load_profile("project")
