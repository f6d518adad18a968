"""Drawing on the film: tools, the drawing in hand, and what all drawings say on the frame on show.

A press near the bar or a landmark takes hold of it; the drawing then follows. Every kept drawing is
in the clip's record, through undoable changes.
"""

from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from keen_kettle.core.analysis import film_of
from keen_kettle.core.motion import (
    BAR,
    ELSEWHERE,
    Drawing,
    Filmed,
    Shown,
    Spot,
    place_spot,
    show_drawing,
)
from keen_kettle.core.track.body import LANDMARKS
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["TOOLS", "DrawingModel", "Drawn"]

NEEDED = {"line": 2, "angle": 3, "vertical": 1, "horizontal": 1, "between": 2, "note": 1}
"""How many spots finish a drawing; the pen ends where it is lifted."""
TOOLS = (*NEEDED, "pen")
PEN_STEP_PX = 2.0
BAR_FIRST = 0.35
"""Of what is within reach a landmark must be nearer than the bar by so much of the reach."""
SAID = {
    "": "It is shown on its own frame only.",
    "follows": "It is shown on every frame, and follows what it is held to.",
    "ghost": "On other frames its ghost is shown, as it was, for comparison.",
}


@dataclass(frozen=True)
class Drawn:
    """One drawing as it is on the frame on show; `number` is its place in the record, -1 in hand."""

    number: int
    drawing: Drawing
    shown: Shown


class DrawingModel(QObject):
    """The drawing in hand and the chosen one; widgets subscribe and call its intents."""

    changed = pyqtSignal()
    writing_wanted = pyqtSignal()

    def __init__(self, review: ReviewModel, body: BodyModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._review, self._body = review, body
        self.spots: tuple[Spot, ...] = ()
        self.hover: Spot | None = None
        self.chosen = -1
        self.moving: Drawing | None = None
        self.shown = True
        self.visible: list[Drawn] = []
        self._filmed: tuple[tuple[object, ...], Filmed] | None = None
        self._pressed: tuple[float, float] = (0.0, 0.0)
        self._clip_id = 0
        review.clip_changed.connect(self._on_clip)
        for signal in (review.answer_changed, body.changed):
            signal.connect(self._look)
        review.frame_shown.connect(lambda _image: self._look())

    @property
    def tool(self) -> str:
        """The kind that the next presses on the film draw, or ""."""
        name = self._review.tool.name
        return name if name in TOOLS else ""

    @property
    def _drawings(self) -> tuple[Drawing, ...]:
        clip = self._review.clip
        return clip.drawings if clip is not None else ()

    @property
    def drawing(self) -> Drawing | None:
        """The chosen drawing."""
        return self._drawings[self.chosen] if 0 <= self.chosen < len(self._drawings) else None

    @property
    def may_stay(self) -> bool:
        """Whether the chosen drawing can be shown off its frame (a note is pinned to its time)."""
        return self.drawing is not None and self.drawing.kind != "note"

    def marks(self) -> list[tuple[int, str]]:
        """Frame and words of every drawing, for the time line."""
        return [
            (one.frame, f"Note: {one.text}" if one.kind == "note" else _name(one.kind).capitalize())
            for one in self._drawings
        ]

    # What is seen

    def _on_clip(self) -> None:
        number = self._review.clip.id if self._review.clip is not None else 0
        if number != self._clip_id:
            self._clip_id = number
            self.spots, self.hover, self.moving = (), None, None
            self.chosen = -1
        if self.chosen >= len(self._drawings):
            self.chosen = -1
        self._tell()

    def filmed(self) -> Filmed | None:
        """What drawings are measured against, as far as it is known now."""
        review = self._review
        if review.index is None or review.clip is None:
            return None
        track, answer = review.track, review.answer
        made_of = (review.index, track, review.body, answer, review.clip.facing, review.clip.steady)
        if self._filmed is None or any(
            a is not b for a, b in zip(self._filmed[0], made_of, strict=True)
        ):
            made = film_of(review.index, review.settings(), track, review.body, answer)
            self._filmed = made_of, made
        return self._filmed[1]

    def _look(self) -> None:
        """Work out what every drawing is on the frame on show."""
        filmed, frame = self.filmed(), self._review.frame
        self.visible = []
        if filmed is not None:
            for number, drawing in enumerate(self._drawings if self.shown else ()):
                now = drawing
                if number == self.chosen and self.moving is not None:
                    now = self.moving
                self._add(number, now, frame, filmed)
            if self.tool and self.spots:
                hover = () if self.hover is None else (self.hover,)
                self._add(-1, Drawing(self.tool, (*self.spots, *hover)), frame, filmed)

    def lifter_x(self) -> tuple[float, float]:
        """Between which columns of the picture the lifter and the plate stand on this frame."""
        review = self._review
        frame, known = review.frame, [np.zeros(0)]
        if review.body is not None and frame < len(review.body):
            known.append(review.body.x_px[frame])
        if review.track is not None and frame < len(review.track):
            reach = max(review.track.rim.axes_px)
            known.append(review.track.x_px[frame] + np.array([-reach, reach]))
        columns = np.concatenate(known)
        columns = columns[np.isfinite(columns)]
        if not len(columns):
            middle = review.index.width_px / 2 if review.index is not None else 0.0
            return middle, middle
        return float(columns.min()), float(columns.max())

    def _tell(self) -> None:
        self._look()
        self.changed.emit()

    def _add(self, number: int, drawing: Drawing, frame: int, filmed: Filmed) -> None:
        shown = show_drawing(drawing, frame, filmed)
        if shown is not None:
            self.visible.append(Drawn(number, drawing, shown))

    def switch_shown(self) -> None:
        self.shown = not self.shown
        self._tell()

    # Drawing

    def choose_tool(self, kind: str) -> None:
        """The next presses on the film draw this; the same again leaves it."""
        self._review.pause()
        if self.tool == kind:
            self._review.tool.lay_down()
        else:
            self._review.tool.take(kind, self._drop_spots)
        self.spots, self.hover, self.chosen = (), None, -1
        self.shown = True
        self._tell()

    def _drop_spots(self) -> None:
        self.spots, self.hover = (), None
        self._tell()

    def leave(self) -> None:
        """Leave the tool, and the chosen drawing."""
        if self.tool:
            self._review.tool.lay_down()
        if self.chosen >= 0 or self.moving is not None:
            self.moving, self.chosen = None, -1
            self._tell()

    def press(self, x: float, y: float, reach: float, loose: bool = False) -> None:
        """A press with the tool: another spot. `loose` takes hold of nothing."""
        self._pressed = x, y
        spot = self._spot_at(x, y, 0.0 if loose or self.tool == "pen" else reach)
        self.spots, self.hover = (*self.spots, spot), None
        self._tell()

    def drag(self, x: float, y: float, reach: float, loose: bool = False) -> None:
        """The hand moves with the tool, pressed or not."""
        if not self.spots:
            return
        if self.tool == "pen":
            last = self.spots[-1]
            if np.hypot(x - last.x, y - last.y) >= PEN_STEP_PX:
                self.spots = (*self.spots, Spot(self._review.frame, x, y))
        elif len(self.spots) < NEEDED[self.tool]:
            self.hover = self._spot_at(x, y, 0.0 if loose else reach)
        self._tell()

    def release(self, x: float, y: float, reach: float, loose: bool = False) -> None:
        """The hand lets go: a drag ends on another spot, and enough spots make a drawing."""
        kind = self.tool
        dragged = np.hypot(x - self._pressed[0], y - self._pressed[1]) > reach
        if kind == "pen":
            if len(self.spots) > 1:
                self._keep(Drawing("pen", self.spots))
            return
        if dragged and kind in ("line", "angle") and len(self.spots) < NEEDED[kind]:
            self.spots = (*self.spots, self._spot_at(x, y, 0.0 if loose else reach))
        if not kind or len(self.spots) < NEEDED[kind]:
            self._tell()
        elif kind == "note":
            self.writing_wanted.emit()
        else:
            self._keep(Drawing(kind, self.spots, _usual_elsewhere(kind, self.spots)))

    def write(self, words: str) -> None:
        """Keep the note that was begun; without words it is dropped."""
        spots = self.spots
        if words.strip() and spots:
            self._keep(Drawing("note", spots, "", words.strip()))
        else:
            self.leave()

    def draw_held(self, kind: str, names: tuple[str, ...]) -> None:
        """Draw through landmarks of this frame; the drawing follows them."""
        frame = self._review.frame
        places = [self._body.place(name, frame) for name in names]
        if any(place is None for place in places):
            self._review.desk.said.emit(f"The {' or the '.join(names)} is not known on this frame.")
            return
        spots = tuple(
            Spot(frame, *place, name)
            for name, place in zip(names, places, strict=True)
            if place is not None
        )
        self._keep(Drawing(kind, spots, "follows"))

    def _keep(self, drawing: Drawing) -> None:
        if self.tool:
            self._review.tool.lay_down()
        self.chosen = len(self._drawings)
        self._review.change_clip(
            f"draw a {_name(drawing.kind)}", drawings=(*self._drawings, drawing)
        )
        self._tell()

    def _spot_at(self, x: float, y: float, reach: float) -> Spot:
        """A spot at a place, held to the bar or the landmark within reach."""
        frame, filmed = self._review.frame, self.filmed()
        best, found = reach, Spot(frame, x, y)
        if filmed is None:
            return found
        for name in (BAR, *(LANDMARKS if self._body.shown else ())):
            place = place_spot(Spot(frame, x, y, name), frame, filmed)
            away = np.hypot(place[0] - x, place[1] - y) if place is not None else np.inf
            # The hands are on the bar: what is nearly as near means the bar.
            least = BAR_FIRST * reach if found.held == BAR else 0.0
            if place is not None and away < best - least:
                best, found = float(away), Spot(frame, *place, name)
        return found

    # The chosen drawing

    def grip(self, x: float, y: float, reach: float) -> bool:
        """Choose the drawing at a place; whether there is one."""
        near = [(_away(one, x, y), one.number) for one in self.visible if one.number >= 0]
        away, number = min(near, default=(np.inf, -1))
        self.chosen = number if away < reach else -1
        self.moving = None
        self._pressed = x, y
        self._tell()
        return self.chosen >= 0

    def move(self, x: float, y: float) -> None:
        """Move the chosen drawing (its spot nearest to the press) while it is dragged."""
        drawing = self.drawing
        if drawing is None or (drawing.frame != self._review.frame and drawing.kind != "between"):
            return
        frame = self._review.frame
        mine = [k for k, one in enumerate(drawing.spots) if one.frame == frame and not one.held]
        if not mine:
            return
        px, py = self._pressed
        spots = list(drawing.spots)
        whole = drawing.kind == "pen"
        nearest = min(mine, key=lambda k: np.hypot(spots[k].x - px, spots[k].y - py))
        for k in mine if whole else [nearest]:
            spots[k] = replace(spots[k], x=spots[k].x + x - px, y=spots[k].y + y - py)
        self.moving = replace(drawing, spots=tuple(spots))
        self._tell()

    def keep_move(self) -> None:
        moved, self.moving = self.moving, None
        if moved is not None:
            self._replace(f"move a {_name(moved.kind)}", moved)
        self._tell()

    def next_elsewhere(self) -> None:
        """What is seen of the chosen drawing on other frames: nothing, itself, its ghost."""
        drawing = self.drawing
        if drawing is None or not self.may_stay:
            return
        after = ELSEWHERE[(ELSEWHERE.index(drawing.elsewhere) + 1) % len(ELSEWHERE)]
        if drawing.kind == "between" and after == "ghost":
            after = ""
        self.set_elsewhere(after)

    def set_elsewhere(self, after: str) -> None:
        drawing = self.drawing
        if drawing is not None:
            self._replace("show a drawing elsewhere", replace(drawing, elsewhere=after))
            self._review.desk.said.emit(SAID[after])
        self._tell()

    def remove(self) -> None:
        """Take the chosen drawing away."""
        if self.drawing is not None:
            kept = tuple(one for k, one in enumerate(self._drawings) if k != self.chosen)
            self.chosen = -1
            self._review.change_clip("remove a drawing", drawings=kept)
        self._tell()

    def _replace(self, words: str, new: Drawing) -> None:
        kept = tuple(new if k == self.chosen else one for k, one in enumerate(self._drawings))
        self._review.change_clip(words, drawings=kept)


NAMES = {
    "vertical": "plumb line",
    "horizontal": "level line",
    "between": "way between frames",
    "pen": "freehand line",
}


def _name(kind: str) -> str:
    return NAMES.get(kind, kind)


def _usual_elsewhere(kind: str, spots: tuple[Spot, ...]) -> str:
    """Guides and what is held by all its spots follow; the rest belongs to its frame."""
    if kind in ("vertical", "horizontal"):
        return "follows"
    return "follows" if kind != "between" and all(spot.held for spot in spots) else ""


def _away(one: Drawn, x: float, y: float) -> float:
    """How far a place is from a drawing (film pixels)."""
    points = one.shown.points if one.shown.points is not None else one.shown.ghost
    if points is None:
        return float("inf")
    if one.drawing.kind == "vertical":
        return abs(float(points[0, 0]) - x)
    if one.drawing.kind == "horizontal":
        return abs(float(points[0, 1]) - y)
    here = np.array([x, y])
    if len(points) == 1:
        return float(np.hypot(*(points[0] - here)))
    begins, ways = points[:-1], np.diff(points, axis=0)
    long = np.maximum((ways**2).sum(axis=1), 1e-9)
    share = np.clip(((here - begins) * ways).sum(axis=1) / long, 0, 1)
    return float(np.hypot(*(begins + ways * share[:, None] - here).T).min())
