"""The reckoning: no window, no database, no clock; importable and useful alone."""
