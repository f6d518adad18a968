"""Answers of clips that were opened before, so that opening one again takes no time.

An answer hangs on the clip's record and on the athlete; what has changed since is worked out anew.
"""

from collections import OrderedDict
from dataclasses import dataclass

from keen_kettle.core.analysis import Assessment
from keen_kettle.core.track.body import BodyTrack
from keen_kettle.desk.state.review.clip_settings import judged_by
from keen_kettle.store import Athlete, Clip

__all__ = ["KeptAnswer", "KeptAnswers"]

MOST = 12


@dataclass(frozen=True)
class KeptAnswer:
    """What a clip was opened as, and what came out."""

    clip: Clip
    athlete: Athlete | None
    body: BodyTrack | None
    answer: Assessment


class KeptAnswers:
    """The answers of the last few clips; the one that was not opened for longest goes first."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, KeptAnswer] = OrderedDict()

    def keep(
        self, clip: Clip, athlete: Athlete | None, body: BodyTrack | None, answer: Assessment
    ) -> None:
        self._kept[clip.id] = KeptAnswer(judged_by(clip), athlete, body, answer)
        self._kept.move_to_end(clip.id)
        while len(self._kept) > MOST:
            self._kept.popitem(last=False)

    def find(self, clip: Clip, athlete: Athlete | None) -> KeptAnswer | None:
        """The answer of a clip as it is now; None if there is none, or anything has changed."""
        kept = self._kept.get(clip.id)
        if kept is None or kept.clip != judged_by(clip) or kept.athlete != athlete:
            return None
        return kept
