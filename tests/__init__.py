"""Tests, laid out as src/keen_kettle is."""

from hypothesis import HealthCheck, settings

# The machine's pauses are not the code's: no deadline a case, no complaint about slow drawing.
settings.register_profile("calm", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("calm")
