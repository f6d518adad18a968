"""Tests, laid out as src/keen_kettle is."""
