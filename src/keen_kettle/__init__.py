"""Keen Kettle: from a lift clip to its cause and its corrective."""

__version__ = "0.35.0"
