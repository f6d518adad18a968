"""Tests, laid out as src/keen_kettle is."""

import os

from hypothesis import HealthCheck, settings

# The machine's pauses are not the code's: no deadline a case, no complaint about slow drawing. The same
# code is asked the same cases; KETTLE_EXPLORE=1 draws new ones.
settings.register_profile(
    "calm",
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
    derandomize=not os.environ.get("KETTLE_EXPLORE"),
)
settings.load_profile("calm")
