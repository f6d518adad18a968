"""Teaches anew what the pose model misreads of lifters: `./kettle bench misreadings`.

Pictures of lifelike lifts are drawn and shown to the pose model; a small net learns how far off each point of
the near side is. The card tells what it does on films that it has not seen, and, trained without each of
the bodies, on that body.
"""

import json
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.body_scenes import BodyScene, scenes_of
from bench.dense_net import Net, Rows, trained
from keen_kettle.core.track.body import LANDMARKS, PoseNet
from keen_kettle.core.track.body.misread import said_of, told_of
from keen_kettle.core.track.small_nets import WEIGHTS

__all__ = ["report_misreadings"]

Array = NDArray[np.float64]

RUNS, SEED = (range(108), range(600, 708)), 1
"""Numbers of the films that are drawn, in two runs side by side."""
HELD_BACK = 6
"""Each so many-th film is held back for the card's figures; the net itself is then trained on all."""
HIDDEN, ROUNDS = (64, 64), 100
BODY_OFF, BODY_SPREAD = -0.02, 0.06
PLACE_SPREAD, SIZE_SPREAD, POINT_SPREAD = 0.05, 0.05, 0.004
"""How far the size of the body is off where it is told (logarithm), the plate's place and size (radii), and the
points (bodies); drawn anew each time a scene is shown."""
LEGS = {
    "hip": ("knee", "ankle", "heel", "toe"),
    "knee": ("ankle", "heel", "toe"),
    "ankle": ("heel", "toe"),
}
"""What is turned with a joint; the first of these is the segment's other end."""
TURN_DEG, BUILD = 7.0, 0.04
WARP = 0.05
"""Each time the whole scene is turned, stretched and sheared by about so much too: lifters are held otherwise and built
otherwise than the four that are drawn."""


@dataclass(frozen=True)
class _Scenes:
    """Scenes as arrays, one row each; `film` tells of which film each is."""

    points: Array
    presence: Array
    bar: Array
    plate: Array
    truth: Array
    body: Array
    lifter: NDArray[np.str_]
    film: NDArray[np.int64]

    def where(self, those: NDArray[np.bool_]) -> "_Scenes":
        return _Scenes(*(rows[those] for rows in vars(self).values()))

    def shown(self, dice: np.random.Generator) -> tuple[Rows, Rows]:
        """What the net is told of each (n, numbers), and where its points truly are from where they were
        seen (n, 9, 2)."""
        count = len(self.body)
        body = self.body * np.exp(dice.normal(BODY_OFF, BODY_SPREAD, count))
        bar = self.bar + dice.normal(0, PLACE_SPREAD, (count, 2)) * self.plate[:, None]
        plate = self.plate * np.exp(dice.normal(0, SIZE_SPREAD, count))
        bodies = held_otherwise(np.concatenate([self.points, self.truth[:, None]], axis=1), dice)
        warp = (np.eye(2) + dice.normal(0, WARP, (count, 2, 2))) / body[:, None, None]
        bodies = np.einsum("nij,nskj->nski", warp, bodies)
        points, truth = bodies[:, :2], bodies[:, 2]
        points = points + dice.normal(0, POINT_SPREAD, points.shape)
        bar = np.einsum("nij,nj->ni", warp, bar)
        off = (truth - points[:, 0]).astype(np.float32)
        return told_of(points, self.presence, bar, plate / body), off


def held_otherwise(bodies: Array, dice: np.random.Generator) -> Array:
    """Bodies (n, kinds, 9, 2) whose legs are turned in hip, knee and ankle, and are longer or shorter, alike in
    all kinds of a row (seen near, seen far, true): what is misread of a joint does not depend on how far it
    happens to be bent."""
    out = bodies.copy()
    for joint, beyond in LEGS.items():
        pivot = out[:, :, LANDMARKS.index(joint), None]
        rows = [LANDMARKS.index(name) for name in beyond]
        turn = np.radians(dice.normal(0, TURN_DEG, len(out)))
        longer = dice.normal(0, BUILD, len(out))
        way = out[:, :, rows] - pivot
        sin, cos = np.sin(turn)[:, None, None], np.cos(turn)[:, None, None]
        turned = np.stack(
            [cos * way[..., 0] - sin * way[..., 1], sin * way[..., 0] + cos * way[..., 1]], -1
        )
        stretch = longer[:, None, None, None] * turned[:, :, :1]
        out[:, :, rows] = pivot + turned + stretch
    return out


def report_misreadings() -> None:
    """Draw, train, and put the net and its card where the program looks for them."""
    with ProcessPoolExecutor(2) as pool:
        runs = list(pool.map(drawn, RUNS))
    scenes = gathered([pair for run in runs for pair in run])
    card = measured(scenes)
    np.savez(WEIGHTS / "misreadings.npz", **learnt(scenes))  # type: ignore[arg-type]
    lines = [f"{json.dumps(what)}: {json.dumps(told)}" for what, told in card.items()]
    whole = "{\n " + ",\n ".join(lines) + "\n}\n"
    (WEIGHTS / "misreadings.json").write_text(whole)
    print(whole)


def drawn(films: range) -> list[tuple[int, BodyScene]]:
    """The scenes of some films, each with its film's number."""
    cv2.setNumThreads(1)
    net = PoseNet(1)
    return [(film, scene) for film in films for scene in scenes_of(film, net)]


def gathered(pairs: list[tuple[int, BodyScene]]) -> _Scenes:
    scenes = [scene for _, scene in pairs]
    films = np.array([film for film, _ in pairs])
    rows = {name: np.array([vars(one)[name] for one in scenes]) for name in vars(scenes[0])}
    return _Scenes(**rows, film=films)


def learnt(scenes: _Scenes) -> Net:
    return trained(scenes.shown, HIDDEN, ROUNDS, SEED)


def measured(scenes: _Scenes) -> dict[str, object]:
    """What the net does where it has not seen the film, and where it has not seen the body."""
    held_back = scenes.film % HELD_BACK == 0
    card: dict[str, object] = {"scenes": len(scenes.body), "films": len(set(scenes.film.tolist()))}
    card["unseen films"] = _figures(scenes, held_back)
    for lifter in np.unique(scenes.lifter):
        card[f"without the {lifter}"] = _figures(scenes, scenes.lifter == lifter)
    return card


def _figures(scenes: _Scenes, held_back: NDArray[np.bool_]) -> dict[str, object]:
    """Errors forward and up in percent of the body (medians), as seen and as reread by a net that was not shown
    these, and the share of them within the width that it says (63 of 100 are, of Laplace's errors)."""
    net = learnt(scenes.where(~held_back))
    told, true = scenes.where(held_back).shown(np.random.default_rng(SEED))
    off, wide = said_of(net, told)
    seen, left = 100 * np.abs(true), 100 * np.abs(true - off)
    figures: dict[str, object] = {
        name: [
            round(float(np.median(one[:, k, axis])), 1) for one in (seen, left) for axis in (0, 1)
        ]
        for k, name in enumerate(LANDMARKS)
    }
    figures["all"] = [round(float(np.median(one)), 2) for one in (seen, left)]
    figures["within the said"] = round(float(np.mean(left < 100 * wide[..., None])), 3)
    return figures
