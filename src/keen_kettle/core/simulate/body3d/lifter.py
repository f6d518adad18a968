"""A baked lifter: vertices, faces, bones and weights in the rest pose, and what follows from them.

Baked from a mesh in the public domain (CC0); where it comes from, how it was made and how to make
it anew is said in data/README.md.
"""

import json
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import Body

__all__ = [
    "GRIP_HALF_M",
    "LIFTERS",
    "Lifter",
    "MeasuredBody",
    "lifter_for",
    "load_lifter",
    "vertex_normals",
]

Array = NDArray[np.float64]
DATA = Path(__file__).with_name("data")
LIFTERS = ("woman", "man", "strong woman", "tall man")
PARTS = ("skin", "hair", "shoe", "shirt", "shorts", "eye")
GRIP_HALF_M = {"snatch": 0.46, "clean": 0.29}
"""Half of the distance between the hands on the bar."""
PALM_SHARE = 0.095 / 1.75
"""From the wrist to the middle of the closed hand, as a share of stature."""


@dataclass(frozen=True)
class MeasuredBody(Body):
    """A body with segment lengths of its own, in metres; `fore` reaches to the closed hand."""

    shank: float = 0.43
    thigh: float = 0.43
    trunk: float = 0.5
    upper: float = 0.32
    fore: float = 0.36
    ankle: float = 0.08
    foot: float = 0.26
    half_shoulder: float = 0.18

    @property
    def shank_m(self) -> float:
        return self.shank

    @property
    def thigh_m(self) -> float:
        return self.thigh

    @property
    def trunk_m(self) -> float:
        return self.trunk

    @property
    def upper_arm_m(self) -> float:
        return self.upper

    @property
    def forearm_m(self) -> float:
        return self.fore

    @property
    def ankle_m(self) -> float:
        return self.ankle

    @property
    def foot_m(self) -> float:
        return self.foot

    def arm_seen_m(self, grip: str) -> float:
        whole = self.upper + self.fore
        aside = GRIP_HALF_M.get(grip, GRIP_HALF_M["clean"]) - self.half_shoulder
        return 0.99 * float(np.sqrt(max(whole**2 - aside**2, 0.01)))


@dataclass(frozen=True, eq=False)
class Lifter:
    """A lifter at rest, in metres: x forward, y up, z to the lifter's right, floor at y = 0.

    `vertices` and `normals` (V, 3), `quads` (F, 4) into them, `parts` (F,) into `PARTS`; `bone_of` and `weight_of`
    (V, 4): which bones move a vertex, and how much; `heads` (B, 3) are the bones' origins, `parents`
    (B,) with -1 for the root, `index` gives a bone's number by its name.
    """

    name: str
    vertices: NDArray[np.float32]
    normals: NDArray[np.float32]
    quads: NDArray[np.int64]
    parts: NDArray[np.uint8]
    bone_of: NDArray[np.int64]
    weight_of: NDArray[np.float32]
    heads: Array
    parents: NDArray[np.int64]
    index: dict[str, int]
    stature_m: float
    toe_x: float
    heel_x: float
    ear: Array

    def head(self, bone: str) -> Array:
        """Where a bone begins, at rest."""
        return np.asarray(self.heads[self.index[bone]])

    @cached_property
    def offsets(self) -> Array:
        """Where each bone begins from where its parent does, at rest (B, 3)."""
        return np.asarray(self.heads - self.heads[self.parents])

    @cached_property
    def blend(self) -> Any:
        """How much each bone moves each vertex, a sparse matrix (V, B)."""
        from scipy.sparse import csr_matrix  # loaded here: it takes a third of a second

        rows = np.repeat(np.arange(len(self.vertices)), self.bone_of.shape[1])
        size = len(self.vertices), len(self.heads)
        return csr_matrix((self.weight_of.ravel(), (rows, self.bone_of.ravel())), shape=size)

    @property
    def palm_m(self) -> float:
        return PALM_SHARE * self.stature_m

    def between(self, first: str, second: str) -> float:
        return float(np.linalg.norm(self.head(second) - self.head(first)))

    @property
    def body(self) -> MeasuredBody:
        """The lifter's own segment lengths, as the figures are solved on them."""
        way = (self.head("upperarm01.R") - self.head("upperleg01.R"))[:2]
        return MeasuredBody(
            self.stature_m,
            shank=0.997 * self.between("lowerleg01.R", "foot.R"),
            thigh=0.995 * self.between("upperleg01.R", "lowerleg01.R"),
            trunk=float(np.hypot(*way)),
            upper=self.between("upperarm01.R", "lowerarm01.R"),
            fore=self.between("lowerarm01.R", "wrist.R") + self.palm_m,
            ankle=float(self.head("foot.R")[1]),
            foot=self.toe_x - self.heel_x + 0.025,
            half_shoulder=float(self.head("upperarm01.R")[2]),
        )

    def scaled(self, stature_m: float) -> "Lifter":
        """The same build at another height."""
        by = stature_m / self.stature_m
        return replace(
            self,
            vertices=(by * self.vertices).astype(np.float32),
            heads=by * self.heads,
            stature_m=stature_m,
            toe_x=by * self.toe_x,
            heel_x=by * self.heel_x,
            ear=by * self.ear,
        )


@lru_cache(maxsize=8)
def load_lifter(name: str = "man") -> Lifter:
    """One of `LIFTERS`, as it was baked; the soles stand on the floor."""
    kept = np.load(DATA / f"{name.replace(' ', '-')}.npz")
    names = json.loads((DATA / "bones.json").read_text(encoding="utf-8"))
    stature, ground, toe_x, heel_x = (float(one) for one in kept["sizes"])
    vertices = kept["vertices"].astype(np.float32) / 5000
    floor = min(ground - 0.022, float(vertices[:, 1].min()))
    vertices[:, 1] -= floor
    heads = kept["heads"].astype(float)
    heads[:, 1] -= floor
    ear = kept["ear"].astype(float)
    ear[1] -= floor
    weights = kept["weight_of"].astype(np.float32)
    quads = kept["quads"].astype(np.int64)
    return Lifter(
        name,
        vertices,
        vertex_normals(vertices, quads),
        quads,
        kept["parts"],
        kept["bone_of"].astype(np.int64),
        weights / weights.sum(1, keepdims=True),
        heads,
        kept["parents"].astype(np.int64),
        {bone: number for number, bone in enumerate(names)},
        stature,
        toe_x,
        heel_x,
        ear,
    )


@lru_cache(maxsize=32)
def lifter_for(stature_m: float | None = None, sex: str = "") -> Lifter:
    """The lifter that is built most like somebody, at their height (without one: its own).

    `sex` is as the coach wrote it; where it says nothing the man's build is taken.
    """
    woman = sex.strip().casefold()[:1] in ("f", "w")
    tall = stature_m or (1.66 if woman else 1.76)
    names = ("woman",) if woman else (("tall man",) if tall > 1.86 else ("man",))
    return load_lifter(names[0]).scaled(tall)


def vertex_normals(vertices: NDArray[np.float32], quads: NDArray[np.int64]) -> NDArray[np.float32]:
    """Outward directions (V, 3) of vertices (V, 3): the mean of their faces' (F, 4), by area."""
    one = vertices[quads[:, 2]] - vertices[quads[:, 0]]
    across = np.cross(one, vertices[quads[:, 3]] - vertices[quads[:, 1]])
    made = np.zeros_like(vertices)
    for corner in range(4):
        np.add.at(made, quads[:, corner], across)
    return np.asarray(
        made / np.maximum(np.linalg.norm(made, axis=1, keepdims=True), 1e-9), np.float32
    )
