"""Films that are larger than is needed: looked at in smaller pictures, told of in their own pixels."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import AheadPictures, ReaderPictures
from keen_kettle.core.clip import ClipReader, read_index, set_rotation, write_clip
from keen_kettle.core.track import PlateMark, State, marked_rim, pictures, propose_plate, track_bar
from keen_kettle.core.track.body import BodySeed, FollowedBar, find_body
from keen_kettle.core.track.body.net import JOINTS, Crop, Sighting
from keen_kettle.core.track.pictures import (
    Pictures,
    in_large,
    in_small,
    made_smaller,
    times_too_large,
)
from tests.core.test_track import Slides, disc
from tests.films import film

Picture = NDArray[np.uint8]

BY, COUNT = 2, 24
HEIGHTS = 170 - 75 * np.clip((np.arange(COUNT) - 4) / 18, 0, 1)
MARK = PlateMark(0, 161.0, 169.0, 31.0)


def small(number: int) -> Picture:
    """A plate that rises, in pictures of 320 by 240 pixels."""
    return disc(160, float(HEIGHTS[number]), 30, seed=number)


class Larger:
    """A film with each pixel four times."""

    def __init__(self, film: Pictures) -> None:
        self.film, self.t_s = film, film.t_s

    def bgr(self, number: int) -> Picture:
        return np.asarray(np.kron(self.film.bgr(number), np.ones((BY, BY, 1))), np.uint8)


def as_if_large() -> "mock._patch[int]":
    return mock.patch.object(pictures, "LONGEST_PX", 320)


class TestPlaces(unittest.TestCase):
    def test_places_lead_there_and_back_and_pixels_to_their_own_middle(self) -> None:
        for by in (1, 2, 3):
            x = np.array([0.0, 17.25, 300.0])
            np.testing.assert_allclose(in_small(in_large(x, by), by), x)
            picture = np.zeros((12, 12, 3), np.uint8)
            picture[by * 2 : by * 3, by : 2 * by] = 240
            shrunk = made_smaller(picture, by)
            row, column = np.argwhere(shrunk[..., 0] == 240)[0]
            large_place = np.argwhere(picture[..., 0] == 240).mean(axis=0)
            np.testing.assert_allclose(in_large(float(row), by), large_place[0])
            np.testing.assert_allclose(in_large(float(column), by), large_place[1])

    def test_only_what_is_larger_than_is_needed_is_made_smaller(self) -> None:
        for high, wide, by in ((1080, 1920, 1), (1920, 1080, 1), (2160, 3840, 2), (4320, 7680, 4)):
            self.assertEqual(times_too_large(np.zeros((high, wide, 3), np.uint8)), by)
        picture = small(0)
        self.assertIs(made_smaller(picture, 1), picture)


class TestFollowing(unittest.TestCase):
    """All is as in the small film, and told in the large one's pixels."""

    def setUp(self) -> None:
        self.film = Slides([small(number) for number in range(COUNT)])
        self.large = Larger(self.film)

    def test_the_path(self) -> None:
        told: dict[int, tuple[float, float]] = {}

        def add(number: int, x: float, y: float, _state: State) -> None:
            told.setdefault(number, (x, y))

        alone = track_bar(self.film, [MARK])
        with as_if_large():
            track = track_bar(self.large, [MARK.larger(BY)], found=add)
        for name in ("x_px", "y_px", "still_x_px", "still_y_px"):
            np.testing.assert_allclose(getattr(track, name), in_large(getattr(alone, name), BY))
        np.testing.assert_allclose(track.r_px, BY * alone.r_px)
        np.testing.assert_array_equal(track.state, alone.state)
        self.assertGreater(track.share(State.GOOD), 0.8)
        self.assertEqual(track.rim, alone.rim.larger(BY))
        self.assertLess(np.hypot(told[20][0] - track.x_px[20], told[20][1] - track.y_px[20]), 2.0)

    def test_the_rim_of_a_mark(self) -> None:
        alone = marked_rim(self.film.bgr(0), MARK)
        self.assertTrue(alone.found)
        with as_if_large():
            self.assertEqual(marked_rim(self.large.bgr(0), MARK.larger(BY)), alone.larger(BY))

    def test_a_proposal(self) -> None:
        with ClipReader(read_index(film("hang").path)) as reader:
            known = ReaderPictures(reader)
            alone, longest = propose_plate(known), max(known.bgr(0).shape)
            with mock.patch.object(pictures, "LONGEST_PX", longest):
                proposed = propose_plate(Larger(known))
        assert alone is not None
        self.assertEqual(proposed, alone.larger(BY))


class Somebody:
    """A net that sees one and the same body in every picture, at places of the picture that it is shown."""

    def __init__(self) -> None:
        self.sizes: set[tuple[int, ...]] = set()

    def people(self, picture: Picture) -> list[tuple[float, Crop]]:
        return [(0.9, Crop(160.0, 120.0, 160.0))]

    def look(self, picture: Picture, crop: Crop) -> Sighting:
        self.sizes.add(picture.shape[:2])
        points = np.tile(np.array([160.0, 120.0]), (39, 1))
        points[list(JOINTS["shoulder"]), 1] = 80.0
        points[list(JOINTS["ear"]), 1] = 64.0
        return Sighting(points, np.ones(39), np.ones(39), 1.0)


class TestBody(unittest.TestCase):
    def test_the_lifter_is_told_in_the_films_own_pixels(self) -> None:
        hall, net = Slides([small(number) for number in range(6)]), Somebody()
        bar = FollowedBar(np.tile(np.array([165.0, 125.0]), (6, 1)))
        seed = BodySeed(2, 320.5, 240.5, 320.5, 160.5)
        alone = find_body(hall, Somebody(), bar, [seed.smaller(BY)])
        with as_if_large():
            grown = FollowedBar(in_large(bar.px, BY))
            seen = find_body(Larger(hall), net, grown, [seed])
        self.assertEqual(net.sizes, {(240, 320)})
        self.assertTrue(alone.found.any())
        np.testing.assert_allclose(seen.points, alone.larger(BY).points)
        hips = seen.points[seen.found][:, :, 4]
        np.testing.assert_allclose(hips, np.broadcast_to([320.5, 240.5], hips.shape))

    def test_all_lengths_grow(self) -> None:
        bar = FollowedBar(np.ones((3, 2)), 40.0, np.full((3, 2), 8.0))
        less = bar.smaller(BY)
        np.testing.assert_allclose(less.px, in_small(bar.px, BY))
        self.assertEqual(less.radius_px, 20.0)
        assert less.camera_px is not None
        np.testing.assert_allclose(less.camera_px, 4.0)
        seen = find_body(Slides([small(0)]), Somebody())
        moves = np.ones((1, 5, 2, 3), np.float32)
        more = replace(seen, heel_px=np.ones(1, np.float32), moves=moves).larger(BY)
        assert more.heel_px is not None and more.moves is not None
        np.testing.assert_allclose(more.heel_px, BY)
        np.testing.assert_allclose(more.moves, np.array([1, BY, BY]) * moves)


class TestReading(unittest.TestCase):
    def test_a_reader_makes_them_smaller_as_they_would_be(self) -> None:
        with tempfile.TemporaryDirectory() as room:
            path, larger = Path(room) / "large.mp4", Larger(Slides([small(k) for k in range(6)]))
            write_clip(path, ((k / 30, larger.bgr(k)) for k in range(6)), 30.0)
            set_rotation(path, 90)
            with ClipReader(read_index(path)) as reader, AheadPictures(reader) as ahead:
                for number in (0, 1, 2, 5):
                    whole = ahead.bgr(number)
                    made = ahead.smaller(number, BY)
                    self.assertEqual(made.shape, (320, 240, 3))
                    off = np.abs(made.astype(int) - made_smaller(whole, BY))
                    self.assertLess(float(off.mean()), 2.0)
                odd = ReaderPictures(reader).smaller(0, 7)
                self.assertEqual(odd.shape, (640 // 7, 480 // 7, 3))


if __name__ == "__main__":
    unittest.main()
