"""Films for the bench of the body: people of several shapes, lifts, views, and what spoils films."""

from bench.films import DARK, RED, SMALL, Kind
from keen_kettle.core.simulate import Body, Camera, Filming, LiftScript, Look

__all__ = ["BODY_KINDS"]

LEFT = Camera(facing="left")
FIVE = Camera(px_per_m=250.0, distance_m=5.0)
TALL = Body(1.92, leg_share=1.04)
SHORT = Body(1.55, leg_share=0.96, trunk_share=1.04)
PALE = Look(shirt=(170, 176, 180), shorts=(120, 70, 40), skin=(160, 186, 226), hair=(60, 110, 170))
DEEP = Look(
    shirt=(60, 60, 190), shorts=(40, 40, 42), skin=(62, 84, 128), hair=(22, 22, 24), girth=1.1
)


def _lift(family: str, receive: str = "full", start: str = "floor", **more: object) -> LiftScript:
    return LiftScript(family, start, receive, still_s=0.5, end_s=0.5, **more)  # type: ignore[arg-type]


def _seen(yaw_deg: float) -> Camera:
    return Camera(px_per_m=250.0, distance_m=5.0, yaw_deg=yaw_deg)


def _film(camera: Camera, look: Look | None = None, fps: float = 30.0, **more: object) -> Filming:
    return Filming(fps=fps, camera=camera, look=look or Look(), **more)  # type: ignore[arg-type]


SIDE = (
    Kind("snatch", "none", "side", _lift("snatch"), _film(Camera())),
    Kind("clean, left", "none", "side", _lift("clean"), _film(LEFT, PALE)),
    Kind(
        "snatch, left, 5 m",
        "none",
        "side",
        _lift("snatch"),
        _film(Camera(px_per_m=250.0, distance_m=5.0, facing="left"), DEEP),
    ),
    Kind(
        "power clean, tall", "none", "side", _lift("clean", "power", body=TALL), _film(FIVE, DEEP)
    ),
    Kind(
        "power snatch, short", "none", "side", _lift("snatch", "power", body=SHORT), _film(Camera())
    ),
    Kind(
        "clean pull, 60 a second", "none", "side", _lift("clean", "none"), _film(FIVE, PALE, 60.0)
    ),
    Kind("hang snatch", "none", "side", _lift("snatch", start="hang"), _film(Camera(), RED)),
    Kind("power jerk", "none", "side", _lift("jerk", "power"), _film(Camera())),
    Kind("split jerk, tall", "none", "side", _lift("jerk", "split", body=TALL), _film(FIVE, PALE)),
    Kind(
        "clean, hips shoot", "none", "side", _lift("clean", faults={"hips-shoot": 1.0}), _film(FIVE)
    ),
    Kind(
        "snatch, early arms",
        "none",
        "side",
        _lift("snatch", faults={"early-arms": 1.0}),
        _film(Camera()),
    ),
    Kind(
        "clean, hip not finished",
        "none",
        "side",
        _lift("clean", faults={"incomplete-hip": 1.0, "jump-forward": 1.0}),
        _film(LEFT),
    ),
)
SPOILT = (
    Kind("snatch, dark", "dark", "hard", _lift("snatch"), _film(Camera(), DARK)),
    Kind("clean, 640 × 360", "low resolution", "hard", _lift("clean"), _film(SMALL)),
    Kind("snatch, crf 36", "compression", "hard", _lift("snatch"), _film(Camera(), crf=36)),
    Kind(
        "clean, 1/35 s shutter", "blur", "hard", _lift("clean"), _film(Camera(), exposure_s=1 / 35)
    ),
    Kind("snatch, shake 8 px", "shake", "hard", _lift("snatch"), _film(FIVE, shake_px=8.0)),
    Kind("clean, panned", "pan", "hard", _lift("clean"), _film(FIVE, pan_px=150.0)),
    Kind("snatch, passer-by", "passer-by", "hard", _lift("snatch"), _film(FIVE, passer_by=True)),
    Kind(
        "clean before racked plates",
        "like plates",
        "hard",
        _lift("clean"),
        _film(FIVE, Look(racked=True)),
    ),
    Kind(
        "one-arm snatch",
        "bell",
        "hard",
        _lift("snatch", "power"),
        _film(FIVE, Look(plate_diameter_m=0.22, implement="dumbbell")),
    ),
)
ASIDE = (
    Kind("snatch from 20° aside", "view 20°", "aside", _lift("snatch"), _film(_seen(20.0))),
    Kind("clean from 40° aside", "view 40°", "aside", _lift("clean"), _film(_seen(40.0))),
    Kind("snatch from 85° (front)", "view 85°", "front", _lift("snatch"), _film(_seen(85.0))),
)
BODY_KINDS = (*SIDE, *SPOILT, *ASIDE)
