"""Drawings measure what they are drawn on: closed forms, held spots, ghosts, a camera that moves."""

import re
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from keen_kettle.core.export.burn_drawings import burn_drawings, plain_letters
from keen_kettle.core.motion import BAR, Drawing, DrawnValue, Filmed, Shown, Spot, show_drawing
from keen_kettle.core.track import BarTrack, Rim, Scale, State
from keen_kettle.core.track.body import LANDMARKS, BodyTrack, PointState
from keen_kettle.core.units import change_words

FRAMES = 20
HIP, SHOULDER, KNEE = (LANDMARKS.index(name) for name in ("hip", "shoulder", "knee"))
SCALE = Scale(0.0025, 0.01, 450.0, True, 0.0)


def bar(x: float = 300.0, rise_px: float = 10.0) -> BarTrack:
    """A bar that rises straight up by so many pixels a frame."""
    y = np.linspace(400.0, 400.0 - rise_px * (FRAMES - 1), FRAMES)
    flat = np.full(FRAMES, x)
    return BarTrack(
        np.arange(FRAMES) / 50,
        flat,
        y,
        np.full(FRAMES, 90.0),
        np.ones(FRAMES),
        np.full(FRAMES, State.GOOD, np.uint8),
        Rim(x, 400.0, (90.0, 90.0), 0.0, True, 0.3, 1.0),
        flat.copy(),
        y.copy(),
        np.full(FRAMES, np.nan),
        30.0,
        np.zeros(0, np.int32),
    )


def body(tilt_from: float = 40.0, tilt_to: float = 80.0) -> BodyTrack:
    """A trunk of 100 px over a hip that stands still; it rises evenly from one tilt to another."""
    x = np.full((FRAMES, 9), 260.0)
    y = np.full((FRAMES, 9), 380.0)
    tilt = np.radians(np.linspace(tilt_from, tilt_to, FRAMES))
    x[:, SHOULDER] = x[:, HIP] + 100 * np.cos(tilt)
    y[:, SHOULDER] = y[:, HIP] - 100 * np.sin(tilt)
    shape = (FRAMES, 9)
    return BodyTrack(
        np.arange(FRAMES) / 50,
        x,
        y,
        np.full(shape, 2.0),
        np.ones(shape),
        np.full(shape, PointState.MEASURED, np.uint8),
        "right",
    )


def filmed() -> Filmed:
    t_s = np.arange(FRAMES) / 50
    return Filmed(t_s, t_s, "right", bar(), body(), SCALE)


def seen(drawing: Drawing, frame: int, film: Filmed | None = None) -> Shown:
    shown = show_drawing(drawing, frame, film or filmed())
    assert shown is not None
    return shown


def value(shown: Shown, what: str) -> DrawnValue:
    return next(one for one in shown.readings if one.what == what)


class TestValues(unittest.TestCase):
    @given(
        st.floats(-170, 170),
        st.floats(20, 300),
        st.sampled_from(["right", "left"]),
    )
    def test_a_line_has_its_tilt_and_its_length(
        self, degrees: float, long_px: float, facing: str
    ) -> None:
        turn = np.radians(degrees)
        end = Spot(3, 200 + long_px * np.cos(turn), 200 - long_px * np.sin(turn))
        film = replace(filmed(), facing=facing)
        shown = seen(Drawing("line", (Spot(3, 200, 200), end)), 3, film)
        self.assertAlmostEqual(value(shown, "length").value, long_px * SCALE.m_per_px, places=6)
        forward = degrees if facing == "right" else 180 - degrees
        # A line has no direction: its tilt is read from its lower end, 0 to 180 degrees.
        apart = (value(shown, "tilt").value - forward) % 180
        self.assertAlmostEqual(min(apart, 180 - apart), 0, places=4)
        self.assertGreater(value(shown, "length").sigma, 0)

    @given(st.floats(1, 179), st.floats(30, 200), st.floats(30, 200), st.floats(0, 360))
    def test_an_angle_is_that_of_its_apex(
        self, degrees: float, one: float, two: float, turn: float
    ) -> None:
        a, b = np.radians(turn), np.radians(turn + degrees)
        spots = (
            Spot(0, 300 + one * np.cos(a), 300 + one * np.sin(a)),
            Spot(0, 300, 300),
            Spot(0, 300 + two * np.cos(b), 300 + two * np.sin(b)),
        )
        self.assertAlmostEqual(value(seen(Drawing("angle", spots), 0), "angle").value, degrees, 4)

    def test_a_plumb_line_from_the_shoulder_follows_it_and_reads_the_bar(self) -> None:
        drawing = Drawing("vertical", (Spot(2, 0, 0, "shoulder"),), "follows")
        film = filmed()
        for frame in (2, 10, 19):
            shown = seen(drawing, frame, film)
            assert shown.points is not None and film.body is not None
            shoulder = film.body.x_px[frame, SHOULDER]
            self.assertAlmostEqual(shown.points[0, 0], shoulder)
            wanted = (300.0 - shoulder) * SCALE.m_per_px
            self.assertAlmostEqual(value(shown, "bar forward").value, wanted)
        left = seen(drawing, 2, replace(film, facing="left"))
        self.assertAlmostEqual(
            value(left, "bar forward").value, -value(seen(drawing, 2), "bar forward").value
        )

    def test_a_level_line_through_the_bar_is_read_against_the_knee(self) -> None:
        drawing = Drawing("horizontal", (Spot(0, 0, 0, BAR),), "follows")
        reading = value(seen(drawing, 10), "knee up")
        self.assertAlmostEqual(reading.value, (300.0 - 380.0) * SCALE.m_per_px)

    def test_the_way_between_two_frames_has_time_and_distance(self) -> None:
        drawing = Drawing("between", (Spot(2, 300, 380, BAR), Spot(12, 300, 280, BAR)))
        for frame in (2, 12):
            shown = seen(drawing, frame)
            self.assertAlmostEqual(value(shown, "time").value, 0.2)
            self.assertAlmostEqual(value(shown, "up").value, 100 * SCALE.m_per_px)
            self.assertAlmostEqual(value(shown, "forward").value, 0)
        self.assertIsNone(show_drawing(drawing, 7, filmed()))

    def test_without_true_times_a_way_has_no_time(self) -> None:
        drawing = Drawing("between", (Spot(2, 0, 0, BAR), Spot(12, 0, 0, BAR)))
        shown = seen(drawing, 2, replace(filmed(), t_s=None))
        self.assertNotIn("time", [one.what for one in shown.readings])

    def test_lengths_are_in_what_is_known(self) -> None:
        drawing = Drawing("line", (Spot(0, 100, 100), Spot(0, 280, 100)))
        plates = seen(drawing, 0, replace(filmed(), scale=replace(SCALE, by="none")))
        self.assertEqual(value(plates, "length").unit, "diameters")
        self.assertAlmostEqual(value(plates, "length").value, 180 * 0.0025 / 0.45)
        plain = seen(drawing, 0, replace(filmed(), scale=None))
        self.assertEqual((value(plain, "length").value, value(plain, "length").unit), (180, "px"))


class TestElsewhere(unittest.TestCase):
    BACK = (Spot(0, 0, 0, "hip"), Spot(0, 0, 0, "shoulder"))

    def test_only_here(self) -> None:
        self.assertIsNone(show_drawing(Drawing("line", self.BACK), 5, filmed()))

    def test_a_ghost_of_the_back_lies_on_the_hip_and_keeps_its_tilt(self) -> None:
        film = filmed()
        shown = seen(Drawing("line", self.BACK, "ghost"), 19, film)
        assert shown.ghost is not None and shown.points is not None
        np.testing.assert_allclose(shown.ghost[0], shown.points[0])
        self.assertAlmostEqual(shown.then[0].value, 40.0)
        self.assertAlmostEqual(shown.readings[0].value, 80.0)
        way = shown.ghost[1] - shown.ghost[0]
        self.assertAlmostEqual(float(np.degrees(np.arctan2(-way[1], way[0]))), 40.0)

    def test_a_free_line_stays_in_the_hall_when_the_camera_moves(self) -> None:
        camera = np.column_stack([np.linspace(0, 38, FRAMES), np.zeros(FRAMES)])
        film = replace(filmed(), camera_px=camera)
        drawing = Drawing("line", (Spot(0, 100, 100), Spot(0, 150, 50)), "follows")
        shown = seen(drawing, 19, film)
        assert shown.points is not None
        np.testing.assert_allclose(shown.points, [[138, 100], [188, 50]])

    def test_a_hidden_landmark_leaves_nothing(self) -> None:
        film = filmed()
        assert film.body is not None
        film.body.state[8, SHOULDER] = PointState.HIDDEN
        drawing = Drawing("line", self.BACK, "follows")
        self.assertIsNone(show_drawing(drawing, 8, film))
        self.assertIsNotNone(show_drawing(drawing, 9, film))

    def test_a_note_is_pinned_to_its_time(self) -> None:
        drawing = Drawing("note", (Spot(4, 10, 10),), "", "elbows")
        long = replace(filmed(), film_s=np.arange(FRAMES) / 8.0)
        on = [frame for frame in range(FRAMES) if show_drawing(drawing, frame, long) is not None]
        self.assertEqual(on, list(range(4, 12)))


class TestBurn(unittest.TestCase):
    """Drawings in the pictures of an exported film."""

    def burnt(self, drawing: Drawing, frame: int) -> np.ndarray:
        picture = np.zeros((540, 640, 3), np.uint8)
        burn_drawings(picture, frame, (drawing,), replace(filmed(), film_s=np.arange(FRAMES) / 8.0))
        return picture

    def test_a_guide_crosses_the_picture_where_its_landmark_is(self) -> None:
        drawing = Drawing("vertical", (Spot(2, 0, 0, "shoulder"),), "follows")
        for frame in (2, 15):
            column = round(float(body().x_px[frame, SHOULDER]))
            self.assertTrue((self.burnt(drawing, frame)[:440, column].max(axis=1) > 100).all())
        self.assertFalse(self.burnt(replace(drawing, elsewhere=""), 15).any())

    def test_a_note_stands_at_the_foot_as_long_as_it_is_on_show(self) -> None:
        note = Drawing("note", (Spot(4, 10, 10),), "", "Elbows high, and a long sentence more " * 2)
        self.assertFalse(self.burnt(note, 3).any())
        picture = self.burnt(note, 6)
        self.assertTrue(picture[460:].any())
        self.assertFalse(picture[:300].any())
        self.assertFalse(self.burnt(note, 14).any())

    def test_letters_that_the_typeface_lacks_are_put_in_others(self) -> None:
        self.assertEqual(plain_letters("52 ± 2° · −3 cm"), "52 +/- 2 deg - -3 cm")
        self.assertTrue(plain_letters("Größe …").isascii())


class TestWords(unittest.TestCase):
    @given(st.floats(-179, 179), st.floats(-179, 179))
    def test_then_and_the_change_add_up_to_now_as_they_are_shown(self, a: float, b: float) -> None:
        then, now = (DrawnValue("tilt", value, 1.0, "deg") for value in (a, b))
        said = change_words([now], [then]).replace("−", "-")
        first, second, change = (int(part) for part in re.findall(r"[-+]?\d+", said))
        self.assertEqual(first + change, second, said)
