"""What can be done by hand on the open film: on the path, on the body, with drawings."""

from collections.abc import Callable
from functools import partial

from keen_kettle.desk.kit.action import Action
from keen_kettle.desk.state.review.body_model import BodyModel
from keen_kettle.desk.state.review.drawing_model import DrawingModel
from keen_kettle.desk.state.review.hand_model import HandModel
from keen_kettle.desk.state.review.review_model import ReviewModel

__all__ = ["body_actions", "drawing_actions", "hand_actions"]

OnFilm = Callable[[], bool]


def hand_actions(review: ReviewModel, hand: HandModel, on_film: OnFilm) -> tuple[Action, ...]:
    # Long: a table, one entry after another.
    def marked() -> bool:
        return on_film() and review.clip is not None and bool(review.clip.marks)

    def tracked() -> bool:
        return marked() and review.track is not None

    def hidden_here() -> bool:
        return marked() and review.clip is not None and review.clip.hand.hides(review.frame)

    def made(
        name: str,
        words: str,
        key: str,
        help: str,
        do: Callable[[], object],
        may: Callable[[], bool] = marked,
    ) -> Action:
        return Action(name, words, "By hand", (key,), help, do, may)

    return (
        made(
            *("doubt", "Next doubtful frame", "N", "Doubtful or lost."),
            *(partial(hand.next_doubt, 1), tracked),
        ),
        made(
            *("doubt_before", "Doubtful frame before", "Shift+N", ""),
            *(partial(hand.next_doubt, -1), tracked),
        ),
        made(
            *("confirm", "The point is right", "Y", "It becomes a fixed point."),
            *(hand.confirm, tracked),
        ),
        made(
            *("click", "Click through", "C"),
            "Click the bar frame by frame; Enter takes the expected place. C again keeps the points.",
            hand.toggle_clicking,
            lambda: marked() and not review.tracking,
        ),
        made(
            *("span", "Begin a span here", "B", "Then go to its end; H or J."),
            *(hand.begin_span, tracked),
        ),
        made(
            *("hide", "Hide the span", "H", "A gap: the begun span, or the doubtful stretch."),
            *(partial(hand.set_span, "hidden"), tracked),
        ),
        made(
            *("bridge", "Bridge the span", "J", "A smooth curve over it, marked as such."),
            *(partial(hand.set_span, "bridged"), tracked),
        ),
        made("unspan", "Clear the span here", "Shift+H", "", hand.clear_span, hidden_here),
        made(
            *("from_here", "Follow from here on", "Shift+B", "Again: all of it."),
            partial(hand.set_limit, "first"),
        ),
        made(
            *("to_here", "Follow up to here", "Shift+J", "Again: all of it."),
            partial(hand.set_limit, "last"),
        ),
        made(
            *("measure", "Set two points of the scale", "Shift+M"),
            "Drag between two points whose distance is known.",
            partial(hand.start_measuring, "scale"),
        ),
        made(
            *("upright", "Set the vertical", "Shift+U"),
            "Drag along a post, a door or a rack: forward and rearward are read against it.",
            partial(hand.start_measuring, "upright"),
        ),
    )


def body_actions(review: ReviewModel, body: BodyModel, on_film: OnFilm) -> tuple[Action, ...]:
    # Long: a table, one entry after another.
    def ready() -> bool:
        return on_film() and review.track is not None and not review.tracking

    def known() -> bool:
        return ready() and body.track is not None

    def chosen() -> bool:
        return known() and bool(body.chosen)

    def made(
        name: str,
        words: str,
        key: str,
        help: str,
        do: Callable[[], object],
        may: Callable[[], bool],
    ) -> Action:
        return Action(name, words, "Body", (key,), help, do, may)

    return (
        made(
            *("body_show", "Show or hide the body", "K", "Landmarks over the film."),
            *(body.switch_shown, known),
        ),
        made(
            *("body_find", "Find the body anew", "Ctrl+K", "Landmarks, in the background."),
            body.find_again,
            lambda: ready() and not body.searching and not body.why_not,
        ),
        made(
            *("body_seed", "Show where the lifter is", "Ctrl+Shift+K"),
            "Drag from hip to shoulder on a frame where the lifter was lost.",
            body.start_seeding,
            lambda: ready() and not body.why_not,
        ),
        made(
            *("turn", "The lifter looks the other way", "F", "Turns forward and back round."),
            body.turn,
            lambda: on_film() and review.clip is not None,
        ),
        made(
            *("body_hide", "Hide the chosen point", "Shift+K"),
            "Over the begun span (B), or on this frame.",
            *(body.hide, chosen),
        ),
        made(
            *("body_plant", "The foot stands still", "P"),
            "Over the begun span (B), or round this frame.",
            *(body.plant, known),
        ),
        made(
            *("body_free", "Free the chosen point", "Shift+P", "Takes back the work by hand."),
            *(body.free, chosen),
        ),
    )


def drawing_actions(
    review: ReviewModel, drawing: DrawingModel, on_film: OnFilm
) -> tuple[Action, ...]:
    # Long: a table, one entry after another.
    def ready() -> bool:
        return on_film() and not review.marking and not review.tracking

    def bodily() -> bool:
        return ready() and review.body is not None

    def chosen() -> bool:
        return ready() and drawing.drawing is not None

    def made(
        name: str,
        words: str,
        key: str,
        help: str,
        do: Callable[[], object],
        may: Callable[[], bool],
    ) -> Action:
        return Action(f"draw_{name}", words, "Draw", (key,), help, do, may)

    def tool(kind: str, words: str, key: str, help: str) -> Action:
        return made(kind, words, key, help, partial(drawing.choose_tool, kind), ready)

    return (
        made(
            *("back", "Line along the back", "Shift+L"),
            "From hip to shoulder on this frame; it follows them.",
            *(partial(drawing.draw_held, "line", ("hip", "shoulder")), bodily),
        ),
        made(
            *("plumb", "Plumb line from the shoulder", "Shift+V"),
            "How far the bar is behind or ahead of it.",
            *(partial(drawing.draw_held, "vertical", ("shoulder",)), bodily),
        ),
        tool("line", "Line", "L", "Its tilt and its length."),
        tool("angle", "Angle", "G", "Three points; the second is the apex."),
        tool("vertical", "Plumb line", "V", "Against the bar, in cm."),
        tool("horizontal", "Level line", "U", "Against the bar, in cm."),
        tool(
            *("between", "Way between two frames", "X"),
            "Time, and how far it is forward and up from one place to the other.",
        ),
        tool("pen", "Freehand", "R", "For pointing."),
        tool("note", "Note", "O", "A few words, pinned to this time."),
        made(
            *("elsewhere", "Follow, ghost, or only here", "S"),
            "What other frames show of the chosen drawing; its ghost is for comparing.",
            drawing.next_elsewhere,
            lambda: chosen() and drawing.may_stay,
        ),
        made(
            *("remove", "Remove the drawing", "Del", "The chosen one."), *(drawing.remove, chosen)
        ),
        made(
            *("show", "Show or hide drawings", "I", "All drawings of the clip."),
            drawing.switch_shown,
            lambda: ready() and review.clip is not None and bool(review.clip.drawings),
        ),
    )
