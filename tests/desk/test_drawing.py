"""Drawing on the real film: lines that take hold, values, ghosts, notes, moving, removing, keeping."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from keen_kettle.core.motion import Drawing
from keen_kettle.desk.stations.review.view.drawing_marks import label_of
from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file
from tests.desk.test_body import BodyCase


class TestDrawing(BodyCase):
    def drag(self, window: Window, begin: QPoint, end: QPoint) -> None:
        view = window.stations.review.widget.film
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=begin)
        for share in (0.4, 0.8, 1.0):
            QTest.mouseMove(view, begin + (end - begin) * share)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end)
        self.done(window)

    def at(self, window: Window, x: float, y: float) -> QPoint:
        transform = window.stations.review.widget.film.transform
        assert transform is not None
        return transform.to_widget(x, y).toPoint()

    def drawings(self, window: Window) -> tuple[Drawing, ...]:
        assert window.models.review.clip is not None
        return window.models.review.clip.drawings

    def said(self, window: Window) -> list[str]:
        """The labels over the film."""
        view = window.stations.review.widget.film
        assert view.transform is not None
        labels = []
        for one in window.models.drawing.visible:
            points, ghost = (
                view.transform.to_widget_all(*spots.T) if spots is not None else None
                for spots in (one.shown.points, one.shown.ghost)
            )
            label = label_of(view.rect().toRectF(), one, points, ghost)
            labels += [label.words] if label is not None else []
        return labels

    def go(self, window: Window, event: str) -> None:
        answer = window.models.review.answer
        assert answer is not None
        window.models.review.go_to_frame(answer.events[event].frame)
        self.done(window)

    def test_a_line_is_drawn_measured_chosen_and_removed_by_hand(self) -> None:
        window = self.opened()
        self.press(window, "L")
        self.assertTrue(window.actions_by_id["stop"].isEnabled())
        self.drag(window, self.at(window, 60, 60), self.at(window, 160, 60))
        (line,) = self.drawings(window)
        self.assertEqual([spot.held for spot in line.spots], ["", ""])
        answer = window.models.review.answer
        assert answer is not None
        wanted = 100 * answer.scale.m_per_px * 100
        (words,) = self.said(window)
        self.assertIn("°", words)
        length = float(words.split("·")[1].split("±")[0].split("cm")[0])
        self.assertAlmostEqual(length, wanted, delta=1.5)
        self.press(window, "Esc")
        self.assertEqual(window.models.drawing.chosen, -1)
        QTest.mouseClick(
            window.stations.review.widget.film,
            Qt.MouseButton.LeftButton,
            pos=self.at(window, 110, 60),
        )
        self.assertEqual(window.models.drawing.chosen, 0)
        self.press(window, "Del")
        self.assertEqual(self.drawings(window), ())
        window.actions_by_id["undo"].trigger()
        self.done(window)
        self.assertEqual(self.drawings(window), (line,))

    def test_the_back_is_drawn_by_one_key_and_its_ghost_compared_two_positions_later(self) -> None:
        window = self.opened()
        self.go(window, "knee_pass")
        self.press(window, "Shift+L")
        self.press(window, "S")
        (line,) = self.drawings(window)
        self.assertEqual([spot.held for spot in line.spots], ["hip", "shoulder"])
        self.assertEqual(line.elsewhere, "ghost")
        (here,) = self.said(window)
        self.go(window, "extension")
        (words,) = self.said(window)
        self.assertTrue(
            words.startswith(f"then {here.split(' ±')[0].split('°')[0]}"), (here, words)
        )
        self.assertIn("now", words)
        self.press(window, "I")
        self.assertEqual(self.said(window), [])

    def test_a_plumb_line_takes_hold_of_the_shoulder_and_follows_it(self) -> None:
        window = self.opened()
        self.go(window, "knee_pass")
        self.press(window, "V")
        spot = self.spot(window, "shoulder")
        QTest.mouseClick(
            window.stations.review.widget.film, Qt.MouseButton.LeftButton, pos=spot + QPoint(4, 3)
        )
        self.done(window)
        (plumb,) = self.drawings(window)
        self.assertEqual((plumb.spots[0].held, plumb.elsewhere), ("shoulder", "follows"))
        first = self.said(window)
        self.assertRegex(first[0], r"^bar .* cm (ahead|behind)$")
        self.go(window, "lowest")
        self.assertNotEqual(self.said(window), first)

    def test_alt_takes_hold_of_nothing(self) -> None:
        window = self.opened()
        self.press(window, "V")
        spot = self.spot(window, "shoulder")
        QTest.mouseClick(
            window.stations.review.widget.film,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.AltModifier,
            spot,
        )
        self.done(window)
        self.assertEqual(self.drawings(window)[0].spots[0].held, "")

    def test_an_angle_takes_a_drag_and_a_press(self) -> None:
        window = self.opened()
        self.go(window, "lowest")
        self.press(window, "G")
        self.drag(window, self.spot(window, "hip"), self.spot(window, "knee"))
        self.assertEqual(self.drawings(window), ())
        QTest.mouseClick(
            window.stations.review.widget.film,
            Qt.MouseButton.LeftButton,
            pos=self.spot(window, "ankle"),
        )
        self.done(window)
        (angle,) = self.drawings(window)
        self.assertEqual([spot.held for spot in angle.spots], ["hip", "knee", "ankle"])
        body = window.models.review.answer.body if window.models.review.answer is not None else None
        assert body is not None
        wanted = body.angle_deg("knee")[window.models.review.frame]
        self.assertTrue(self.said(window)[0].startswith(f"{wanted:.0f}"), self.said(window))

    def test_the_way_between_two_frames_is_drawn_across_them(self) -> None:
        window = self.opened()
        review, view = window.models.review, window.stations.review.widget.film
        assert review.track is not None
        self.press(window, "X")
        for event in ("peak_height", "lowest"):
            self.go(window, event)
            here = review.track.x_px[review.frame], review.track.y_px[review.frame]
            QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=self.at(window, *here))
            self.done(window)
        (way,) = self.drawings(window)
        self.assertEqual([spot.held for spot in way.spots], ["bar", "bar"])
        answer = review.answer
        assert answer is not None
        apart = answer.events["lowest"].t_s - answer.events["peak_height"].t_s
        (words,) = self.said(window)
        self.assertIn(f"{apart:.2f}", words)
        self.assertIn("down", words)

    def test_a_note_is_written_over_the_film_and_found_on_the_time_line(self) -> None:
        window = self.opened()
        view, rhythm = window.stations.review.widget.film, window.stations.review.widget.rhythm
        self.go(window, "power_position")
        noted = window.models.review.frame
        self.press(window, "O")
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=self.at(window, 80, 80))
        self.assertTrue(view.note.isVisible())
        QTest.keyClick(view.note, Qt.Key.Key_Escape)
        self.assertFalse(view.note.isVisible())
        self.assertEqual(self.drawings(window), ())
        self.press(window, "O")
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=self.at(window, 80, 80))
        QTest.keyClicks(view.note, "elbows stay long")
        QTest.keyClick(view.note, Qt.Key.Key_Return)
        self.done(window)
        self.assertEqual(self.said(window), ["elbows stay long"])
        self.go(window, "lift_off")
        self.assertEqual(self.said(window), [])
        spot, frame, words = rhythm.drawn_spots()[0]
        self.assertEqual((frame, words), (noted, "Note: elbows stay long"))
        QTest.mouseClick(rhythm, Qt.MouseButton.LeftButton, pos=spot.toPoint())
        self.done(window)
        self.assertEqual(window.models.review.frame, noted)

    def test_freehand_is_kept_and_moved_whole_and_all_is_there_again_later(self) -> None:
        window = self.opened()
        self.press(window, "R")
        self.drag(window, self.at(window, 60, 60), self.at(window, 120, 90))
        (before,) = self.drawings(window)
        self.assertGreater(len(before.spots), 2)
        self.press(window, "Esc")
        self.drag(window, self.at(window, 60, 60), self.at(window, 60, 80))
        (after,) = self.drawings(window)
        transform = window.stations.review.widget.film.transform
        assert transform is not None
        self.assertAlmostEqual(after.spots[0].y - before.spots[0].y, 20, delta=2 / transform.scale)
        self.assertEqual(len(after.spots), len(before.spots))
        window.close()
        shelf = Shelf(database_file(self.folder))
        self.assertEqual(shelf.clips()[0].drawings, (after,))
        shelf.close()
