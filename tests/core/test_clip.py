"""Exact frames: each test film carries its frame number in black and white blocks."""

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import mock

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.analysis import AheadPictures, ReaderPictures
from keen_kettle.core.clip import ClipReader, content_hash, read_index, set_rotation, write_clip
from keen_kettle.core.errors import ClipNotFound, ClipUnreadable

HIGH, WIDE, BLOCK, BITS = 96, 256, 24, 10


def numbered(number: int) -> NDArray[np.uint8]:
    """A picture that says its number in its top row of blocks; the bottom half stays grey."""
    picture = np.full((HIGH, WIDE, 3), 90, np.uint8)
    for bit in range(BITS):
        picture[:BLOCK, bit * BLOCK : (bit + 1) * BLOCK] = 235 if number >> bit & 1 else 16
    return picture


def number_in(luma: NDArray[np.uint8]) -> int:
    row = luma[BLOCK // 2, BLOCK // 2 : BITS * BLOCK : BLOCK]
    return sum(int(value > 120) << bit for bit, value in enumerate(row))


def note_rate(plain: Path, path: Path, told: str) -> None:
    """The same film with a phone's note of the rate at which it filmed."""
    tagged = {"movflags": "use_metadata_tags"}
    with av.open(str(plain)) as source, av.open(str(path), "w", options=tagged) as out:
        out.metadata["com.maker.capture.fps"] = told
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(source.streams.video[0]):
            if packet.dts is not None:
                packet.stream = stream
                out.mux(packet)


class ClipCase(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        self.room = Path(room.name)

    def film(self, name: str, times: NDArray[np.float64], **options: Any) -> Path:
        path = self.room / name
        write_clip(path, ((float(t), numbered(n)) for n, t in enumerate(times)), 30.0, **options)
        return path


class TestExactFrames(ClipCase):
    def assert_exact(self, path: Path, order: list[int], cache_bytes: int = 1 << 20) -> None:
        index = read_index(path)
        with ClipReader(index, cache_bytes) as reader:
            for number in order:
                frame = reader.frame(number)
                self.assertEqual(number_in(frame.luma()), number)
                self.assertAlmostEqual(frame.t_s, index.t_s[number])

    def test_every_frame_is_exact_in_any_order_with_b_frames_and_one_key_frame(self) -> None:
        path = self.film("long.mp4", np.arange(300) / 30, key_interval=1000, b_frames=3)
        order = np.random.default_rng(3).permutation(300)[:40].tolist()
        self.assert_exact(path, [0, 1, 2, 299, 298, 297, 296, 150, 149, 148, *order])

    def test_stepping_back_over_many_key_frames_is_exact(self) -> None:
        path = self.film("keys.mp4", np.arange(120) / 30, key_interval=12, b_frames=2)
        self.assert_exact(path, list(range(119, -1, -1)), cache_bytes=20_000)

    def test_uneven_times_are_kept_and_frames_stay_exact(self) -> None:
        steps = np.random.default_rng(5).choice([1 / 30, 1 / 60, 1 / 12], 90)
        times = np.concatenate([[0.0], np.cumsum(steps)])
        path = self.film("uneven.mp4", times)
        index = read_index(path)
        np.testing.assert_allclose(index.t_s, times, atol=2e-5)
        self.assertGreater(index.uneven_share, 0.2)
        self.assert_exact(path, [0, 90, 45, 44, 43, 46, 10])

    def test_matroska_is_exact_too(self) -> None:
        path = self.film("film.mkv", np.arange(80) / 30, key_interval=40)
        self.assert_exact(path, [79, 0, 41, 40, 39, 5])

    def test_frames_are_exact_where_stamps_follow_the_order_of_storing(self) -> None:
        """Some writers give each packet the time at which it is decoded, B-frames among them."""
        proper = self.film("proper.mp4", np.arange(90) / 30, key_interval=20, b_frames=3)
        order = np.random.default_rng(4).permutation(90).tolist()
        path = self.stored_order(proper, self.room / "stored.mp4")
        index = read_index(path)
        self.assertEqual(len(index), 90)
        self.assertTrue((np.diff(index.pts) < 0).any(), "the stamps should be mixed up")
        np.testing.assert_allclose(np.diff(index.t_s), 1 / 30, atol=2e-3)
        self.assert_exact(path, [*range(90), *order], cache_bytes=20_000)

    @staticmethod
    def stored_order(proper: Path, path: Path) -> Path:
        with av.open(str(proper)) as film, av.open(str(path), "w") as out:
            stream = out.add_stream_from_template(film.streams.video[0])
            for count, packet in enumerate(film.demux(film.streams.video[0])):
                if packet.size:
                    packet.stream, packet.time_base = stream, Fraction(1, 30)
                    packet.pts = packet.dts = count
                    out.mux(packet)
        return path

    def test_a_picture_for_the_cover_is_not_taken_for_the_film(self) -> None:
        proper, path = self.film("proper.mp4", np.arange(30) / 30), self.room / "cover.mkv"
        with av.open(str(proper)) as film, av.open(str(path), "w") as out:
            cover = out.add_stream("mjpeg", rate=1)
            cover.width, cover.height, cover.pix_fmt = 64, 64, "yuvj420p"
            stream = out.add_stream_from_template(film.streams.video[0])
            plain = np.full((64, 64, 3), 200, np.uint8)
            out.mux(cover.encode(av.VideoFrame.from_ndarray(plain, format="bgr24")))
            for packet in film.demux(film.streams.video[0]):
                if packet.size:
                    packet.stream = stream
                    out.mux(packet)
        self.assert_exact(path, [29, 0, 13])

    def test_a_container_that_cannot_be_sent_back_to_its_beginning_is_exact_too(self) -> None:
        path = self.film("camcorder.ts", np.arange(60) / 30, key_interval=10, b_frames=2)
        self.assert_exact(path, [59, 0, 31, 1, 9, 10, 3, *range(60)], cache_bytes=20_000)

    def test_films_from_the_web_are_exact_whatever_packed_them(self) -> None:
        count = 130
        for coder, ending, told in (
            ("libsvtav1", "mp4", {"preset": "12"}),
            ("libvpx-vp9", "webm", {"deadline": "realtime", "cpu-used": "8"}),
            ("mpeg4", "avi", {"b": "2M"}),
        ):
            path = self.room / f"{coder}.{ending}"
            with av.open(str(path), "w") as out:
                stream: Any = out.add_stream(coder, rate=30, options=told)
                stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
                for n in range(count):
                    out.mux(stream.encode(av.VideoFrame.from_ndarray(numbered(n), format="bgr24")))
                out.mux(stream.encode(None))
            with self.subTest(coder):
                self.assert_exact(path, [117, 1, 60, 118, count - 1, 0], cache_bytes=20_000)

    def test_pixels_that_are_not_square_are_made_square(self) -> None:
        for aspect, shown in ((Fraction(4, 3), (256, 144)), (Fraction(2, 3), (192, 216))):
            path = self.room / "wide.mp4"
            ball = np.zeros((144, 192, 3), np.uint8)
            cv2.ellipse(ball, (96, 72), (round(45 / aspect), 45), 0, 0, 360, (255, 255, 255), -1)
            with av.open(str(path), "w") as out:
                stream = out.add_stream("libx264", rate=30)
                stream.width, stream.height, stream.pix_fmt = 192, 144, "yuv420p"
                stream.codec_context.sample_aspect_ratio = aspect
                for _ in range(3):
                    out.mux(stream.encode(av.VideoFrame.from_ndarray(ball, format="bgr24")))
                out.mux(stream.encode(None))
            for turn in (0, 90):
                set_rotation(path, turn)
                index = read_index(path)
                size = (index.height_px, index.width_px)
                self.assertEqual(size, shown[::-1] if turn == 0 else shown)
                with ClipReader(index) as reader:
                    luma = reader.frame(1).luma()
                    self.assertEqual(luma.shape, size)
                    self.assertEqual(reader.frame(1).bgra().shape[:2], size)
                rows, columns = np.nonzero(luma > 128)
                self.assertAlmostEqual(np.ptp(rows), np.ptp(columns), delta=2)

    def test_a_turned_phone_film_is_shown_upright(self) -> None:
        for degrees in (90, 180, 270):
            path = self.film(f"turned{degrees}.mp4", np.arange(12) / 30)
            set_rotation(path, degrees)
            index = read_index(path)
            self.assertEqual(index.rotation_deg, degrees)
            sideways = degrees != 180
            self.assertEqual(
                (index.width_px, index.height_px), (HIGH, WIDE) if sideways else (WIDE, HIGH)
            )
            with ClipReader(index) as reader:
                frame = reader.frame(7)
                back = np.rot90(frame.luma(), {90: 1, 180: 2, 270: 3}[degrees])
                self.assertEqual(number_in(back), 7)
                self.assertEqual(frame.bgra().shape, (index.height_px, index.width_px, 4))

    def test_a_film_of_the_camera_beside_the_screen_is_shown_mirrored_and_upright(self) -> None:
        path = self.film("mirrored.mp4", np.arange(12) / 30)
        for degrees in (0, 90, 180, 270):
            set_rotation(path, degrees, mirrored=True)
            index = read_index(path)
            self.assertEqual((index.rotation_deg, index.mirrored), (degrees, True))
            with ClipReader(index) as reader:
                luma = reader.frame(7).luma()
                self.assertEqual(luma.shape, (index.height_px, index.width_px))
                self.assertEqual(number_in(np.fliplr(np.rot90(luma, degrees // 90))), 7)

    def test_a_film_that_says_it_was_filmed_faster_is_slow_motion(self) -> None:
        plain = self.film("plain.mp4", np.arange(12) / 30)
        self.assertIsNone(read_index(plain).filmed_fps)
        for told, filmed in (
            ("120.000000", 120.0),
            ("30.000000", None),
            ("fast", None),
            ("0", None),
        ):
            path = self.room / f"{told}.mp4"
            note_rate(plain, path, told)
            self.assertEqual(read_index(path).filmed_fps, filmed, told)

    def test_frame_at_gives_the_frame_on_show(self) -> None:
        index = read_index(self.film("at.mp4", np.arange(30) / 30))
        self.assertEqual(
            [index.frame_at(t) for t in (-1, 0, 0.0333, 0.034, 0.5, 9)], [0, 0, 0, 1, 15, 29]
        )


class TestAhead(ClipCase):
    def test_pictures_made_ready_ahead_are_those_that_are_asked_for(self) -> None:
        path = self.film("ahead.mp4", np.arange(60) / 30, key_interval=15, b_frames=2)
        onward, back = list(range(20)), list(range(50, 20, -3))
        with ClipReader(read_index(path)) as reader, AheadPictures(reader) as pictures:
            self.assertEqual(len(pictures.t_s), 60)
            for number in (*onward, *back, 59, 0, 0, 7, 58, 59):
                self.assertEqual(number_in(pictures.bgr(number)[..., 1]), number)

    def test_a_damaged_picture_is_told_when_it_is_asked_for_and_not_before(self) -> None:
        path = self.film("hurt.mp4", np.arange(30) / 30)
        whole = ReaderPictures._shown

        def hurt(one: ReaderPictures, number: int, by: int) -> NDArray[np.uint8]:
            if number == 3:
                raise ClipUnreadable("damaged")
            return whole(one, number, by)

        with (
            mock.patch.object(ReaderPictures, "_shown", hurt),
            ClipReader(read_index(path)) as reader,
            AheadPictures(reader) as pictures,
        ):
            for number in (0, 1, 2):
                pictures.bgr(number)
            with self.assertRaises(ClipUnreadable):
                pictures.bgr(3)
            self.assertEqual(number_in(pictures.bgr(4)[..., 1]), 4)


class TestCache(ClipCase):
    def test_the_cache_stays_within_its_bytes(self) -> None:
        index = read_index(self.film("cache.mp4", np.arange(100) / 30))
        with ClipReader(index, cache_bytes=400_000) as reader:
            for number in range(100):
                reader.frame(number)
                self.assertLessEqual(reader.held_bytes, 400_000)
            self.assertTrue(reader.has(99))
            self.assertFalse(reader.has(0))


class TestBadFiles(ClipCase):
    def test_each_bad_file_gets_a_plain_word(self) -> None:
        text = self.room / "notes.mp4"
        text.write_text("not a film at all\n" * 50)
        empty = self.room / "empty.mp4"
        empty.touch()
        whole = self.film("whole.mp4", np.arange(60) / 30)
        cut = self.room / "cut.mp4"
        cut.write_bytes(whole.read_bytes()[:2000])
        for path in (text, empty, cut):
            with self.assertRaisesRegex(ClipUnreadable, path.name):
                read_index(path)
        with self.assertRaisesRegex(ClipNotFound, "no file"):
            read_index(self.room / "gone.mp4")

    def test_sound_without_video_is_refused(self) -> None:
        import wave

        path = self.room / "sound.wav"
        with wave.open(str(path), "wb") as sound:
            sound.setnchannels(1)
            sound.setsampwidth(2)
            sound.setframerate(8000)
            sound.writeframes(bytes(16000))
        with self.assertRaisesRegex(ClipUnreadable, "no video"):
            read_index(path)

    def test_a_film_damaged_in_the_middle_keeps_its_other_frames(self) -> None:
        path = self.film("hurt.mp4", np.arange(120) / 30, key_interval=20, b_frames=0)
        data = bytearray(path.read_bytes())
        at = data.find(b"mdat")
        index = read_index(path)
        whole = read_index(path).pts
        middle = at + (len(data) - at) // 3
        data[middle : middle + 60] = bytes(60)
        path.write_bytes(bytes(data))
        np.testing.assert_array_equal(read_index(path).pts, whole)
        with ClipReader(index) as reader:
            self.assertEqual(number_in(reader.frame(0).luma()), 0)
            self.assertEqual(number_in(reader.frame(119).luma()), 119)

    def test_the_hash_follows_the_content(self) -> None:
        one = self.film("one.mp4", np.arange(6) / 30)
        two = self.room / "moved.mp4"
        two.write_bytes(one.read_bytes())
        other = self.film("other.mp4", np.arange(7) / 30)
        self.assertEqual(content_hash(one), content_hash(two))
        self.assertNotEqual(content_hash(one), content_hash(other))


if __name__ == "__main__":
    unittest.main()
