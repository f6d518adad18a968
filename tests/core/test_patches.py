"""Patches of the picture: the heel that comes up, and parts of the body carried from look to look."""

import io
import unittest
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.errors import Cancelled
from keen_kettle.core.track.body import LANDMARKS, BodyHand, PointState, Sightings, solve_body
from keen_kettle.core.track.body.carry import Carried, carry
from keen_kettle.core.track.body.flow import Looks
from keen_kettle.core.track.body.heel import heel_rise_px
from keen_kettle.core.track.body.landmarks import CARRIED
from keen_kettle.store.clip_rows import pack_sightings, unpack_sightings
from tests.core.test_body import CAMERA, Lifted, seen_as

Floats = NDArray[np.float64]
Picture = NDArray[np.uint8]

HIGH, WIDE, LOOKS = 420, 400, 24
BODY, PLATE = 300.0, 60.0
TOE, HEEL, ANKLE = (230.0, 380.0), (170.0, 380.0), (185.0, 355.0)
BALL_X = 230.0 - 0.25 * 60


def texture(high: int, wide: int, seed: int, bright: float) -> Picture:
    """Grey spots a few pixels wide, as cloth, skin and floor have them."""
    noise = np.random.default_rng(seed).normal(size=(high, wide)).astype(np.float32)
    spots = cv2.GaussianBlur(noise, (0, 0), 2.0)
    return np.asarray(bright + 25 * spots / spots.std()).clip(0, 255).astype(np.uint8)


class Feet:
    """A foot on a floor that turns about its ball; the plate is before it while the bar is low."""

    knows_camera = False
    floor = texture(HIGH, WIDE, 1, 90)
    foot = texture(HIGH, WIDE, 2, 170)

    def __init__(self, rise_px: Floats, shake_px: float = 0.0) -> None:
        self.rise = rise_px
        self.shake = shake_px * np.random.default_rng(3).normal(size=(LOOKS, 2))
        share = np.clip((np.arange(LOOKS) - 2) / 18, 0, 1)
        self.bar = np.column_stack([np.full(LOOKS, 205.0), 330.0 - 250 * share])

    def bgr(self, number: int) -> Picture:
        mask = np.zeros((HIGH, WIDE), np.uint8)
        shape = np.array([[168, 383], [168, 350], [195, 345], [234, 372], [234, 383]])
        cv2.fillPoly(mask, [shape], 255)
        turn = np.degrees(np.arcsin(self.rise[number] / (BALL_X - HEEL[0])))
        how = cv2.getRotationMatrix2D((BALL_X, 383.0), -turn, 1.0)
        over = cv2.warpAffine(mask, how, (WIDE, HIGH)) > 128
        picture = np.where(over, cv2.warpAffine(self.foot, how, (WIDE, HIGH)), self.floor)
        picture = np.ascontiguousarray(picture)
        x, y = self.bar[number]
        cv2.circle(picture, (int(x), int(y)), int(PLATE), 40, -1)
        move = np.hstack([np.eye(2), self.shake[number][:, None]])
        moved = cv2.warpAffine(picture, move, (WIDE, HIGH), borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(cv2.cvtColor(moved, cv2.COLOR_GRAY2BGR))

    def watched(self, feet: Floats | None = None, **more: object) -> Floats:
        if feet is None:
            feet = np.tile(np.array([TOE, HEEL, ANKLE]), (LOOKS, 1, 1)) + self.shake[:, None]
        looks = np.arange(LOOKS, dtype=np.int32)
        film = Looks(self, looks, self.bar, PLATE, BODY, self.shake if self.knows_camera else None)
        return heel_rise_px(film, feet, **more)  # type: ignore[arg-type]


def coming_up(most: float) -> Floats:
    return most * np.clip((np.arange(LOOKS) - 12) / 6, 0, 1)


class CaptionedFeet(Feet):
    """The same from a hand that sinks, with a caption over the floor that does not go along."""

    caption = texture(60, WIDE, 9, 200)

    def __init__(self, rise_px: Floats) -> None:
        super().__init__(rise_px)
        self.shake = np.outer(np.linspace(0, 1, LOOKS), [0.0, -14.0])

    def bgr(self, number: int) -> Picture:
        picture = super().bgr(number)
        for part in (slice(0, 150), slice(250, WIDE)):
            picture[HIGH - 60 :, part] = self.caption[:, part, None]
        return picture


class SoftFeet(Feet):
    """A white shoe with little on it, in a film out of focus; the plate goes away from it slowly."""

    foot = np.asarray(215 + 0.15 * (Feet.foot.astype(float) - 170)).astype(np.uint8)

    def __init__(self) -> None:
        super().__init__(coming_up(18.0))
        looks = np.arange(LOOKS)
        up = 80 * np.clip((looks - 2) / 18, 0, 1) + 170 * np.clip((looks - 11) / 9, 0, 1)
        self.bar = np.column_stack([np.full(LOOKS, 185.0), 330 - up])

    def bgr(self, number: int) -> Picture:
        return np.asarray(cv2.GaussianBlur(super().bgr(number), (0, 0), 4))


class TestHeel(unittest.TestCase):
    def test_a_plates_soft_edge_drags_no_heel_up(self) -> None:
        seen = SoftFeet().watched()
        self.assertLess(np.nanmax(seen[:13]), 0.003 * BODY)
        self.assertGreater(seen[18], 0.6 * 18)

    def test_looks_in_which_the_foot_is_not_seen_tell_nothing_of_where_it_stood(self) -> None:
        film = Feet(coming_up(18.0))
        feet = np.tile(np.array([TOE, HEEL, ANKLE]), (LOOKS, 1, 1))
        feet[12:] = np.nan
        np.testing.assert_allclose(film.watched(feet), film.watched(), atol=1e-6)

    def test_a_caption_over_the_floor_of_a_moving_camera_lifts_no_heel(self) -> None:
        for rise, comes_up in ((0.0, False), (18.0, True)):
            film = CaptionedFeet(coming_up(rise))
            film.knows_camera = True
            seen = np.nan_to_num(film.watched())
            self.assertEqual(bool((seen > 0.012 * BODY).any()), comes_up)
            if comes_up:
                self.assertLessEqual(abs(int(np.argmax(seen > 0.012 * BODY)) - 14), 2)

    def test_it_is_seen_to_come_up_when_and_as_far_as_it_does(self) -> None:
        for shake in (0.0, 1.5):
            film = Feet(coming_up(18.0), shake)
            seen = film.watched()
            known = np.isfinite(seen)
            self.assertFalse(known[:3].any(), "the plate is before the foot")
            self.assertTrue(known[8:21].all())
            self.assertGreater(seen[20], 0.65 * film.rise[20])
            self.assertLess(seen[20], 1.1 * film.rise[20])
            leaves = [
                int(np.argmax(np.nan_to_num(way) > 0.012 * BODY)) for way in (seen, film.rise)
            ]
            self.assertLessEqual(abs(leaves[0] - leaves[1]), 1)

    def test_it_is_watched_until_the_bar_has_lost_its_speed_however_long_that_goes_on_up(
        self,
    ) -> None:
        film = Feet(18.0 * np.clip((np.arange(LOOKS) - 9) / 4, 0, 1))
        share = np.interp(np.arange(LOOKS), [2, 13, LOOKS - 1], [0, 1, 1.1])
        film.bar[:, 1] = 330.0 - 230 * share
        seen = film.watched()
        self.assertGreater(seen[13], 0.65 * film.rise[13])
        self.assertFalse(np.isfinite(seen[18:]).any(), "the lifter may stand elsewhere by then")

    def test_one_that_stays_down_is_not_said_to_have_come_up(self) -> None:
        seen = Feet(coming_up(0.0), 1.5).watched()
        self.assertFalse((np.nan_to_num(seen) > 0.012 * BODY).any())

    def test_a_plate_that_passes_the_foot_is_no_heel(self) -> None:
        film = Feet(coming_up(0.0))
        film.bar[:, 0] = 175.0
        self.assertFalse((np.nan_to_num(film.watched()) > 0.012 * BODY).any())

    def test_without_a_lift_it_is_not_watched_and_it_can_be_stopped(self) -> None:
        film = Feet(coming_up(18.0))
        with self.assertRaises(Cancelled):
            film.watched(cancelled=lambda: True)
        film.bar[:, 1] = 330.0
        self.assertFalse(np.isfinite(film.watched()).any())


class Walker:
    """A textured figure before an even wall goes by (2, -3) pixels a look."""

    STEP = np.array([2.0, -3.0])
    cloth = texture(HIGH, WIDE, 4, 150)

    def __init__(self, plain: bool = False) -> None:
        self.plain = plain
        self.presence = np.ones((6, len(LANDMARKS)))
        at = dict(zip(LANDMARKS, np.zeros((9, 2)), strict=True)) | {
            "toe": (215, 390),
            "heel": (170, 390),
            "ankle": (185, 370),
            "knee": (205, 280),
            "hip": (180, 190),
            "shoulder": (195, 90),
            "elbow": (225, 150),
            "wrist": (240, 200),
            "ear": (205, 50),
        }
        self.points = np.array([at[name] for name in LANDMARKS], float) + self.STEP * np.arange(6)[
            :, None, None
        ].astype(float)

    def bgr(self, number: int) -> Picture:
        mask = np.zeros((HIGH, WIDE), np.uint8)
        for pair in CARRIED:
            a, b = (self.points[0, LANDMARKS.index(name)].astype(int) for name in pair)
            cv2.line(mask, (int(a[0]), int(a[1])), (int(b[0]), int(b[1])), 255, 36)
        cloth = np.full_like(self.cloth, 120) if self.plain else self.cloth
        figure = np.where(mask > 0, cloth, 90).astype(np.uint8)
        move = np.hstack([np.eye(2), (number * self.STEP)[:, None]])
        moved = cv2.warpAffine(figure, move, (WIDE, HIGH), borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(cv2.cvtColor(moved, cv2.COLOR_GRAY2BGR))

    def carried(self, bar: tuple[float, float] = (900.0, 900.0), **more: object) -> Carried:
        looks = np.arange(6, dtype=np.int32)
        bars = np.tile(bar, (6, 1))
        film = Looks(self, looks, bars, 60.0, BODY)
        return carry(film, self.points, self.presence, 3, **more)  # type: ignore[arg-type]

    def moves(self, bar: tuple[float, float] = (900.0, 900.0)) -> Floats:
        return self.carried(bar).moves


class Poster(Walker):
    """The patches stand; whom the model sees leaps away from them in look 5, and goes on from there."""

    STEP = np.zeros(2)
    COUNT = 20

    def __init__(self, leaps_again: bool) -> None:
        super().__init__()
        away = np.maximum(np.arange(self.COUNT) - 5, 0) * 6.0 + 50 * (np.arange(self.COUNT) >= 5)
        away[9:] += 60.0 * leaps_again
        self.points = self.points[0] + np.column_stack([away, 0 * away])[:, None]
        self.presence = np.ones(self.points.shape[:2])

    def carried_on(self) -> Carried:
        looks = np.arange(self.COUNT, dtype=np.int32)
        film = Looks(self, looks, np.full((self.COUNT, 2), 900.0), 60.0, BODY)
        return carry(film, self.points, self.presence, 0)


class TestMoves(unittest.TestCase):
    def test_each_part_goes_where_it_goes(self) -> None:
        moves = Walker().moves()
        self.assertEqual(moves.shape, (6, len(CARRIED), 2, 3))
        np.testing.assert_allclose(
            moves[:5, ..., 1:], np.broadcast_to(Walker.STEP, (5, 5, 2, 2)), atol=0.3
        )
        self.assertTrue((moves[:5, :, 0, 0] < 0.5).all() and (moves[:5, :, 1, 0] > 0.5).all())
        self.assertFalse(np.isfinite(moves[5]).any(), "after the last look there is none")

    def test_what_the_plate_hides_is_not_told(self) -> None:
        thigh = CARRIED.index(("knee", "hip"))
        neck = CARRIED.index(("shoulder", "ear"))
        moves = Walker().moves(bar=(185.0, 195.0))
        self.assertFalse(np.isfinite(moves[:, thigh, 1]).any())
        self.assertTrue(np.isfinite(moves[:5, neck]).all())

    def test_where_the_model_sees_nobody_or_another_body_the_lifter_is_carried_on(self) -> None:
        film = Walker()
        true = film.points.copy()
        film.points[1] = np.nan
        film.points[5] += (90.0, 20.0)
        on = film.carried()
        self.assertEqual(np.flatnonzero(on.carried).tolist(), [1, 5])
        body = [LANDMARKS.index(name) for name in ("ankle", "knee", "hip", "shoulder", "ear")]
        np.testing.assert_allclose(on.points[:, body], true[:, body], atol=3.0)

    def test_whom_the_model_saw_go_on_all_the_while_was_the_lifter(self) -> None:
        film = Poster(leaps_again=False)
        on = film.carried_on()
        self.assertFalse(on.carried.any())
        np.testing.assert_array_equal(on.points, film.points)
        self.assertTrue(np.isfinite(on.moves[:3]).all())
        self.assertFalse(np.isfinite(on.moves[4:13]).any(), "the patches were the wall's")

    def test_one_who_leapt_again_was_not(self) -> None:
        on = Poster(leaps_again=True).carried_on()
        self.assertEqual(np.flatnonzero(on.carried).tolist(), list(range(5, 13)))

    def test_what_is_seen_near_there_is_taken_as_it_is_seen(self) -> None:
        film = Walker()
        film.points[4] += (0.05 * BODY, 0.0)
        on = film.carried()
        self.assertFalse(on.carried.any())
        np.testing.assert_array_equal(on.points, film.points)

    def test_back_from_the_plain_look_a_hip_elsewhere_stands_unless_the_model_is_unsure(
        self,
    ) -> None:
        for presence, stands in ((0.3, True), (0.02, False)):
            film = Walker()
            film.points[1, LANDMARKS.index("hip")] += (0.3 * BODY, 0.0)
            film.presence[:] = presence
            self.assertEqual(not film.carried().carried[1], stands, presence)

    def test_there_a_shoulder_elsewhere_stands_where_the_model_is_most_sure(self) -> None:
        for presence, stands in ((0.9, True), (0.3, False)):
            film = Walker()
            film.points[1] += (0.3 * BODY, 0.0)
            film.presence[:] = presence
            self.assertEqual(not film.carried().carried[1], stands, presence)

    def test_a_plain_figure_is_not_carried_and_it_can_be_stopped(self) -> None:
        film = Walker(plain=True)
        film.bgr = lambda number: np.full((HIGH, WIDE, 3), 90, np.uint8)  # type: ignore[method-assign]
        film.points[4] = np.nan
        on = film.carried()
        self.assertFalse(np.isfinite(on.moves).any() or on.carried.any())
        with self.assertRaises(Cancelled):
            Walker().carried(cancelled=lambda: True)


class TestCarried(Lifted):
    """Exact moves of the segments beside sightings that are off."""

    def with_moves(self, seen: Sightings) -> Sightings:
        points = self.true[seen.frames]
        moves = np.full((len(points), len(CARRIED), 2, 3), np.nan, np.float32)
        steps = np.diff(points, axis=0)
        for segment, (a, b) in enumerate(CARRIED):
            for half, share in enumerate((0.25, 0.75)):
                way = (1 - share) * steps[:, LANDMARKS.index(a)] + share * steps[
                    :, LANDMARKS.index(b)
                ]
                moves[:-1, segment, half, 0] = share
                moves[:-1, segment, half, 1:] = way
        return replace(seen, moves=moves)

    def finish(self) -> NDArray[np.bool_]:
        peak = self.lift.path.events_s["peak_velocity"]
        return np.asarray(np.abs(self.t_s - peak) < 0.1)

    def test_moves_hold_the_body_where_the_model_goes_astray(self) -> None:
        seen = seen_as(self.true, self.t_s, noise_px=2.0)
        astray = seen.points.copy()
        astray[np.isin(seen.frames, np.flatnonzero(self.finish()))] += (12.0, 10.0)
        seen = replace(seen, points=astray)
        shoulder = LANDMARKS.index("shoulder")
        off = [
            float(np.median(self.away(self.solve(one))[self.finish(), shoulder]))
            for one in (seen, self.with_moves(seen))
        ]
        self.assertLess(off[1], 0.5 * off[0])

    def test_a_hip_that_wanders_while_nothing_moves_stays_where_it_is(self) -> None:
        seen, hip = seen_as(self.true, self.t_s), LANDMARKS.index("hip")
        stands = np.flatnonzero(self.t_s < self.lift.path.events_s["lift_off"] - 0.05)
        before = np.isin(seen.frames, stands)
        wanders = seen.points.copy()
        wanders[before, :, hip, 0] += np.linspace(30.0, 0.0, before.sum())[:, None]
        seen = replace(seen, points=wanders)
        plain, held = (
            float(np.ptp(self.solve(one).x_px[stands, hip]))
            for one in (seen, self.with_moves(seen))
        )
        self.assertGreater(plain, 6.0, "there is something to hold")
        self.assertLess(held, 0.3 * plain)

    def test_a_film_that_repeats_pictures_adds_the_moves_up(self) -> None:
        seen = self.with_moves(seen_as(self.true, self.t_s))
        held = np.zeros(len(self.t_s), bool)
        held[5:-1:4] = True
        bar = replace(self.bar, same=held)
        if not bar.held.any():
            self.skipTest("the track does not say which pictures repeat")
        body = solve_body(self.t_s, "right", seen, BodyHand(), bar)
        assert body is not None
        away = np.hypot(body.x_px - self.true[..., 0], body.y_px - self.true[..., 1])
        self.assertLess(float(np.median(away[~held, LANDMARKS.index("shoulder")])), 3.0)

    def test_a_point_that_is_lost_stays_surer_while_its_moves_are_told(self) -> None:
        seen = seen_as(self.true, self.t_s)
        shoulder = LANDMARKS.index("shoulder")
        lost = seen.points.copy()
        lost[np.isin(seen.frames, np.flatnonzero(self.finish())), :, shoulder] += 150.0
        seen = replace(seen, points=lost)
        middle = int(np.flatnonzero(self.finish()).mean())
        plain, carried = (
            self.solve(one).sigma_px[middle, shoulder] for one in (seen, self.with_moves(seen))
        )
        self.assertLess(carried, 0.8 * plain)

    def test_a_hip_behind_the_plate_is_told_by_knee_and_shoulder(self) -> None:
        body = self.solve(seen_as(self.true, self.t_s))
        hip = LANDMARKS.index("hip")
        away = np.hypot(self.true[:, hip, 0] - self.bar.x_px, self.true[:, hip, 1] - self.bar.y_px)
        hidden = away < 0.9 * 0.225 * CAMERA.px_per_m
        self.assertTrue(hidden.any())
        share = body.sigma_px[hidden, hip] / body.lengths_px["hip", "shoulder"] * 0.37
        self.assertLess(float(np.median(share)), 0.1)

    def test_what_was_carried_is_assumed(self) -> None:
        seen = seen_as(self.true, self.t_s)
        on = np.zeros(len(seen.frames), bool)
        on[10:20] = True
        body = self.solve(replace(self.with_moves(seen), carried=on))
        shoulder = LANDMARKS.index("shoulder")
        self.assertTrue((body.state[seen.frames[on], shoulder] == PointState.ASSUMED).all())
        self.assertIn(PointState.MEASURED, body.state[seen.frames[45:], shoulder])

    def test_they_are_kept_and_come_back(self) -> None:
        seen = seen_as(self.true, self.t_s)
        for one in (
            seen,
            replace(self.with_moves(seen), heel_px=np.zeros(len(seen.frames), np.float32)),
        ):
            back = unpack_sightings(pack_sightings(one))
            for name, kept in vars(one).items():
                if kept is None:
                    self.assertIsNone(getattr(back, name))
                else:
                    np.testing.assert_array_equal(getattr(back, name), kept)
        with np.load(io.BytesIO(pack_sightings(seen))) as kept:
            self.assertNotIn("moves", kept.files)


if __name__ == "__main__":
    unittest.main()
