"""Timed and accuracy benchmarks: ratios measured in one run, never asserted."""
