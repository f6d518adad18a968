"""How heavy a movement can be against the best of its lift: the limit that prices a complex.

House defaults, in the order of the field's rules: pulls can pass the best full lift, a power catch
and every shortened start take less, muscle and tall lifts much less.
"""

from keen_kettle.core.lifts import Derivative, Helper, Movement

__all__ = ["share_of"]

START_SHARE = {
    "floor": 1.0,
    "mid-shin": 0.98,
    "below knee": 0.95,
    "knee": 0.93,
    "above knee": 0.90,
    "mid-thigh": 0.85,
    "hip": 0.78,
    "tall": 0.45,
}
RECEIVE_SHARE = {"full": 1.0, "power": 0.85, "split": 0.90, "ride-down": 0.80, "muscle": 0.60}
ACTION_SHARE = {
    "deadlift": 1.10,
    "pull": 1.05,
    "shrug": 1.10,
    "jump shrug": 0.65,
    "high pull": 0.85,
}
JERK_SHARE = {"push": 0.75, "power": 0.90, "split": 1.0, "full": 0.90}
HELPER_SHARE = {
    "front squat": ("clean", 1.05),
    "front squat, strap rack": ("clean", 1.0),
    "front squat, crossed arms": ("clean", 0.9),
    "back squat": ("clean", 1.2),
    "overhead squat": ("snatch", 0.95),
    "quarter overhead squat": ("snatch", 0.5),
    "snatch balance": ("snatch", 0.85),
    "snatch-grip push press": ("snatch", 0.85),
    "overhead support": ("snatch", 0.6),
    "upright row, turnover, press": ("snatch", 0.3),
    "snatch deadlift to knee": ("snatch", 1.05),
    "snatch start position hold": ("snatch", 0.7),
    "Romanian deadlift": ("clean", 0.9),
    "deadlift to knee": ("clean", 1.05),
    "start position hold": ("clean", 0.7),
    "front rack hold": ("clean", 1.0),
    "slide to above knee and stand": ("clean", 0.7),
    "extension rehearsal": ("clean", 0.4),
    "clean and jerk": ("jerk", 1.0),
    "dip and drive": ("jerk", 0.95),
    "strict press": ("jerk", 0.55),
    "press in split": ("jerk", 0.45),
    "jerk balance": ("jerk", 0.65),
}


def share_of(movement: Movement, grip: str = "") -> tuple[str, float]:
    """The lift whose best a movement is priced by, and the most of it that it can carry (1 = best).

    What is done with either grip (from the back, or hinged) is priced by the grip it is done with:
    an overhead movement with the snatch grip is limited by the snatch.
    """
    if isinstance(movement, Helper):
        if movement.nature is not None:
            return movement.nature.priced_by, movement.nature.share
        lift, share = HELPER_SHARE.get(movement.name, ("clean", 0.5))
        either = movement.name in ("Romanian deadlift", "press in split", "back squat")
        return ("snatch", share) if either and grip == "snatch" else (lift, share)
    one: Derivative = movement
    if one.family == "jerk":
        return ("snatch" if grip == "snatch" else "jerk", JERK_SHARE[one.receive])
    if one.receive == "none":
        short = 1.0 if one.action in ("shrug", "jump shrug") else START_SHARE[one.start]
        return one.family, round(ACTION_SHARE[one.action] * short, 3)
    return one.family, round(RECEIVE_SHARE[one.receive] * START_SHARE[one.start], 3)
