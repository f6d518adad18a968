"""Every error that the store raises on purpose: what happened, what is safe, what to do.

StoreError
    StoreDamaged     the file is no database of ours, or is damaged
    StoreFull        there is no room, or no right, to write
"""

__all__ = ["StoreDamaged", "StoreError", "StoreFull"]


class StoreError(Exception):
    """Something could not be kept or read back."""


class StoreDamaged(StoreError):
    """The data file cannot be used as it is."""


class StoreFull(StoreError):
    """Nothing can be written just now; what was saved before is safe."""
