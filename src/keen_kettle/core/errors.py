"""Every error that the core raises on purpose, each saying what to do.

KettleError
    ClipError            the film cannot be used
        ClipNotFound
        ClipUnreadable
    MarkError            the plate mark cannot be used
    NoBodyModel          landmarks cannot be found by themselves on this machine
    UnknownLift          a derivative's name is not known
    ContentError         a content file (drills, faults, derivatives) is broken
    Cancelled            the coach stopped a long piece of work
"""

__all__ = [
    "Cancelled",
    "ClipError",
    "ClipNotFound",
    "ClipUnreadable",
    "ContentError",
    "KettleError",
    "MarkError",
    "NoBodyModel",
    "UnknownLift",
]


class KettleError(Exception):
    """What went wrong and what to do about it, in one plain sentence or two."""


class ClipError(KettleError):
    """The film cannot be used."""


class ClipNotFound(ClipError):
    """There is no file at the given place."""


class ClipUnreadable(ClipError):
    """The file is there, but no film can be read from it."""


class MarkError(KettleError):
    """The plate mark does not fit the picture."""


class NoBodyModel(KettleError):
    """The body model's weights, or the library that runs them, are missing."""


class UnknownLift(KettleError):
    """A derivative's name is not known."""


class ContentError(KettleError):
    """A content file is broken; the message names file, entry and field."""


class Cancelled(KettleError):
    """The coach stopped a long piece of work; nothing was changed."""
