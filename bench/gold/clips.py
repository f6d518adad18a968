"""The gold set: sixteen short path-traced clips with exact truth, each of the worst that real films do.

The films are kept beside this file (NAME.mp4 and NAME.json); `./kettle bench gold` makes those that are
missing. What is needed to judge them needs no path tracer.
"""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from keen_kettle.core.simulate import Camera, Filming, LiftScript
from keen_kettle.core.simulate.lifelike import PLATES, LifelikePainter, Wear

__all__ = ["GOLD", "GOLD_ROOM", "GoldClip"]

GOLD_ROOM = Path(__file__).parent
DARK = Wear(shirt=(34, 32, 32), shorts=(30, 29, 29), shoe=(40, 40, 42))
PALE = Wear(shirt=(176, 178, 180), shorts=(96, 92, 88))
RED = Wear(shirt=(40, 44, 150), shorts=(40, 38, 38))


@dataclass(frozen=True)
class GoldClip:
    """A clip: what spoils it, lift and filming, and how it is traced (`room`, `key`: exposure, `rays`)."""

    name: str
    nuisances: tuple[str, ...]
    script: LiftScript
    filming: Filming
    room: str
    key: float = 0.17
    rays: int = 24

    @property
    def film(self) -> Path:
        return GOLD_ROOM / f"{self.name}.mp4"

    @property
    def truth(self) -> Path:
        return self.film.with_suffix(".json")


@dataclass(frozen=True)
class _Shot:
    """How a clip is filmed: picture, how high the lifter's metre is in it, from where."""

    wide: int = 640
    high: int = 360
    px_per_m: float = 135.0
    floor: float = 0.93
    across: float = 0.5
    facing: str = "right"
    distance_m: float = 4.5
    height_m: float = 1.0
    yaw_deg: float = 0.0
    roll_deg: float = 0.0
    more: dict[str, Any] = field(default_factory=dict)

    def camera(self) -> Camera:
        return Camera(
            *(self.wide, self.high, self.px_per_m, self.floor * self.high, self.across * self.wide),
            facing=self.facing,
            distance_m=self.distance_m,
            height_m=self.height_m,
            yaw_deg=self.yaw_deg,
            roll_deg=self.roll_deg,
        )


def _clip(
    name: str,
    nuisances: str,
    lift: str,
    shot: _Shot,
    room: str,
    key: float = 0.17,
    faults: dict[str, float] | None = None,
    **painted: Any,
) -> GoldClip:
    plate = PLATES[painted.pop("plate", "black")]
    painter = LifelikePainter(plate=plate, soft_px=painted.pop("soft_px", 0.6), **painted)
    family, start, receive = lift.split()
    script = LiftScript(
        *(family, start, receive, painter.body), still_s=0.35, end_s=0.35, faults=faults or {}
    )
    filming = Filming(
        **{"fps": 30.0, "exposure_s": 1 / 120, "noise": 2.0, "crf": 27, **shot.more},
        seed=9000 + sum(map(ord, name)),
        camera=shot.camera(),
        painter=painter,
    )
    return GoldClip(name, tuple(nuisances.split(", ")), script, filming, room, key)


GOLD = (
    _clip(
        *("dark-on-dark", "dim, small, aside", "clean floor power"),
        _Shot(320, 240, 92.0, 0.94, yaw_deg=20.0, distance_m=3.2, more={"noise": 4.0, "crf": 30}),
        *("cellar", 0.045),
        plate="dark",
        wear=DARK,
    ),
    _clip(
        *("portrait-title", "portrait, caption, hand", "snatch floor power"),
        _Shot(360, 640, 210.0, 0.80, facing="left", more={"caption": True, "shake_px": 1.5}),
        *("brick",),
        plate="blue",
        lifter="woman",
        wear=PALE,
    ),
    _clip(
        *("near-and-aside", "aside, near", "clean floor full"),
        _Shot(854, 480, 175.0, 0.95, 0.55, yaw_deg=33.0, distance_m=2.3, height_m=1.2),
        *("bright",),
        plate="red",
        lifter="tall man",
    ),
    _clip(
        *("back-light", "back light, pan, hand", "snatch floor full"),
        _Shot(px_per_m=118.0, across=0.42, more={"pan_px": 95.0, "shake_px": 2.2}),
        *("glass", 0.12),
        wear=DARK,
    ),
    _clip(
        *("like-plates", "clutter, like plates, askew", "snatch floor power"),
        _Shot(px_per_m=125.0, facing="left", roll_deg=-4.0, height_m=1.3),
        *("racks",),
        plate="green",
        lifter="strong woman",
    ),
    _clip(
        *("mirror-image", "mirror, bystander", "clean floor power"),
        _Shot(px_per_m=130.0, across=0.46, distance_m=5.5),
        *("mirror",),
        plate="yellow",
        bystander=True,
    ),
    _clip(
        *("slow-motion", "slow motion, compressed", "clean floor none"),
        _Shot(px_per_m=130.0, facing="left", more={"repeat": 4, "crf": 36}),
        *("brick",),
        plate="green",
        wear=RED,
    ),
    _clip(
        *("uneven-repeats", "repeated, dropped", "snatch floor full"),
        _Shot(px_per_m=120.0, yaw_deg=-12.0, more={"stuttered": 0.35, "dropped": 0.14, "crf": 32}),
        *("machines", 0.12),
        plate="iron",
        lifter="woman",
    ),
    _clip(
        *("foot-cut", "foot cut, stack", "clean floor power"),
        _Shot(px_per_m=150.0, floor=1.02, facing="left", distance_m=2.6, yaw_deg=8.0),
        *("racks", 0.14),
        stack=2,
    ),
    _clip(
        *("high-pull", "clutter, dim", "snatch floor none"),
        _Shot(px_per_m=130.0, across=0.55, height_m=0.7, more={"fps": 25.0, "noise": 3.5}),
        *("machines", 0.06),
        plate="blue",
        wear=DARK,
    ),
    _clip(
        *("hips-shoot", "hips shoot", "clean floor none"),
        _Shot(px_per_m=135.0, distance_m=3.2),
        *("brick",),
        plate="red",
        faults={"hips-shoot": 1.0},
    ),
    _clip(
        *("behind-the-bar", "shoulders behind the bar, hand", "snatch floor none"),
        _Shot(px_per_m=135.0, facing="left", more={"shake_px": 1.8}),
        *("bright",),
        lifter="strong woman",
        faults={"back-behind-bar": 1.0},
    ),
    _clip(
        *("hip-not-finished", "hip not finished, aside", "clean floor none"),
        _Shot(px_per_m=135.0, yaw_deg=10.0, distance_m=3.6),
        *("glass", 0.15),
        plate="yellow",
        faults={"incomplete-hip": 1.0},
    ),
    _clip(
        *("stack-aside", "stack, aside, soft", "clean hang full"),
        _Shot(px_per_m=125.0, yaw_deg=-25.0, distance_m=3.4),
        *("machines", 0.15),
        plate="iron",
        stack=3,
        soft_px=1.4,
    ),
    _clip(
        *("far-plate", "aside, far plate before a pale wall", "snatch hang power"),
        _Shot(480, 270, 98.0, 0.94, yaw_deg=25.0, distance_m=2.5, more={"fps": 24.0}),
        *("bright", 0.14),
        plate="dark",
        lifter="tall man",
        wear=DARK,
    ),
    _clip(
        *("frozen", "repeated, frozen", "clean floor power"),
        _Shot(px_per_m=128.0, facing="left", more={"freezes": ((0.9, 1.0),), "crf": 30}),
        *("racks",),
        plate="red",
        lifter="woman",
    ),
)
"""Every clip by what it is for."""
