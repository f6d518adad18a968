"""Review: film and path lane side by side, the rhythm under them, the say card on the right."""

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QApplication, QSizePolicy, QWidget

from keen_kettle.core.units import show_kg
from keen_kettle.desk.kit.builders import column, label, row
from keen_kettle.desk.state.prescribe.prescribe_model import PrescribeModel
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel
from keen_kettle.desk.state.review.suggestion_model import SuggestionModel
from keen_kettle.desk.stations.review.panels.say_card import SayCard
from keen_kettle.desk.stations.review.view.drawing_menu import drawing_menu
from keen_kettle.desk.stations.review.view.film_view import FilmView
from keen_kettle.desk.stations.review.view.key_positions import KeyPositions
from keen_kettle.desk.stations.review.view.path_lane import PathLane
from keen_kettle.desk.stations.review.view.rep_bar import RepBar
from keen_kettle.desk.stations.review.view.rhythm import Rhythm
from keen_kettle.desk.stations.review.view.transport import Transport

__all__ = ["ReviewStation"]

LEAST_HIGH, POSITIONS_HIGH, RHYTHM_HIGH = 700, 76, 128
"""Heights on a laptop of 1280 × 800, pixels."""


class ReviewStation(QWidget):
    """The place where a clip is watched, measured and judged."""

    def __init__(
        self,
        model: ReviewModel,
        offers: PrescribeModel,
        hand: HandModel,
        body: BodyModel,
        drawing: DrawingModel,
        suggested: SuggestionModel,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._model = model
        self.title = label("", "lead", wrap=False)
        self.film = FilmView(model, hand, body, drawing, suggested)
        self.lane = PathLane(model, self.film)
        self.transport = Transport(model)
        self.transport.closer.clicked.connect(self.film.look_closer)
        self.film.placed.connect(lambda: self.transport.show_closer(self.film.zoom.whole))
        self.positions = KeyPositions(model)
        self.rhythm = Rhythm(model, hand, drawing)
        self.say = SayCard(model, offers, hand, body)
        self.film.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        picture = row(self.film, self.lane, spacing=2)
        self.reps = RepBar(model)
        above = row(self.title, self.reps, spacing=12)
        above.setStretch(0, 1)
        left = column(above, picture, self.transport, self.positions, self.rhythm, spacing=4)
        left.setStretch(1, 1)
        whole = row(left, self.say, spacing=12, margin=12)
        whole.setContentsMargins(12, 4, 12, 4)
        whole.setStretch(0, 1)
        self.setLayout(whole)
        self._drawing = drawing
        self.film.drawing_menu_wanted.connect(self._open_menu)
        self.say.rebuilt.connect(self._keep_focus)
        model.clip_changed.connect(self._name)
        self._name()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The film takes most of what a larger window gives; the rows under it take some."""
        super().resizeEvent(event)
        more = max(self.height() - LEAST_HIGH, 0)
        self.positions.setFixedHeight(min(POSITIONS_HIGH + more // 8, 2 * POSITIONS_HIGH))
        self.rhythm.setFixedHeight(min(RHYTHM_HIGH + more // 5, 2 * RHYTHM_HIGH))

    def _open_menu(self, spot: QPointF) -> None:
        menu = drawing_menu(self._drawing, self)
        menu.aboutToHide.connect(menu.deleteLater)
        menu.popup(spot.toPoint())

    def _keep_focus(self) -> None:
        """A button that was pressed may be gone; the keys then belong to the film."""
        if self.isVisible() and QApplication.focusWidget() is None:
            self.film.setFocus()

    def _name(self) -> None:
        clip, athlete = self._model.clip, self._model.athlete
        if clip is None:
            self.title.setText("Review")
            return
        who = athlete.name if athlete is not None else "No athlete yet"
        mass = f", {show_kg(clip.mass_kg)}" if clip.mass_kg else ""
        self.title.setText(f"{who}  ·  {clip.lift}{mass}  ·  {clip.filmed_on:%d %b %Y}")
