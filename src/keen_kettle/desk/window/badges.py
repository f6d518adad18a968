"""What waits at each station for the chosen who, in two or three words for the loop strip."""

from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.state.records.desk_model import DeskModel
from keen_kettle.desk.state.teach.board_row import state_of_row
from keen_kettle.desk.state.teach.teach_model import TeachModel

__all__ = ["badges", "open_finding"]


def badges(desk: DeskModel, teach: TeachModel, offers: PrescribeModel) -> dict[str, str]:
    """By station; empty where nothing waits."""
    clips = desk.clips_of_who()
    waiting = sum(bool(clip.waits) for clip in clips)
    runs = [one for one in desk.correctives_of_who() if one.runs]
    due = sum(one.review_on <= desk.today() for one in runs)
    return {
        "Screen": _screen(desk, teach),
        "Teach": _teach(teach),
        "Film": f"{len(clips)} clip{'s' if len(clips) != 1 else ''}",
        "Review": f"{waiting} to do" if waiting else "",
        "Prescribe": f"{due} due" if due else "1 new" if open_finding(offers) else "",
        "Record": f"{len(runs)} running" if runs else "",
    }


def _screen(desk: DeskModel, teach: TeachModel) -> str:
    untested = sum(not teach.checks.get(one.id) for one in desk.people())
    return f"{untested} new" if untested else ""


def _teach(teach: TeachModel) -> str:
    urgent = [state_of_row(one)[0] for one in teach.known_rows()]
    due, stop = urgent.count(1), urgent.count(0)
    return f"{stop} safety" if stop else f"{due} due" if due else ""


def open_finding(offers: PrescribeModel) -> bool:
    """Whether the open clip has a finding for which nothing was taken yet."""
    return offers.finding is not None and not any(offers.taken(one) for one in offers.offers)
