"""Promises of the look: contrast, one place for colours, every control named, nothing clipped."""

import re
import unittest
from collections import Counter
from functools import partial
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QWidget,
)

import keen_kettle
from keen_kettle.core.content import load_content
from keen_kettle.core.faults import Finding, praise
from keen_kettle.core.motion import Measure
from keen_kettle.desk.kit.action import MENUS, Action
from keen_kettle.desk.kit.theme import font, icon
from keen_kettle.desk.kit.tokens import DAYLIGHT, DUSK, contrast
from keen_kettle.desk.kit.words import fault_words, praise_words
from keen_kettle.desk.shared.station_part import Page, Stage, StationPart
from keen_kettle.desk.state.all_models import Models
from keen_kettle.desk.stations.film.part import FilmsIn
from keen_kettle.desk.window.frame import Window
from keen_kettle.desk.window.stations import Stations
from tests.desk.base import DeskCase, app
from tests.films import film

SOURCE = Path(keen_kettle.__file__).parent


class TestWords(unittest.TestCase):
    def test_praise_of_a_place_has_no_sign(self) -> None:
        content = load_content()
        for value in (0.008, -0.008):
            measured = {"net_shift": Measure("net_shift", value, 0.001, "m", 100)}
            said = praise_words(praise(measured, "clean", content, [])[0], content)
            self.assertIn("feet, 0.8\xa0cm from", said)

    def test_of_several_faults_those_are_named_that_are_close(self) -> None:
        found = [Finding("loop", 1.0, 1.0, False, ()), Finding("gap", 1.0, 1.0, True, ())]
        said = fault_words(found, load_content())
        self.assertEqual(said, "loop, bar away from the hip (close to the line)")


class TestTokens(unittest.TestCase):
    def test_black_and_white_have_the_greatest_contrast(self) -> None:
        self.assertAlmostEqual(contrast("#000000", "#FFFFFF"), 21.0, places=1)
        self.assertAlmostEqual(contrast("#777777", "#777777"), 1.0)

    def test_text_is_readable_in_both_themes(self) -> None:
        for theme in (DUSK, DAYLIGHT):
            for ground in (theme.ground, theme.raised):
                for name in ("ink", "quiet", "brass", "chalk", "sage", "ember", "signal"):
                    ratio = contrast(getattr(theme, name), ground)
                    self.assertGreaterEqual(ratio, 4.5, f"{theme.name}: {name} on {ground}")
            self.assertGreaterEqual(contrast(theme.on_brass, theme.brass), 4.5, theme.name)

    def test_no_other_file_names_a_colour(self) -> None:
        for file in (SOURCE / "desk").rglob("*.py"):
            if file.name != "tokens.py":
                self.assertIsNone(re.search(r"#[0-9A-Fa-f]{6}\b", file.read_text()), file.name)

    def test_the_shipped_typeface_has_figures_of_one_width(self) -> None:
        from PyQt6.QtGui import QFontMetricsF

        from keen_kettle.desk.kit.theme import use_theme

        use_theme(app(), DUSK)
        widths = {
            round(QFontMetricsF(font("text")).horizontalAdvance(figure), 2)
            for figure in "0123456789"
        }
        self.assertEqual(len(widths), 1)
        self.assertFalse(icon("film").isNull())


class TestWidgets(DeskCase):
    def test_every_key_belongs_to_one_action_and_every_action_to_a_menu(self) -> None:
        self.keep()
        window = self.open()
        known = window.actions_known.known
        keys = Counter(key for action in known for key in action.keys)
        self.assertEqual([key for key, count in keys.items() if count > 1], [])
        self.assertEqual(len(known), len(window.actions_by_id))
        for action in known:
            self.assertIn(action.menu, MENUS)
            made = window.actions_by_id[action.id]
            self.assertIn(made, window.actions_known.menus[action.menu].actions())

    def test_an_action_of_two_stations_is_done_by_the_open_one(self) -> None:
        window = self.open()
        done: list[str] = []
        may = {"Film": True, "Review": True}
        for name in ("Film", "Review"):
            offer = Action(
                *("twice", "Twice", "Help", (), ""),
                partial(done.append, name),
                partial(may.__getitem__, name),
            )
            window.actions_known.add([offer], name)
        twice = window.actions_by_id["twice"]
        for station in ("Review", "Film"):
            window._go(station)
            twice.trigger()
        may["Film"] = False
        window._enable()
        twice.trigger()
        self.assertEqual(done, ["Review", "Film", "Review"])
        may["Review"] = False
        window._enable()
        self.assertFalse(twice.isEnabled())

    def test_a_new_station_needs_no_line_in_the_window(self) -> None:
        class FloorPart(StationPart):
            name = "Floor"
            help = "Sets that run."
            picture = "film"
            pages = (Page("rest", "Rest", "Rest", "Shift+F9", "Who rests."),)
            opened = ""

            def __init__(self, parent: QObject) -> None:
                super().__init__(parent)
                self.shown = QLabel("The floor")

            @property
            def widget(self) -> QLabel:
                return self.shown

            def badge(self) -> str:
                return "2 sets"

            def actions(self) -> tuple[Action, ...]:
                return (Action("ring", "Ring", "View", ("Ctrl+9",), "", lambda: None),)

            def open(self, tab: str) -> None:
                self.opened = tab

        whole = Stations.__init__

        def with_floor(one: Stations, models: Models, films: FilmsIn, stage: Stage) -> None:
            whole(one, models, films, stage)
            vars(one)["floor"] = FloorPart(models)

        with mock.patch.object(Stations, "__init__", with_floor):
            window = self.open()
        floor = window.stations.named("Floor")
        assert isinstance(floor, FloorPart)
        self.press(window, "Shift+F9")
        self.assertEqual((floor.opened, window.desk.station), ("Rest", "Floor"))
        self.assertTrue(floor.shown.isVisible())
        self.press(window, "Ctrl+1")
        self.press(window, "Ctrl+7")
        self.assertTrue(floor.shown.isVisible())
        self.find(window.strip, "Floor · 2 sets")
        self.assertIn("ring", window.actions_by_id)
        self.assertIn("Ring", self.shown_words(window.keys))

    @staticmethod
    def shown_words(page: QWidget) -> str:
        return " ".join(one.text() for one in page.findChildren(QLabel))

    def test_every_control_has_a_name_and_a_tooltip_and_can_be_reached_by_tab(self) -> None:
        from PyQt6.QtCore import Qt

        self.keep()
        window = self.open()
        for station in (part.widget for part in window.stations.in_order):
            window.stack.setCurrentWidget(station)
            self.settle()
            for kind in (QAbstractButton, QComboBox, QAbstractSpinBox, QLineEdit):
                for control in station.findChildren(kind):
                    if control.isVisible() and control.objectName() != "qt_spinbox_lineedit":
                        said = f"{type(control).__name__} {control.accessibleName()!r}"
                        self.assertTrue(
                            control.accessibleName() or getattr(control, "text", str)(), said
                        )
                        self.assertTrue(
                            control.toolTip() or control.placeholderText()
                            if isinstance(control, QLineEdit)
                            else control.toolTip(),
                            said,
                        )
                        self.assertTrue(control.focusPolicy() & Qt.FocusPolicy.TabFocus, said)

    def test_nothing_is_clipped_at_1280_by_800(self) -> None:
        self.keep_club()
        window = self.open()
        self.until(lambda: window.models.teach.rows() and not window.models.teach.waiting)
        for part in window.stations.in_order:
            name, station = part.name, part.widget
            window._go(name)
            self.settle()
            self.assert_all_fits(window, station, name)
        for who in (None, self.athlete(window, "Tobias").id):
            window.desk.choose_who(who)
            for page in self.pages(window):
                window.open_page(page)
                self.settle()
                self.assert_all_fits(window, window.stack.currentWidget(), page)

    def test_the_strip_shows_what_waits_everywhere_at_once(self) -> None:
        self.keep_club()
        window = self.open()
        self.until(lambda: window.models.teach.rows() and not window.models.teach.waiting)
        self.settle()
        waits = ("12 new", "11 safety", "128 clips", "28 to do", "1 new", "12 running")
        window.strip.show_state(
            "Teach", dict(zip((part.name for part in window.stations.in_order), waits, strict=True))
        )
        self.settle()
        self.assertEqual(window.width(), 1280)
        for made in window.strip._buttons.values():
            self.assertGreaterEqual(made.width(), made.sizeHint().width(), made.text())
        right = window.strip.mapTo(window, window.strip.rect().topRight()).x()
        self.assertLessEqual(right, window.width())

    def test_what_was_said_on_a_station_is_left_behind_there(self) -> None:
        window = self.open()
        bar = window.statusBar()
        assert bar is not None
        window.desk.go_to("Film")
        for linger, shown in ((0.0, "Found again."), (0.6, "")):
            window.desk.said.emit("Found again.")
            self.settle(linger)
            window.desk.go_to("Record" if window.desk.station == "Film" else "Film")
            self.assertEqual(bar.currentMessage(), shown)
        window.desk.said.emit("Stay here.")
        self.settle(0.6)
        window.desk.go_to(window.desk.station)
        self.assertEqual(bar.currentMessage(), "Stay here.")
        window.show_page(window.keys)
        self.assertEqual(bar.currentMessage(), "", "a page that is laid over it is another place")

    def test_the_set_up_of_a_clip_fits_the_card(self) -> None:
        self.keep(film("brief"))
        window = self.open()
        self.open_clip(window)
        self.settle()
        self.assert_all_fits(window, window.stations.review.widget, "Review")

    @staticmethod
    def pages(window: Window) -> list[str]:
        return [page.id for part in window.stations.in_order for page in part.pages]

    def assert_all_fits(self, window: Window, root: QWidget | None, name: str) -> None:
        assert root is not None
        self.assertEqual((window.width(), window.height()), (1280, 800), name)
        found: list[QLabel | QAbstractButton] = [*root.findChildren(QLabel)]
        found += root.findChildren(QAbstractButton)
        for one in found:
            if one.isVisible() and one.text():
                self.assert_fits(one)
        for area in root.findChildren(QScrollArea):
            inside = area.widget()
            if area.isVisible() and inside is not None:
                self.assertLessEqual(inside.width(), area.width(), f"{name}: wider than its place")

    def assert_fits(self, one: QLabel | QAbstractButton) -> None:
        if isinstance(one, QLabel) and one.wordWrap():
            self.assertGreaterEqual(one.height() + 2, one.heightForWidth(one.width()), one.text())
        else:
            self.assertGreaterEqual(
                one.width() + 2, one.minimumSizeHint().width(), one.accessibleName()
            )

    def test_no_window_of_its_own_ever_flashes_up(self) -> None:
        """A widget that is shown before it has a place would be a window for a moment."""
        self.keep_club()
        window = self.open()
        window.desk.choose_who(self.athlete(window, "Odile").id)
        shown: list[str] = []

        class Watch(QObject):
            def eventFilter(self, one: QObject | None, event: QEvent | None) -> bool:
                if (
                    event is not None
                    and event.type() == QEvent.Type.Show
                    and isinstance(one, QWidget)
                    and one.isWindow()
                    and one is not window
                ):
                    shown.append(f"{type(one).__name__} {one.accessibleName()}")
                return False

        watch = Watch()
        app().installEventFilter(watch)
        try:
            for name in (part.name for part in window.stations.in_order):
                window._go(name)
                self.settle()
            for page in self.pages(window):
                window.open_page(page)
                self.settle()
        finally:
            app().removeEventFilter(watch)
        self.assertEqual(shown, [])
        self.assertTrue(window.isActiveWindow())


if __name__ == "__main__":
    unittest.main()
