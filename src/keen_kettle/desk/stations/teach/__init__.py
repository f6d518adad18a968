"""Teach: board, visit, ladders, choosing, trying out, comparing."""
