"""Clips from a folder or the inbox: read, looked through in the background, confirmed, reviewed."""

import shutil
import time
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

import av
from PyQt6.QtCore import QMimeData, QPoint, Qt, QUrl
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from keen_kettle.desk.state.intake.inbox import Inbox
from keen_kettle.desk.window.frame import Window
from keen_kettle.desk.work.tasks import Looked, LookThrough
from keen_kettle.desk.work.worker_process import WorkerProcess
from keen_kettle.store import Clip, Shelf, database_file
from tests.desk.base import TODAY, DeskCase
from tests.films import film, tracked


def copy_as(source: Path, target: Path) -> None:
    """The same pictures as another film: its name is written into it, so its content differs."""
    with av.open(str(source)) as old, av.open(str(target), "w") as new:
        stream = new.add_stream_from_template(old.streams.video[0])
        new.metadata["comment"] = target.name
        for packet in old.demux(video=0):
            if packet.dts is not None:
                packet.stream = stream
                new.mux(packet)


class QueueCase(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.films = self.room / "films"
        self.films.mkdir()

    def clip(self, window: Window, name: str) -> Clip:
        return next(one for one in window.desk.clips if one.path.name.startswith(name))

    def choosing_folder(self, folder: Path) -> "mock._patch[mock.MagicMock]":
        return mock.patch.object(QFileDialog, "getExistingDirectory", return_value=str(folder))

    def add_folder(self, window: Window) -> None:
        with self.choosing_folder(self.films):
            self.press(window, "Ctrl+Shift+O")
        self.until(lambda: not window.models.queue.is_reading, 20, "the folder was not read")
        self.settle()

    def looking(self, found: object = None, pause_s: float = 0.0) -> "mock._patch[mock.MagicMock]":
        """The background answers at once (or after a while, still asking whether to stop)."""

        def ask(_self: WorkerProcess, task: LookThrough, tell: object, stopped: object) -> object:
            from keen_kettle.core.analysis import Answer, Study, assess
            from keen_kettle.core.content import load_content
            from keen_kettle.core.errors import Cancelled

            end = time.monotonic() + pause_s
            while time.monotonic() < end or _self._held:
                tell(0.5)  # type: ignore[operator]
                if stopped():  # type: ignore[operator]
                    raise Cancelled("Stopped.")
                time.sleep(0.01)
            if isinstance(found, Exception):
                raise found
            marks = (film("brief").mark(),)
            study = Study(marks, tracked("brief"), None, "left out")
            settings = replace(task.settings, marks=marks, facing="right")
            answer = assess(study.track, settings, load_content())
            return Looked(study, settings, Answer(None, answer))

        return mock.patch.object(WorkerProcess, "ask", ask)


class TestQueue(QueueCase):
    def test_a_folder_is_really_looked_through_confirmed_by_a_key_and_reviewed(self) -> None:
        self.keep()
        copy_as(film("brief").path, self.films / "wil dane clean 60kg.mp4")
        (self.films / "notes.txt").write_text("no film")
        window = self.open()
        window.desk.go_to("Film")
        self.add_folder(window)
        clip = self.clip(window, "wil dane")
        self.assertEqual((clip.waits, clip.background, clip.lift), ("confirm", "due", "clean"))
        self.until(lambda: window.models.queue.running is not None)
        self.until(lambda: window.models.queue.share > 0, 90, "it tells no progress")
        self.assertIn("Measuring", window.stations.film.widget.bar.words.text())
        self.until(lambda: not window.models.queue.busy, 180, "the clip was not looked through")
        clip = self.clip(window, "wil dane")
        self.assertEqual((clip.background, clip.trouble), ("done", ""))
        self.assertTrue(clip.tracked)
        self.assertEqual(clip.facing, film("brief").truth["facing"])
        self.assertIsNotNone(window.desk.shelf.sightings(clip))
        self.assertTrue(window.stations.film.widget.whose.isVisible())
        self.assertEqual(window.stations.film.widget.whose.athlete.currentText(), "Wil Dane")
        self.assertIn("from the name", self.shown(window.stations.film.widget.whose))
        self.press(window, "A")
        self.assertEqual(self.clip(window, "wil dane").waits, "review")
        self.assertIn("measured, not seen", window.stations.film.widget.model.index(0).data())
        QTest.mouseClick(window.stations.film.widget.open, Qt.MouseButton.LeftButton)
        self.until(lambda: window.models.review.answer is not None, 30)
        trips = window.models.review.answers.trips
        self.assertEqual(trips, 0, "what the queue has made is shown, not made again")
        self.until(lambda: self.clip(window, "wil dane").waits == "")
        self.settle()
        self.assertIn("reviewed", window.stations.film.widget.model.index(0).data())

    def test_films_that_come_while_others_are_read_are_read_after_them(self) -> None:
        self.keep()
        copy_as(film("brief").path, self.films / "wil dane clean.mp4")
        copy_as(film("hang").path, self.films / "hang.mp4")
        window = self.open()
        queue = window.models.queue
        if not queue.paused:
            queue.switch_pause()
        queue.take_in([self.films / "wil dane clean.mp4"])
        queue.take_in([self.films / "hang.mp4"], at_once=True)
        self.until(lambda: window.models.review.index is not None)
        names = {one.path.name: (one.waits, one.background) for one in window.desk.clips}
        self.assertEqual(names["wil dane clean.mp4"], ("confirm", "due"))
        self.assertEqual(names["hang.mp4"], ("review", ""), "it is in the coach's own hands")
        assert window.models.review.clip is not None
        self.assertEqual(window.models.review.clip.path.name, "hang.mp4")

    def test_what_was_seen_wins_over_the_name_and_the_coach_over_both(self) -> None:
        self.keep()
        copy_as(film("brief").path, self.films / "IMG_0001.mp4")
        with self.looking():
            window = self.open()
            window.desk.go_to("Film")
            self.add_folder(window)
            self.until(lambda: not window.models.queue.busy, 30)
        whose = window.stations.film.widget.whose
        self.assertFalse(whose.right.isEnabled(), "nobody was guessed yet")
        whose.athlete.setCurrentText("Wil Dane")
        whose.athlete.activated.emit(whose.athlete.currentIndex())
        whose.lift.setCurrentText("power clean")
        whose.lift.textActivated.emit("power clean")
        self.settle()
        self.assertIn("set by you", self.shown(whose))
        QTest.mouseClick(whose.right, Qt.MouseButton.LeftButton)
        clip = self.clip(window, "IMG")
        self.assertEqual((clip.waits, clip.lift), ("review", "power clean"))
        window.actions_by_id["undo"].trigger()
        self.assertEqual(self.clip(window, "IMG").waits, "confirm")

    def test_no_plate_is_said_on_the_clip_and_it_can_be_tried_again(self) -> None:
        from keen_kettle.core.errors import MarkError

        self.keep()
        copy_as(film("brief").path, self.films / "wil dane snatch.mp4")
        with self.looking(MarkError("No plate was found that moves in this clip.")):
            window = self.open()
            window.desk.go_to("Film")
            self.add_folder(window)
            self.until(lambda: not window.models.queue.busy, 30)
        clip = self.clip(window, "wil dane")
        self.assertEqual(clip.background, "failed")
        self.assertIn("No plate was found", clip.trouble)
        window.stations.film.widget.confirm()
        self.settle()
        self.assertIn("not measured", window.stations.film.widget.model.index(0).data())
        self.assertIn("Not measured: No plate was found", self.shown(window.stations.film.widget))
        with self.looking():
            self.click(window.stations.film.widget, "Try to measure it again")
            self.until(lambda: not window.models.queue.busy, 30)
        self.assertTrue(self.clip(window, "wil dane").tracked)

    def test_the_queue_rests_goes_on_and_is_stopped_and_nothing_is_lost(self) -> None:
        self.keep()
        for name in ("a", "b", "c"):
            copy_as(film("brief").path, self.films / f"{name} clean.mp4")
        with self.looking(pause_s=1.0):
            window = self.open()
            window.desk.go_to("Film")
            self.add_folder(window)
            self.until(lambda: window.models.queue.running is not None)
            self.press(window, "Ctrl+P")
            self.assertIn("Resting: 3 clips", window.stations.film.widget.bar.words.text())
            self.settle(1.4)
            self.assertEqual(len(window.models.queue.due), 3)
            self.click(window.stations.film.widget.bar, "Go on")
            self.until(lambda: len(window.models.queue.due) == 2, 20)
            place = window.stations.film.widget.open.mapTo(window, QPoint(0, 0))
            self.click(window.stations.film.widget.bar, "Stop")
            self.until(lambda: window.models.queue.running is None)
            self.settle()
            self.assertFalse(window.stations.film.widget.bar.isVisible())
            self.assertEqual(
                window.stations.film.widget.open.mapTo(window, QPoint(0, 0)), place, "it stays put"
            )
            self.assertFalse(window.models.queue.busy)
            self.assertEqual(len(window.desk.clips), 3)
            self.assertEqual(sum(clip.tracked for clip in window.desk.clips), 1)
            window.actions_by_id["undo"].trigger()
            self.until(lambda: not window.models.queue.busy, 30)
        self.assertTrue(all(clip.tracked for clip in window.desk.clips))

    def test_a_closed_window_goes_on_where_it_was_at_the_next_start(self) -> None:
        self.keep()
        copy_as(film("brief").path, self.films / "wil dane clean.mp4")
        with self.looking(pause_s=60):
            window = self.open()
            window.desk.go_to("Film")
            self.add_folder(window)
            self.until(lambda: window.models.queue.running is not None)
            window.close()
        with self.looking():
            again = self.open()
            self.until(lambda: self.clip(again, "wil dane").tracked, 30)

    def test_work_by_hand_meanwhile_is_not_overwritten(self) -> None:
        self.keep()
        copy_as(film("brief").path, self.films / "wil dane clean.mp4")
        with self.looking(pause_s=1.0):
            window = self.open()
            window.desk.go_to("Film")
            self.add_folder(window)
            self.until(lambda: window.models.queue.running is not None)
            clip = self.clip(window, "wil dane")
            mine = film("brief").mark(3)
            window.desk.shelf.change_clip(clip.id, marks=(mine,))
            self.until(lambda: window.models.queue.running is None, 30)
            window.models.queue.cancel()
        self.assertEqual(self.clip(window, "wil dane").marks, (mine,))

    def test_known_and_broken_films_are_told_in_words(self) -> None:
        self.keep(film("brief"))
        shutil.copy(film("brief").path, self.films / "again.mp4")
        (self.films / "broken.mp4").write_bytes(b"nothing of a film")
        window = self.open()
        window.desk.go_to("Film")
        self.add_folder(window)
        self.assertEqual(len(window.desk.clips), 1)
        self.assertIn("broken.mp4 cannot be read", self.shown(window.notice))
        self.assertIn("stayed where it is", self.shown(window.notice))
        status = window.statusBar()
        assert status is not None
        self.assertIn("1 known already", status.currentMessage())

    def test_a_folder_without_films_says_so(self) -> None:
        self.keep()
        window = self.open()
        window.desk.go_to("Film")
        self.add_folder(window)
        status = window.statusBar()
        assert status is not None
        self.assertIn("no film in this folder", status.currentMessage())

    def test_several_dropped_films_go_into_the_queue(self) -> None:
        self.keep()
        paths = [self.films / "a.mp4", self.films / "b.mp4"]
        for path in paths:
            copy_as(film("brief").path, path)
        with self.looking():
            window = self.open()
            mime = QMimeData()
            mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
            window.files.dropped(mime)
            self.until(lambda: len(window.desk.clips) == 2 and not window.models.queue.busy, 30)
        self.assertEqual({clip.waits for clip in window.desk.clips}, {"confirm"})

    def test_filters_narrow_by_state_lift_and_day(self) -> None:
        self.keep(film("brief"))
        self.keep(film("hang"), lift="snatch", name="Ora Linde")
        shelf = Shelf(database_file(self.folder))
        old = shelf.clips()[0]
        shelf.change_clip(old.id, filmed_on=date(2026, 11, 1), waits="")
        shelf.close()
        window = self.open()
        window.desk.go_to("Film")
        station = window.stations.film.widget
        count = station.shown.rowCount
        self.assertEqual(count(), 2)
        QTest.mouseClick(station.waiting, Qt.MouseButton.LeftButton)
        self.assertEqual(count(), 1)
        self.assertEqual(station.waiting.text(), "Waiting (1)")
        QTest.mouseClick(station.all, Qt.MouseButton.LeftButton)
        for box, row, wanted in ((station.family, 1, 1), (station.family, 0, 2)):
            box.setCurrentIndex(row)
            box.activated.emit(row)
            self.assertEqual(count(), wanted)
        station.days.setCurrentIndex(2)
        station.days.activated.emit(2)
        self.assertEqual(count(), 1)
        self.assertEqual(station._clip_in(0).filmed_on, TODAY)

    def test_the_next_waiting_clip_is_one_key_away_and_a_removed_one_comes_back(self) -> None:
        self.keep(film("brief"))
        self.keep(film("hang"), lift="snatch", name="Ora Linde")
        window = self.open()
        self.open_clip(window)
        first = window.models.review.clip
        assert first is not None
        self.press(window, "Q")
        self.until(
            lambda: (
                window.models.review.clip is not None and window.models.review.clip.id != first.id
            )
        )
        self.until(
            lambda: (
                window.models.review.index is not None and not window.models.review._frames.waiting
            )
        )
        window.desk.go_to("Film")
        chosen = window.stations.film.widget.chosen
        assert chosen is not None
        self.press(window, "Ctrl+Del")
        self.assertEqual(len(window.desk.clips), 1)
        window.actions_by_id["undo"].trigger()
        self.assertIn(chosen, window.desk.clips)

    def test_on_review_the_same_key_says_whose_it_is(self) -> None:
        self.keep(film("brief"))
        shelf = Shelf(database_file(self.folder))
        shelf.change_clip(shelf.clips()[0].id, waits="confirm")
        shelf.close()
        window = self.open()
        self.open_clip(window)
        self.assertIn("Is this Wil Dane, clean?", window.models.suggested.words)
        self.press(window, "A")
        self.assertEqual(window.desk.clips[0].waits, "review")


class TestInbox(QueueCase):
    def setUp(self) -> None:
        super().setUp()
        quick = mock.patch.multiple(Inbox, LOOK_MS=100, AGAIN_MS=60)
        quick.start()
        self.addCleanup(quick.stop)

    def watched(self) -> Window:
        self.keep()
        window = self.open()
        window.desk.go_to("Film")
        with self.choosing_folder(self.films):
            self.press(window, "Ctrl+Shift+I")
        self.assertIn(str(self.films), self.shown(window.stations.film.widget.entrance))
        return window

    def test_a_film_comes_in_once_it_is_whole_and_never_twice(self) -> None:
        copy_as(film("brief").path, self.room / "whole.mp4")
        whole = (self.room / "whole.mp4").read_bytes()
        with self.looking():
            window = self.watched()
            growing = self.films / "Wil Dane clean 55kg 2026-11-20.mp4"
            for share in (0.2, 0.4, 0.6, 0.8):
                growing.write_bytes(whole[: int(share * len(whole))])
                self.settle(0.04)
            growing.write_bytes(whole)
            self.until(lambda: window.desk.clips, 20, "it did not come in")
            self.until(lambda: not window.models.queue.busy, 90)
            clip = window.desk.clips[0]
            self.assertEqual((clip.lift, clip.mass_kg), ("clean", 55.0))
            self.assertEqual(clip.filmed_on, date(2026, 11, 20))
            self.assertEqual(clip.waits, "confirm")
            window.desk.remove_clip(clip)
            self.settle(0.6)
            self.assertEqual(window.desk.clips, [])
            window.close()
            again = self.open()
            self.settle(0.6)
            self.assertEqual(again.desk.clips, [], "what was taken once does not come back")
            self.assertEqual(again.models.inbox.folder, self.films)

    def test_a_folder_that_goes_away_is_said_and_found_again(self) -> None:
        window = self.watched()
        away = self.room / "away"
        self.films.rename(away)
        self.until(lambda: window.models.inbox.missing)
        self.assertIn("is not there now", self.shown(window.stations.film.widget.entrance))
        away.rename(self.films)
        self.until(lambda: not window.models.inbox.missing)
        self.click(window.stations.film.widget.entrance, "Watch no more")
        self.assertIsNone(window.models.inbox.folder)
        self.assertIn("of your choice", self.shown(window.stations.film.widget.entrance))
