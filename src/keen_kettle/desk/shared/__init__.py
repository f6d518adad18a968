"""Widgets that serve several stations."""
