"""In which parts of a film the plate is looked for, and that it is found after a long talk."""

import unittest
from itertools import pairwise

import numpy as np

from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.errors import Cancelled
from keen_kettle.core.track import propose_plate
from keen_kettle.core.track.parts import LEAST_SHOT_S, PIECE_S, FilmPart, parts_of
from tests.core.test_track import Picture
from tests.films import film

FPS = 10


class Halls:
    """A film of still halls, each shown for so many seconds."""

    def __init__(self, *seconds: float) -> None:
        rng = np.random.default_rng(8)
        self.halls = [rng.integers(0, 255, (6, 9, 3), np.uint8) for _ in seconds]
        self.which = np.repeat(np.arange(len(seconds)), [round(FPS * one) for one in seconds])
        self.t_s = np.asarray(np.arange(len(self.which)) / FPS, np.float64)

    def bgr(self, number: int) -> Picture:
        hall: Picture = self.halls[self.which[number]]
        return hall.repeat(16, axis=0).repeat(16, axis=1)


def spans(parts: list[FilmPart]) -> list[tuple[int, int]]:
    return [(part.first, part.after) for part in parts]


class TestParts(unittest.TestCase):
    def parts(self, *seconds: float) -> list[list[tuple[int, int]]]:
        return [spans(parts) for parts in parts_of(Halls(*seconds), lambda: False)]

    def test_a_short_film_is_one_part(self) -> None:
        self.assertEqual(self.parts(5.0), [[(0, 50)], []])

    def test_where_it_tells_nothing_a_short_film_is_taken_shot_by_shot(self) -> None:
        parts = self.parts(2.0, 4.0, LEAST_SHOT_S / 2)
        self.assertEqual(parts, [[(0, 65)], [(0, 20), (20, 60)], []])

    def test_of_a_longer_one_the_shots_come_first(self) -> None:
        self.assertEqual(self.parts(3.0, 9.0), [[(0, 30), (30, 120)], []])

    def test_a_long_shot_is_looked_through_in_pieces_too_that_lie_over_one_another(self) -> None:
        (whole,), pieces = self.parts(30.0)
        self.assertEqual(whole, (0, 300))
        self.assertEqual((pieces[0][0], pieces[-1][1] >= 299), (0, True))
        for (_, after), (first, _) in pairwise(pieces):
            self.assertGreaterEqual(after - first, FPS)
        self.assertTrue(all(after - first <= PIECE_S * FPS + 1 for first, after in pieces))

    def test_it_can_be_stopped(self) -> None:
        with self.assertRaises(Cancelled):
            list(parts_of(Halls(9.0), lambda: True))


class Talk:
    """A film of a lift between two others of nothing, cut together."""

    def __init__(self, lift: ClipReader, before_s: float, after_s: float) -> None:
        self.lift, t_s = lift, lift.index.t_s
        step = float(np.median(np.diff(t_s)))
        self.before, after = round(before_s / step), round(after_s / step)
        self.t_s = np.asarray(step * np.arange(self.before + len(t_s) + after), np.float64)
        rng = np.random.default_rng(3)
        high, wide = lift.frame(0).bgr().shape[:2]
        self.hall = rng.integers(0, 255, (9, 16, 3), np.uint8).repeat(high // 9 + 1, axis=0)
        self.hall = np.ascontiguousarray(self.hall.repeat(wide // 16 + 1, axis=1)[:high, :wide])

    def bgr(self, number: int) -> Picture:
        inside = number - self.before
        if 0 <= inside < len(self.lift.index):
            return self.lift.frame(inside).bgr()
        picture = self.hall.copy()
        across = 20 + number % 60
        picture[40:90, across : across + 30] = 200
        return picture


class TestTalk(unittest.TestCase):
    def test_the_plate_is_proposed_in_the_shot_that_shows_the_lift(self) -> None:
        known = film("brief")
        with ClipReader(read_index(known.path)) as reader:
            talk = Talk(reader, 5.5, 3.0)
            mark = propose_plate(talk)
        assert mark is not None
        inside = mark.frame - talk.before
        self.assertTrue(0 <= inside < len(known.bar_px), mark)
        x, y = known.bar_px[inside]
        radius = float(known.truth["plate_radius_px"])
        self.assertLess(np.hypot(mark.x_px - x, mark.y_px - y), 0.15 * radius)
