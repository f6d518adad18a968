"""Files that are no films, and films that are odd: a clear word, or the right pictures."""

import tempfile
import unittest
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from keen_kettle.core.analysis import check_clip
from keen_kettle.core.clip import ClipReader, read_index
from keen_kettle.core.errors import ClipUnreadable

TICKS = 90_000


def write_film(
    path: Path,
    count: int = 20,
    size: tuple[int, int] = (160, 96),
    pix_fmt: str = "yuv420p",
    stamp: Callable[[int], int] = lambda k: 3000 * k,
    container: str | None = None,
    first: int = 0,
) -> Path:
    """A film whose frame k is a plain grey of 40 + 8 (k + first)."""
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream("libx264", rate=30)
        stream.width, stream.height = size
        stream.pix_fmt = pix_fmt
        stream.codec_context.time_base = Fraction(1, TICKS)
        stream.options = {"preset": "ultrafast"}
        for k in range(count):
            picture = np.full((size[1], size[0], 3), 40 + 8 * (k + first), np.uint8)
            frame = av.VideoFrame.from_ndarray(picture, format="bgr24").reformat(format=pix_fmt)
            frame.pts, frame.time_base = stamp(k), Fraction(1, TICKS)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


class BadFilmCase(unittest.TestCase):
    def setUp(self) -> None:
        room = tempfile.TemporaryDirectory()
        self.addCleanup(room.cleanup)
        self.room = Path(room.name)

    def assert_said(self, path: Path, words: str) -> None:
        with self.assertRaisesRegex(ClipUnreadable, words):
            read_index(path)

    def assert_shows(self, path: Path, number: int) -> None:
        with ClipReader(read_index(path)) as reader:
            frame = reader.frame(number)
            level = float(frame.bgr().mean())
            self.assertAlmostEqual(level, 40 + 8 * number, delta=3.9)
            self.assertEqual(frame.luma().dtype, np.uint8)
            self.assertEqual(frame.bgra().shape[2], 4)


class TestNoFilms(BadFilmCase):
    def test_an_empty_file_a_truncated_one_and_noise(self) -> None:
        empty = self.room / "empty.mp4"
        empty.touch()
        self.assert_said(empty, "0 bytes")
        whole = write_film(self.room / "whole.mp4").read_bytes()
        cut = self.room / "cut.mp4"
        cut.write_bytes(whole[: len(whole) // 2])
        self.assert_said(cut, "not fully copied")
        noise = self.room / "noise.mp4"
        noise.write_bytes(np.random.default_rng(1).bytes(20_000))
        self.assert_said(noise, "cannot be read as a film")

    def test_a_picture_a_sound_and_a_single_frame(self) -> None:
        picture = self.room / "picture.mp4"
        cv2.imwrite(str(self.room / "p.jpg"), np.zeros((60, 80, 3), np.uint8))
        picture.write_bytes((self.room / "p.jpg").read_bytes())
        self.assert_said(picture, "a film is needed")
        self.assert_said(write_film(self.room / "one.mp4", 1), "single picture")
        sound = self.room / "sound.mp4"
        with av.open(str(sound), "w") as out:
            stream = out.add_stream("aac", rate=44_100)
            silence = np.zeros((1, 1024), np.float32)
            for k in range(10):
                frame = av.AudioFrame.from_ndarray(silence, format="fltp", layout="mono")
                frame.sample_rate, frame.pts = 44_100, 1024 * k
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
        self.assert_said(sound, "no video")


class TestOddFilms(BadFilmCase):
    def test_a_wrong_ending_and_a_cut_off_matroska_still_show_what_they_hold(self) -> None:
        self.assert_shows(write_film(self.room / "film.txt", container="mp4"), 11)
        whole = write_film(self.room / "whole.mkv")
        cut = self.room / "cut.mkv"
        cut.write_bytes(whole.read_bytes()[: int(0.8 * whole.stat().st_size)])
        self.assertGreater(len(read_index(cut)), 3)
        self.assert_shows(cut, 2)

    def test_a_bare_stream_of_pictures_is_asked_for_as_a_film(self) -> None:
        self.assert_said(
            write_film(self.room / "bare.h264", container="h264"), "Save it as MP4 or Matroska"
        )

    def test_a_film_that_changes_its_size_on_the_way_keeps_that_of_its_first_frame(self) -> None:
        path = self.room / "call.ts"
        halves = (
            write_film(self.room / "first.ts", 10),
            write_film(
                self.room / "second.ts", 10, (80, 48), stamp=lambda k: 3000 * (k + 10), first=10
            ),
        )
        path.write_bytes(b"".join(half.read_bytes() for half in halves))
        with ClipReader(read_index(path)) as reader:
            self.assertEqual(len(reader.index), 20)
            for number in (0, 13, 4, 19):
                frame = reader.frame(number)
                self.assertEqual(
                    (frame.luma().shape, frame.bgra().shape), ((96, 160), (96, 160, 4))
                )
                self.assertAlmostEqual(float(frame.bgr().mean()), 40 + 8 * number, delta=3.9)

    def test_ten_bits_four_two_two_and_grey(self) -> None:
        for pix_fmt in ("yuv420p10le", "yuv422p", "yuv422p10le", "yuv444p", "gray"):
            self.assert_shows(write_film(self.room / f"{pix_fmt}.mkv", pix_fmt=pix_fmt), 9)

    def test_a_title_in_an_old_encoding(self) -> None:
        plain = write_film(self.room / "plain.avi")
        path = self.room / "titled.avi"
        with av.open(str(plain)) as film, av.open(str(path), "w") as out:
            out.metadata["title"] = "Xxxx"
            stream = out.add_stream_from_template(film.streams.video[0])
            for packet in film.demux(film.streams.video[0]):
                packet.stream = stream
                if packet.dts is not None:
                    out.mux(packet)
        # "Stoß", as it was written before there was UTF-8.
        path.write_bytes(path.read_bytes().replace(b"Xxxx", b"Sto\xdf", 1))
        with self.assertRaises(UnicodeDecodeError):
            av.open(str(path))
        self.assert_shows(path, 11)

    def test_frames_of_eight_thousand_pixels(self) -> None:
        path = write_film(self.room / "large.mp4", 3, (7680, 4320))
        index = read_index(path)
        self.assertEqual((index.width_px, index.height_px), (7680, 4320))
        self.assert_shows(path, 2)

    def test_negative_huge_and_uneven_stamps(self) -> None:
        early = write_film(self.room / "early.mkv", stamp=lambda k: 3000 * k - 30_000)
        late = write_film(self.room / "late.mp4", stamp=lambda k: 3000 * k + TICKS * 3600 * 30)
        uneven = write_film(self.room / "uneven.mp4", stamp=lambda k: 3000 * k + 900 * (k % 3))
        for path in (early, late, uneven):
            index = read_index(path)
            self.assertEqual(index.t_s[0], 0.0)
            self.assertLess(index.duration_s, 0.8)
            self.assertEqual(index.leaps, 0)
            self.assert_shows(path, 13)
        self.assertGreater(read_index(uneven).uneven_share, 0.25)

    def test_a_leap_of_hours_is_taken_as_one_frame_and_said(self) -> None:
        path = write_film(
            self.room / "leap.mp4", stamp=lambda k: 3000 * k + (TICKS * 3600 * 4 if k > 9 else 0)
        )
        index = read_index(path)
        self.assertEqual((index.leaps, len(index)), (1, 20))
        self.assertLess(index.duration_s, 1.0)
        self.assert_shows(path, 15)
        row = check_clip(index).row("times")
        assert row is not None
        self.assertEqual(row.state, "poor")
        self.assertIn("impossible leap", row.says)

    def test_a_file_that_goes_away_while_it_is_open(self) -> None:
        path = write_film(self.room / "gone.mp4")
        with ClipReader(read_index(path)) as reader:
            path.unlink()
            self.assertAlmostEqual(float(reader.frame(12).bgr().mean()), 136, delta=3.9)


if __name__ == "__main__":
    unittest.main()
