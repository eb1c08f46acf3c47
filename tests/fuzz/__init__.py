"""What chance sends: a little of it with every test run, and much of it with `make fuzz`."""

import os

from hypothesis import HealthCheck, settings

#: How many times as much is tried as in a test run.
_TIMES = int(os.environ.get("FUZZ_TIMES", "1"))


def tries(count: int) -> settings:
    """Settings of a test that tries so many examples in a test run."""
    return settings(
        max_examples=count * _TIMES,
        deadline=None,
        suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
    )
