"""Films in the window: exact frames by key and button, playing, dropping, films that moved or are none."""

import shutil
import unittest
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QImage
from PyQt6.QtTest import QTest

from keen_kettle.core.clip import set_rotation, write_clip
from keen_kettle.desk.window.frame import Window
from tests.core.test_clip import note_rate, number_in, numbered
from tests.desk.base import DeskCase
from tests.films import film


class FilmCase(DeskCase):
    """A window on a film whose every picture says its number."""

    def numbered_film(self, name: str = "numbers.mp4", count: int = 90, fps: float = 30) -> Path:
        path = self.room / name
        write_clip(path, ((n / fps, numbered(n)) for n in range(count)), fps, key_interval=300)
        return path

    def opened(self, path: Path) -> Window:
        self.keep(path=path)
        window = self.open()
        self.open_clip(window)
        return window

    def number_shown(self, window: Window) -> int:
        """The number that the picture on the screen carries."""
        image = window.stations.review.widget.film._image
        assert image is not None
        grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
        rows = grey.constBits()
        assert rows is not None
        rows.setsize(grey.sizeInBytes())
        luma = np.frombuffer(rows.asstring(), np.uint8).reshape(grey.height(), grey.bytesPerLine())
        return number_in(luma[:, : grey.width()])

    def assert_shows(self, window: Window, number: int) -> None:
        self.until(
            lambda: (
                window.models.review.frame == number and not window.models.review._frames.waiting
            )
        )
        self.assertEqual(self.number_shown(window), number)
        self.assertIn(f"frame {number} of", window.stations.review.widget.transport.where.text())

    def drop(self, window: Window, path: Path) -> None:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path))])
        spot = QPointF(200, 200)
        none, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
        enter = QDragEnterEvent(spot.toPoint(), Qt.DropAction.CopyAction, mime, left, none)
        window.dragEnterEvent(enter)
        self.assertTrue(enter.isAccepted())
        window.dropEvent(QDropEvent(spot, Qt.DropAction.CopyAction, mime, left, none))


class TestStepping(FilmCase):
    def test_keys_and_buttons_show_exactly_the_frame_that_is_asked_for(self) -> None:
        window = self.opened(self.numbered_film())
        window.models.review.set_marking(False)
        self.assert_shows(window, 0)
        moves = (
            ("Right", 1),
            ("Right", 2),
            (".", 3),
            ("Left", 2),
            (",", 1),
            ("End", 89),
            ("Left", 88),
        )
        for keys, number in (
            *moves,
            ("Shift+Left", 78),
            ("Shift+Right", 88),
            ("Home", 0),
            ("Left", 0),
        ):
            self.press(window, keys)
            self.assert_shows(window, number)
        transport = window.stations.review.widget.transport
        for made, number in ((transport.forward, 1), (transport.forward, 2), (transport.back, 1)):
            QTest.mouseClick(made, Qt.MouseButton.LeftButton)
            self.assert_shows(window, number)

    def test_a_held_key_ends_on_the_last_frame_that_was_asked_for(self) -> None:
        window = self.opened(self.numbered_film())
        for _ in range(40):
            window.models.review.step(1)
        self.assert_shows(window, 40)
        for _ in range(25):
            window.models.review.step(-1)
        self.assert_shows(window, 15)

    def test_a_turned_film_is_shown_upright(self) -> None:
        path = self.numbered_film("turned.mp4", 12)
        set_rotation(path, 90)
        window = self.opened(path)
        image = window.stations.review.widget.film._image
        assert image is not None
        self.assertGreater(image.height(), image.width())


class TestPlaying(FilmCase):
    def test_space_plays_to_the_end_and_stops_there(self) -> None:
        window = self.opened(self.numbered_film(count=30, fps=60))
        self.press(window, "Space")
        self.assertTrue(window.models.review.playback.playing)
        self.until(
            lambda: not window.models.review.playback.playing, what="it did not stop at the end"
        )
        self.assert_shows(window, 29)
        self.press(window, "Space")
        self.until(lambda: 0 < window.models.review.frame < 29, what="it does not begin again")
        self.press(window, "Space")
        self.assertFalse(window.models.review.playback.playing)

    def test_slow_play_runs_by_the_clock_of_the_film(self) -> None:
        window = self.opened(self.numbered_film(count=60, fps=60))
        seen: list[tuple[float, int]] = []
        review = window.models.review
        review.frame_shown.connect(
            lambda _image: seen.append((review.playback._clock.nsecsElapsed() / 1e9, review.frame))
        )
        for keys, speed in (("2", 0.5), ("3", 0.25), ("4", 0.125)):
            self.press(window, "Home")
            self.press(window, keys)
            self.assertEqual(review.playback.speed, speed)
            seen.clear()
            self.press(window, "Space")
            self.until(lambda: len(seen) >= 4)
            review.playback.pause()
            for elapsed, frame in seen:
                self.assertLessEqual(
                    frame, 60 * speed * elapsed + 1.01, "it never runs ahead of the film"
                )
            self.assertGreater(seen[-1][1], seen[0][1])

    def test_the_speed_buttons_show_the_chosen_speed(self) -> None:
        window = self.opened(self.numbered_film())
        group = window.stations.review.widget.transport.speeds
        for number, words in enumerate(("1", "1/2", "1/4", "1/8")):
            made = group.button(number)
            assert made is not None
            self.assertEqual(made.text(), words)
            QTest.mouseClick(made, Qt.MouseButton.LeftButton)
            self.assertAlmostEqual(window.models.review.playback.speed, 1 / 2**number)


class TestComingIn(FilmCase):
    def test_a_dropped_film_is_kept_and_opened(self) -> None:
        self.keep()
        window = self.open()
        self.assertIn("No clips yet", self.shown(window.stations.film.widget))
        self.drop(window, self.numbered_film())
        self.until(lambda: window.models.review.index is not None)
        self.assertEqual(window.desk.station, "Review")
        self.assertEqual([clip.path.name for clip in window.desk.clips], ["numbers.mp4"])
        self.settle()
        self.assertIn("Mark the plate", self.shown(window.stations.review.widget.say))

    def test_slow_motion_that_says_so_comes_in_with_the_rate_at_which_it_was_filmed(self) -> None:
        self.keep()
        path = self.room / "slow.mp4"
        note_rate(self.numbered_film(), path, "240.0")
        window = self.open()
        self.drop(window, path)
        self.until(lambda: window.models.review.index is not None, what="the film did not open")
        self.settle()
        self.assertEqual(window.desk.clips[0].capture_fps, 240.0)
        self.assertEqual(window.stations.review.widget.say.setup.capture.value(), 240)

    def test_the_dialog_adds_a_film_for_the_chosen_athlete(self) -> None:
        self.keep()
        window = self.open()
        window.desk.choose_who(window.desk.athletes[0].id)
        with self.choosing(self.numbered_film()):
            self.click(window.stations.film.widget, "Add the first clip")
            self.until(lambda: window.desk.clips)
        self.assertEqual(window.desk.clips[0].athlete_id, window.desk.athletes[0].id)

    def test_what_is_no_film_is_refused_in_words(self) -> None:
        self.keep()
        window = self.open()
        text = self.room / "shopping.mp4"
        text.write_text("eggs, chalk, tape\n" * 99)
        self.drop(window, text)
        self.until(window.notice.isVisible)
        self.assertIn("shopping.mp4 cannot be read as a film", self.shown(window.notice))
        self.assertEqual(window.desk.clips, [])

    def test_the_same_film_twice_is_one_clip(self) -> None:
        path = self.numbered_film()
        self.keep(path=path)
        window = self.open()
        copy = self.room / "copy.mp4"
        shutil.copy(path, copy)
        self.drop(window, copy)
        self.until(lambda: window.models.review.index is not None)
        self.assertEqual([clip.path.name for clip in window.desk.clips], ["copy.mp4"])


class TestMovedFilms(FilmCase):
    def test_a_moved_film_is_asked_for_and_known_again(self) -> None:
        path = self.numbered_film()
        self.keep(path=path)
        elsewhere = self.room / "albums"
        elsewhere.mkdir()
        moved = path.rename(elsewhere / "renamed.mp4")
        window = self.open()
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        self.assertIn("is not where it was", self.shown(window.notice))
        self.assertEqual(window.desk.station, "Film")
        with self.choosing(moved):
            self.click(window.notice, "Find the film")
            self.until(lambda: window.models.review.index is not None)
        self.assertEqual(window.desk.clips[0].path, moved)
        self.assertEqual(window.desk.station, "Review")

    def test_another_film_in_its_place_is_not_taken(self) -> None:
        path = self.numbered_film()
        self.keep(path=path)
        path.unlink()
        other = self.numbered_film("other.mp4", 40)
        window = self.open()
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        with self.choosing(other):
            self.click(window.notice, "Find the film")
            self.until(lambda: "another film" in self.shown(window.notice))
        self.assertEqual(window.desk.clips[0].path, path)

    def test_leaving_the_question_open_changes_nothing(self) -> None:
        path = self.numbered_film()
        self.keep(path=path)
        path.unlink()
        window = self.open()
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        with self.choosing(None):
            self.click(window.notice, "Find the film")
        self.assertEqual(window.desk.clips[0].path, path)

    def test_a_film_that_is_cut_short_while_kept_says_so(self) -> None:
        path = self.numbered_film()
        self.keep(path=path)
        path.write_bytes(path.read_bytes()[:500])
        window = self.open()
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        self.until(window.notice.isVisible)
        self.assertIn("cannot be read as a film", self.shown(window.notice))


class TestTwoClips(FilmCase):
    def test_opening_another_clip_leaves_nothing_of_the_first(self) -> None:
        known = film("hang")
        first = self.keep(known, lift="hang power clean", name="Ann Bell")
        second = self.keep(path=self.numbered_film(), name="Cal Dorn")
        window = self.open()
        for number, frames in (
            (first, len(known.bar_px)),
            (second, 90),
            (first, len(known.bar_px)),
        ):
            window.desk.open_clip(number)
            self.until(
                lambda: (
                    window.models.review.index is not None
                    and not window.models.review._frames.waiting
                )
            )
            self.settle()
            assert window.models.review.index is not None
            self.assertEqual(len(window.models.review.index), frames)
            self.assertIsNone(window.models.review.answer)
            self.assertEqual(window.models.review.frame, 0)


if __name__ == "__main__":
    unittest.main()
