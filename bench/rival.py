"""CSRT of OpenCV's contributed modules on one film, as a yardstick; run by `bench.speed` elsewhere.

It needs a build of OpenCV that clashes with the program's own, so it lives in an environment of the
bench's own and is run as a plain script: `rival.py FILM X Y RADIUS` prints milliseconds a frame.
"""

import sys
import time

import cv2

FRAMES = 80


def main(path: str, x: float, y: float, radius: float) -> None:
    cv2.setNumThreads(1)
    film = cv2.VideoCapture(path)
    _, first = film.read()
    tracker = cv2.TrackerCSRT_create()  # type: ignore[attr-defined]  # only in the contributed build
    tracker.init(first, (int(x - radius), int(y - radius), int(2 * radius), int(2 * radius)))
    pictures = [film.read()[1] for _ in range(FRAMES)]
    begin = time.process_time()
    for picture in pictures:
        tracker.update(picture)
    print(1000 * (time.process_time() - begin) / FRAMES)


if __name__ == "__main__":
    main(sys.argv[1], *(float(word) for word in sys.argv[2:5]))
