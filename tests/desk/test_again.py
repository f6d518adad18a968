"""A clip that was opened before: its answer is there at once, unless something has changed."""

import unittest
from dataclasses import replace

from keen_kettle.desk.window.frame import Window
from keen_kettle.store import Shelf, database_file
from tests.desk.base import DeskCase
from tests.films import film, tracked


class TestAgain(DeskCase):
    def two(self) -> Window:
        """Two measured clips, the first of which has been opened."""
        for name, lift in (("brief", "clean"), ("hang", "hang power clean")):
            self.keep(film(name), lift=lift, name=name)
        shelf = Shelf(database_file(self.folder))
        for clip in shelf.clips():
            name = "brief" if clip.lift == "clean" else "hang"
            marked = replace(clip, marks=(film(name).mark(),))
            shelf.change_clip(clip.id, marks=marked.marks)
            shelf.keep_track(marked, tracked(name))
        shelf.close()
        window = self.open()
        self.show(window, "clean")
        return window

    def show(self, window: Window, lift: str) -> None:
        clip = next(one for one in window.desk.clips if one.lift == lift)
        window.desk.open_clip(clip.id)
        review = window.models.review
        self.until(lambda: review.clip is not None and review.clip.id == clip.id)
        self.until(lambda: review.answer is not None and not window.desk.jobs.busy, 30)

    def opened_again(self, window: Window) -> object:
        """The first clip's answer at the moment at which its film is open."""
        review, seen = window.models.review, []
        review.tracking_changed.connect(lambda: seen.append(review.answer))
        clip = next(one for one in window.desk.clips if one.lift == "clean")
        window.desk.open_clip(clip.id)
        self.until(lambda: seen, what="the film did not open")
        return seen[0]

    def test_its_answer_is_there_as_soon_as_its_film(self) -> None:
        window = self.two()
        before, stood = window.models.review.answer, window.models.review.frame
        self.show(window, "hang power clean")
        self.assertIs(self.opened_again(window), before)
        self.settle()
        self.assertEqual(window.models.review.frame, stood, "at the chief finding")
        self.assertIn("Bar struck forward", self.shown(window.stations.review.widget.say))

    def test_what_has_changed_since_is_worked_out_anew(self) -> None:
        window = self.two()
        self.show(window, "hang power clean")
        clip = next(one for one in window.desk.clips if one.lift == "clean")
        window.desk.shelf.change_clip(clip.id, mass_kg=71.5)
        window.desk.reload()
        self.assertIsNone(self.opened_again(window))
        self.until(lambda: window.models.review.answer is not None, 30)

    def test_a_dragged_event_is_not_kept(self) -> None:
        window = self.two()
        review, rhythm = window.models.review, window.stations.review.widget.rhythm
        assert review.answer is not None
        frame = review.answer.events["lift_off"].frame
        rhythm._moves.move("lift_off", frame + 3)
        self.until(lambda: review.answer.events["lift_off"].frame == frame + 3)  # type: ignore[union-attr]
        self.show(window, "hang power clean")
        answer = self.opened_again(window)
        assert answer is not None
        self.assertEqual(answer.events["lift_off"].frame, frame)  # type: ignore[attr-defined]


if __name__ == "__main__":
    unittest.main()
