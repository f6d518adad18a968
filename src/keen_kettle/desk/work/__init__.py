"""Threads, worker processes, idle calls."""
