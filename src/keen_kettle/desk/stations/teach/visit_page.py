"""Teaching visits: a whole group on one screen, marked with keys; the rule answers at once."""

from functools import partial
from typing import Any

from PyQt6.QtCore import (
    QEvent,
    QObject,
    Qt,
)
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QTableView,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from keen_kettle.core.teach import CONFIDENCE, VERDICTS
from keen_kettle.desk.kit.builders import (
    button,
    card,
    clear,
    label,
    number_field,
    packed,
    row,
    scrolled,
)
from keen_kettle.desk.kit.tables import RowTable, dressed_table
from keen_kettle.desk.kit.theme import colour, dress, icon
from keen_kettle.desk.kit.words import dose_words
from keen_kettle.desk.state.teach.board_row import BoardRow, state_of_row
from keen_kettle.desk.state.teach.teach_model import TeachModel
from keen_kettle.desk.stations.teach.advice_card import AdviceCard
from keen_kettle.desk.stations.teach.choices import Choices
from keen_kettle.desk.stations.teach.roll_call import RollCall
from keen_kettle.desk.work.idle_calls import IdleCall

__all__ = ["VisitPage", "VisitTable"]

SIDE_WIDE_PX = 400
ROW = Qt.ItemDataRole.UserRole
LIKES = {1: ("smile", "liked"), 0: ("meh", "so-so"), -1: ("frown", "disliked")}
KEYS = (
    "1–9 points · A all · + − liked · C confidence · V load verdict · P pain · F fault · L load · "
    "R roll call · Enter take the advice · ↑ ↓ next"
)


class VisitTable(RowTable[BoardRow]):
    """Everybody of the chosen who that stands on a ladder, with today's visit."""

    heads = ("Athlete", "Stage", "Points", "Faults", "Liked", "Pain", "What now")

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach

    def reload(self) -> None:
        self.show_rows([one for one in self._teach.rows() if one.ladder is not None])

    def refresh(self, athlete: int, ladder: str) -> bool:
        """Read one row again; whether it is here."""
        fresh = self._teach.row(athlete, ladder)
        keys = [one.key for one in self.rows]
        if fresh is None or fresh.key not in keys:
            return False
        number = keys.index(fresh.key)
        self.rows = [*self.rows[:number], fresh, *self.rows[number + 1 :]]
        self.row_changed(number)
        return True

    def cell(self, shown: BoardRow, place: int, role: int) -> Any:
        if role == ROW:
            return shown
        draft = self._teach.draft(shown)
        visited = bool(draft.id)
        if role == Qt.ItemDataRole.DisplayRole:
            visit = draft.visit
            points = "".join("●" if k in visit.met else "○" for k in range(visit.asked))
            return (
                shown.athlete.name,
                shown.taught.stage.name if shown.taught is not None else shown.stage,
                points if visited else "not yet today",
                str(len(visit.faults)) if visit.faults else "–",
                LIKES[visit.enjoyment][1] if visited else "–",
                "pain" if visit.pain else "–",
                state_of_row(shown)[1],
            )[place]
        if place == 6:
            _, _, picture, token = state_of_row(shown)
            if role == Qt.ItemDataRole.DecorationRole:
                return icon(picture, token)
            if role == Qt.ItemDataRole.ForegroundRole:
                return colour("ink" if token == "sage" else token)
        if role == Qt.ItemDataRole.ForegroundRole:
            if place == 2:
                return colour("chalk" if visited else "quiet")
            if place == 5 and draft.visit.pain:
                return colour("signal")
        return None


class VisitPage(QWidget):
    """The group on the left; on the right the chosen athlete's stage, its points, and the rule."""

    def __init__(self, teach: TeachModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._teach = teach
        self._filling = False
        self._built_for: tuple[int, str, str] | None = None
        self.model = VisitTable(teach, self)
        self.view = QTableView()
        self.view.setModel(self.model)
        dressed_table(self.view, "Visits of today", 1)
        self.model.modelReset.connect(self._make_room)
        self.view.setToolTip(KEYS)
        self.view.installEventFilter(self)
        self._title = label("", "title")
        self._empty = label("", "quiet")
        self._to_board = button(
            "Choose ladders on the board",
            "Nobody here stands on a ladder yet (F5)",
            lambda: teach.desk.page_wanted.emit("board"),
            "layout-list",
            "next",
        )
        self.advice = AdviceCard(teach, wide=True)
        left = card(
            self._title,
            self._empty,
            row(self._to_board),
            self.view,
            self.advice,
            label(KEYS, "small"),
        )
        inner = left.layout()
        assert isinstance(inner, QVBoxLayout)
        inner.setStretch(3, 1)
        self.points: list[QPushButton] = []
        self.faults: dict[str, QPushButton] = {}
        self._side = self._side_card()
        scroll = scrolled(self._side)
        scroll.setFixedWidth(SIDE_WIDE_PX + 38)
        across = row(left, scroll, spacing=12)
        across.setStretch(0, 1)
        self.setLayout(across)
        self._idle = IdleCall(self._reload, self)
        teach.changed.connect(self._idle.ask)
        teach.advice_ready.connect(self._idle.ask)
        teach.row_changed.connect(self._on_row)
        selection = self.view.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda *_: self._show_chosen())

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._reload()
        self.view.setFocus()

    def _side_card(self) -> QWidget:
        self._name = label("", "lead")
        self._stage = label("", "quiet")
        self._cue = label("", "measured")
        self._why = label("", "quiet")
        self._points = QVBoxLayout()
        self._points.setSpacing(4)
        self._faults = QVBoxLayout()
        self._faults.setSpacing(4)
        self._make_other_fault()
        self.call = button(
            "Roll call",
            "The set-up's questions, on the whole screen (R)",
            self._call,
            "list-checks",
        )
        named = row(self._name, self.call)
        named.setStretch(0, 1)
        self.confidence = Choices(
            "Confidence",
            CONFIDENCE,
            "How the athlete goes at it (C)",
            lambda chosen: self._set("note the confidence", confidence=chosen),
        )
        return card(
            named,
            self._stage,
            self._cue,
            self._why,
            self._points,
            label("FAULTS TO WATCH", "head"),
            self._faults,
            self._numbers(),
            self.confidence,
            self._liking(),
            spacing=4,
            margin=10,
        )

    def _make_other_fault(self) -> None:
        self.other_fault = QComboBox()
        self.other_fault.setMinimumWidth(120)
        self.other_fault.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.other_fault.setAccessibleName("Another fault")
        self.other_fault.setToolTip("A fault that this stage does not watch for (F)")
        self.other_fault.addItem("another fault …", "")
        for fault in self._teach.desk.content.faults.values():
            self.other_fault.addItem(fault.name, fault.id)
        self.other_fault.activated.connect(lambda _row: self._tag_other())

    def _numbers(self) -> QHBoxLayout:
        """Reps, load, and the verdict on the load."""
        self.reps = number_field(0, 200, 1, " reps", 0)
        self.load = number_field(0, 400, 2.5, " kg", 1)
        for field, name, tip, width in (
            (self.reps, "Reps", "Good repetitions in this visit", 76),
            (self.load, "Load", "Heaviest load of this visit (L)", 82),
        ):
            field.setMinimumWidth(width)
            field.setSpecialValueText(name.lower())
            field.setAccessibleName(name)
            field.setToolTip(tip)
            field.installEventFilter(self)
        self.reps.valueChanged.connect(lambda n: self._set("count reps", reps=round(n) or None))
        self.load.valueChanged.connect(lambda kg: self._set("note the load", load_kg=kg or None))
        self.verdict = Choices(
            "Load",
            VERDICTS,
            "Your verdict on the load, for what this stage is there for (V)",
            lambda chosen: self._set("judge the load", verdict=chosen),
            headed=False,
        )
        numbers = row(self.reps, self.load, self.verdict, spacing=4)
        numbers.setStretch(0, 1)
        numbers.setStretch(1, 1)
        return numbers

    def _liking(self) -> QHBoxLayout:
        """How it was liked, and pain."""
        self.likes: dict[int, QToolButton] = {}
        line = QHBoxLayout()
        line.setSpacing(4)
        for value, (picture, words) in LIKES.items():
            self.likes[value] = self._toggle(words, picture, f"The athlete {words} it (+ −)")
            self.likes[value].clicked.connect(
                partial(self._set, "note the liking", enjoyment=value)
            )
            line.addWidget(self.likes[value])
        self.pain = self._toggle("pain", "octagon-alert", "Pain was felt: steps back at once (P)")
        self.pain.clicked.connect(self._flip_pain)
        line.addWidget(self.pain)
        line.addStretch(1)
        return line

    def _toggle(self, words: str, picture: str, tip: str) -> QToolButton:
        made = QToolButton()
        made.setText(words)
        made.setCheckable(True)
        made.setToolTip(tip)
        made.setAccessibleName(words)
        made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        if picture:
            dress(made, picture, "quiet")
        return made

    # Showing

    def chosen(self) -> BoardRow | None:
        found = self.view.currentIndex().data(ROW)
        return found if isinstance(found, BoardRow) else None

    def _reload(self) -> None:
        if not self.isVisible():
            return
        before = self.chosen()
        wanted = before.key if before is not None else None
        who = self._teach.desk.who
        self.model.reload()
        keys = [shown.key for shown in self.model.rows]
        if wanted in keys:
            self.view.selectRow(keys.index(wanted))
        elif keys:
            of_who = [k for k, key in enumerate(keys) if key[0] == who]
            self.view.selectRow(of_who[0] if of_who else 0)
        self._empty.setText(
            "Nobody here stands on a ladder yet. Choose one for each athlete on the board."
        )
        self._empty.setVisible(not keys)
        self._to_board.setVisible(not keys)
        self.view.setVisible(bool(keys))
        self._show_title()
        self._show_chosen()

    def _make_room(self) -> None:
        """Room for what is still to be marked, so that no column jumps while marking."""
        for place, width in ((2, 116), (3, 64), (4, 88), (5, 64), (6, 172)):
            self.view.setColumnWidth(place, width)

    def _show_title(self) -> None:
        done = sum(bool(self._teach.draft(one).id) for one in self.model.rows)
        today = self._teach.desk.today()
        self._title.setText(f"Visits of {today:%d %b}: {done} of {len(self.model.rows)} marked")

    def _on_row(self, athlete: int, ladder: str) -> None:
        if self.isVisible() and self.model.refresh(athlete, ladder):
            self._show_title()
            self._show_chosen()

    def _show_chosen(self) -> None:
        shown = self.chosen()
        self._side.setVisible(shown is not None)
        self.advice.show_row(shown)
        if shown is None or shown.ladder is None:
            self._built_for = None
            return
        key = (*shown.key, shown.stage)
        if key != self._built_for:
            self._build_side(shown)
            self._built_for = key
        visit = self._teach.draft(shown).visit
        self._filling = True
        for place, point in enumerate(self.points):
            on = place in visit.met
            point.setChecked(on)
            dress(point, "check" if on else "circle-dot", "sage" if on else "quiet")
        for fault, tag in self.faults.items():
            tag.setChecked(fault in visit.faults)
            dress(tag, "triangle-alert", "ember" if fault in visit.faults else "quiet")
        for value, one in self.likes.items():
            one.setChecked(visit.enjoyment == value)
            dress(one, LIKES[value][0], "brass" if visit.enjoyment == value else "quiet")
        self.pain.setChecked(visit.pain)
        dress(self.pain, "octagon-alert", "signal" if visit.pain else "quiet")
        self.reps.setValue(visit.reps or 0)
        self.load.setValue(visit.load_kg or 0)
        self.confidence.show_choice(visit.confidence)
        self.verdict.show_choice(visit.verdict)
        self._show_others(visit.faults)
        self._filling = False

    def _build_side(self, shown: BoardRow) -> None:
        assert shown.ladder is not None
        taught = shown.taught
        self._name.setText(shown.athlete.name)
        if taught is None:
            self._stage.setText(f"{shown.ladder.name}: {shown.stage} is not taught any more.")
        else:
            stage = taught.stage
            self._stage.setText(
                f"{stage.name} · {shown.ladder.name}\n{stage.movement}, {dose_words(stage.dose)}"
            )
        self._cue.setText(f"Cue: {taught.cue}" if taught is not None else "")
        self._why.setText(f"Why: {taught.stage.why}" if taught and taught.stage.why else "")
        self._why.setVisible(bool(self._why.text()))
        self.call.setVisible(bool(self._teach.roll_call(shown)))
        clear(self._points)
        self.other_fault.setParent(self)
        clear(self._faults)
        self.points, self.faults = [], {}
        for place, words in enumerate(taught.points if taught is not None else ()):
            tip = f"Point {place + 1} was met (key {place + 1})"
            point = button(f"{place + 1}   {words}", tip, picture="circle-dot", role="point")
            point.setCheckable(True)
            point.clicked.connect(partial(self._point, place))
            self.points.append(point)
            self._points.addWidget(point)
        watched = taught.stage.watch if taught is not None else ()
        catalogue = self._teach.desk.content.faults
        for fault in watched:
            known = catalogue.get(fault)
            name = known.name if known else fault
            tip = f"{name} was seen.\nSay: {known.one_thing}\nWhy: {known.why}" if known else name
            tag = button(name, tip, picture="triangle-alert", role="point")
            tag.setCheckable(True)
            tag.clicked.connect(partial(self._fault, fault))
            self.faults[fault] = tag
        packed(self._faults, (*self.faults.values(), self.other_fault), SIDE_WIDE_PX, self)

    def _show_others(self, faults: tuple[str, ...]) -> None:
        others = [one for one in faults if one not in self.faults]
        names = [self._teach.desk.content.faults[one].name for one in others]
        self.other_fault.setItemText(
            0, f"another fault …  ({', '.join(names)})" if names else "another fault …"
        )
        self.other_fault.setCurrentIndex(0)

    # Marking

    def _point(self, place: int) -> None:
        shown = self.chosen()
        if shown is not None and place < len(self.points):
            self._teach.toggle_point(shown, place)

    def _fault(self, fault: str) -> None:
        shown = self.chosen()
        if shown is not None:
            self._teach.toggle_fault(shown, fault)

    def _tag_other(self) -> None:
        fault = self.other_fault.currentData()
        self.other_fault.setCurrentIndex(0)
        if fault:
            self._fault(fault)
        self.view.setFocus()

    def _set(self, words: str, _on: object = None, **fields: object) -> None:
        shown = self.chosen()
        if shown is not None and not self._filling:
            self._teach.set_seen(shown, words, **fields)

    def _flip_pain(self) -> None:
        shown = self.chosen()
        if shown is not None:
            self._set("flag pain", pain=not self._teach.draft(shown).visit.pain)

    def _call(self) -> None:
        """The set-up's questions over the whole window; Esc comes back to the table."""
        shown = self.chosen()
        asked = self._teach.roll_call(shown) if shown is not None else ()
        if shown is not None and asked:
            roll = RollCall(shown.athlete.name, self._teach.words_of(shown), asked, self.window())
            roll.left.connect(self.view.setFocus)

    def _like(self, more: int) -> None:
        shown = self.chosen()
        if shown is not None:
            now = self._teach.draft(shown).visit.enjoyment
            self._set("note the liking", enjoyment=max(-1, min(1, now + more)))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The keys of the table; Enter in a number goes back to the table."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if watched is self.view:
                return self._on_key(event)
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
                if isinstance(watched, type(self.reps)):
                    watched.interpretText()
                self.view.setFocus()
                return True
        return super().eventFilter(watched, event)

    def _on_key(self, event: QKeyEvent) -> bool:
        shown = self.chosen()
        if shown is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            return False
        text, key = event.text(), event.key()
        if text.isdigit() and text != "0":
            self._point(int(text) - 1)
        elif text in ("a", "A"):
            self._teach.all_points(shown)
        elif text in ("+", "="):
            self._like(1)
        elif text in ("-", "_"):
            self._like(-1)
        elif text in ("c", "C"):
            self.confidence.next()
        elif text in ("v", "V"):
            self.verdict.next()
        elif text in ("r", "R"):
            self._call()
        elif text in ("p", "P"):
            self._flip_pain()
        elif text in ("f", "F"):
            self.other_fault.setFocus()
            self.other_fault.showPopup()
        elif text in ("l", "L"):
            self.load.setFocus()
            self.load.selectAll()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.advice.take_advice()
        else:
            return False
        return True
