"""Movements that are not derivatives but stand in ladders and sessions: squats, presses, jumps."""

from dataclasses import dataclass

__all__ = ["BELOW", "HELPERS", "HIGH_HANG", "LOW_HANG", "PLACES", "STANCES", "Helper", "Nature"]

LOW_HANG, HIGH_HANG = "hang below the knee", "hang above the knee"
PLACES = ("floor", "blocks", LOW_HANG, HIGH_HANG, "hip", "front rack", "back", "overhead")
STANCES = ("hip width", "squat width", "split")
"""Where a load can be, and how the feet can stand, before and after a movement."""
BELOW, RECEIVED = (*PLACES[:5],), ("front rack", "overhead")


@dataclass(frozen=True)
class Nature:
    """What is said of a coach's own movement, where that of a shipped one is known.

    `begins` and `ends` are of `PLACES`, `stances` (before, after) of `STANCES`, `grips` those it can
    be done with ("snatch", "clean"; bells have none), `trains` ids of qualities, `difficulty` 1
    (simplest) to 9, `share` the most of the best of `priced_by` that it can carry (1 = best).
    `shown_as` names the movement whose figure shows it.
    """

    begins: str
    ends: str
    grips: tuple[str, ...]
    stances: tuple[str, str]
    trains: tuple[str, ...]
    difficulty: int
    priced_by: str
    share: float
    shown_as: str = ""

    @property
    def caught(self) -> bool:
        """Whether the load comes from below into the rack or overhead."""
        return self.begins in BELOW and self.ends in RECEIVED


@dataclass(frozen=True)
class Helper:
    """A helper movement.

    `family` is squat, press, hinge, jump, pull, hold, footwork or swing; `areas` are the parts of
    the body that it loads (shoulder, wrist, elbow, back); `checks` the screening checks that it
    needs; `figure` names the way the synthesiser shows it. A coach's own has its `nature` with it.
    """

    name: str
    family: str
    figure: str
    implement: str = "barbell"
    checks: tuple[str, ...] = ()
    areas: tuple[str, ...] = ()
    equipment: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    nature: Nature | None = None


BAR, STICK = ("bar",), ("stick",)
RACK = ("wrist", "elbow")
OVER = ("shoulder", "wrist")

_ALL = (
    Helper("front squat", "squat", "front squat", "barbell", ("front-rack",), RACK, BAR, ("fsq",)),
    Helper(
        "front squat, strap rack",
        "squat",
        "front squat",
        "barbell",
        (),
        (),
        ("bar", "straps"),
        ("front squat with straps", "front squat, straps", "strap front squat"),
    ),
    Helper("front squat, crossed arms", "squat", "front squat", "barbell", (), (), BAR),
    Helper("goblet squat", "squat", "goblet squat", "kettlebell", (), (), ("kettlebell",)),
    Helper("back squat", "squat", "back squat", "barbell", (), ("back",), BAR, ("bsq",)),
    Helper(
        "overhead squat",
        "squat",
        "overhead squat",
        "barbell",
        ("overhead-quarter", "pain-free-overhead"),
        OVER,
        BAR,
        ("ohs",),
    ),
    Helper(
        "quarter overhead squat",
        "squat",
        "quarter overhead squat",
        "stick",
        ("pain-free-overhead",),
        OVER,
        STICK,
        ("overhead squat, quarter",),
    ),
    Helper(
        "snatch balance",
        "squat",
        "snatch balance",
        "barbell",
        ("overhead-full", "pain-free-overhead"),
        OVER,
        BAR,
        ("drop snatch",),
    ),
    Helper("Romanian deadlift", "hinge", "rdl", "barbell", (), ("back",), BAR, ("rdl",)),
    Helper(
        "deadlift to knee",
        "hinge",
        "lift to knee",
        "barbell",
        ("start-position",),
        ("back",),
        BAR,
        (
            "floor to knee",
            "lift to knee",
            "clean deadlift to knee",
            "clean pull to knee",
            "pull to knee",
        ),
    ),
    Helper(
        "snatch deadlift to knee",
        "hinge",
        "lift to knee",
        "barbell",
        ("start-position",),
        ("back",),
        BAR,
        ("snatch pull to knee", "snatch lift to knee"),
    ),
    Helper(
        "clean and jerk",
        "pull",
        "clean and jerk",
        "barbell",
        (
            *("start-position", "front-rack", "front-squat"),
            *("pain-free-rack", "pain-free-overhead", "bailing"),
        ),
        ("back", "wrist", "elbow", "shoulder"),
        BAR,
        ("clean jerk", "c and j", "c j", "cj"),
    ),
    Helper(
        "dip and drive",
        "press",
        "dip and drive",
        "barbell",
        ("front-rack", "pain-free-rack"),
        RACK,
        BAR,
        ("jerk dip and drive", "dip drive", "jerk drive", "jerk dip"),
    ),
    Helper(
        "strict press",
        "press",
        "press",
        "barbell",
        ("pain-free-overhead",),
        OVER,
        BAR,
        ("press", "shoulder press"),
    ),
    Helper(
        "press in split", "press", "press in split", "barbell", ("pain-free-overhead",), OVER, BAR
    ),
    Helper("jerk balance", "press", "jerk balance", "barbell", ("pain-free-overhead",), OVER, BAR),
    Helper(
        "snatch-grip push press",
        "press",
        "snatch push press",
        "barbell",
        ("pain-free-overhead",),
        OVER,
        BAR,
        ("snatch push press", "snatch-grip push press behind the neck"),
    ),
    Helper(
        "overhead support",
        "hold",
        "overhead hold",
        "stick",
        ("pain-free-overhead",),
        OVER,
        STICK,
        ("overhead hold",),
    ),
    Helper(
        "upright row, turnover, press",
        "press",
        "row turnover press",
        "stick",
        ("pain-free-overhead",),
        OVER,
        STICK,
    ),
    Helper(
        "start position hold",
        "hold",
        "start hold",
        "barbell",
        (),
        (),
        BAR,
        ("set position hold", "start hold"),
    ),
    Helper("snatch start position hold", "hold", "start hold", "barbell", (), (), BAR),
    Helper("front rack hold", "hold", "rack hold", "barbell", (), RACK, BAR, ("rack hold",)),
    Helper("split footwork", "footwork", "split footwork", "none"),
    Helper("slide to above knee and stand", "hinge", "slide", "stick", (), (), STICK, ("slide",)),
    Helper(
        "extension rehearsal",
        "hold",
        "extension rehearsal",
        "stick",
        (),
        (),
        STICK,
        ("stand, toes, shrug",),
    ),
    Helper("bail practice", "hold", "bail", "barbell", (), (), BAR),
    Helper(
        "one-arm swing",
        "swing",
        "swing",
        "kettlebell",
        (),
        ("back",),
        ("kettlebell",),
        ("kettlebell swing", "kb swing", "swing"),
    ),
    Helper("dumbbell swing", "swing", "swing", "dumbbell", (), ("back",), ("dumbbell",)),
    Helper(
        "assisted kettlebell rack",
        "swing",
        "assisted rack",
        "kettlebell",
        (),
        (),
        ("kettlebell",),
        ("two-hand-assisted rack",),
    ),
    Helper(
        "high swing, elbow close",
        "swing",
        "high swing",
        "kettlebell",
        (),
        ("back",),
        ("kettlebell",),
        ("higher swing",),
    ),
    Helper(
        "one-arm high pull",
        "swing",
        "one-arm high pull",
        "kettlebell",
        (),
        (),
        ("kettlebell",),
        ("kettlebell high pull", "kb high pull"),
    ),
    Helper("jump", "jump", "jump", "none", (), (), (), ("vertical jump",)),
    Helper("box jump", "jump", "jump", "none", (), (), ("box",)),
    Helper("throw", "jump", "throw", "none", (), (), ("ball",), ("ball throw",)),
    Helper("lunge", "squat", "lunge", "none"),
    Helper("push-up", "press", "push-up", "none", also=("pushup", "press-up")),
)

HELPERS: dict[str, Helper] = {one.name: one for one in _ALL}
"""Every helper movement by its name."""
