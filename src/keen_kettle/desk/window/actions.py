"""Every action once: its words, its menu, its keys and its help. Menus, shortcuts and help read this."""

from dataclasses import dataclass

__all__ = ["ACTIONS", "MENUS", "ActionWords"]


@dataclass(frozen=True)
class ActionWords:
    id: str
    words: str
    menu: str
    keys: tuple[str, ...]
    help: str


MENUS = ("File", "Edit", "Film", "Review", "By hand", "Body", "Draw", "Go", "View", "Help")

ACTIONS = (
    ActionWords(
        "add_clip",
        "Add a clip …",
        "File",
        ("Ctrl+O",),
        "Choose a film of a lift; or drop one on the window.",
    ),
    ActionWords(
        "add_folder",
        "Add a folder …",
        "File",
        ("Ctrl+Shift+O",),
        "All films in it, looked through in the background.",
    ),
    ActionWords(
        "choose_inbox",
        "Choose the inbox …",
        "File",
        ("Ctrl+Shift+I",),
        "A folder in which films arrive; they come into the queue by themselves.",
    ),
    ActionWords(
        "remove_clip",
        "Remove the chosen clip",
        "File",
        ("Ctrl+Del",),
        "From the list on Film; the film itself stays where it is.",
    ),
    ActionWords(
        "export_json",
        "Export analysis (JSON) …",
        "File",
        ("Ctrl+E",),
        "Path, events, measures and findings in one document.",
    ),
    ActionWords(
        "export_path",
        "Export path (CSV) …",
        "File",
        ("Ctrl+Shift+E",),
        "One row a frame, in pixels and metres.",
    ),
    ActionWords(
        "export_measures",
        "Export measures (CSV) …",
        "File",
        ("Ctrl+Alt+E",),
        "One row a measure, in SI units.",
    ),
    ActionWords(
        "export_landmarks",
        "Export landmarks (CSV) …",
        "File",
        ("Ctrl+Shift+L",),
        "One row a frame and point, in pixels and metres.",
    ),
    ActionWords(
        "export_trc",
        "Export landmarks (TRC) …",
        "File",
        ("Ctrl+Alt+L",),
        "Marker trajectories in millimetres, for other programs.",
    ),
    ActionWords(
        "export_film",
        "Export film with the path (MP4) …",
        "File",
        ("Ctrl+Shift+F",),
        "Path, trail, figures and drawings in the picture, at the speed chosen under the film; no names.",
    ),
    ActionWords("quit", "Quit", "File", ("Ctrl+Q",), "Everything is saved already."),
    ActionWords("undo", "Undo", "Edit", ("Ctrl+Z",), "Take back what was done last."),
    ActionWords("redo", "Redo", "Edit", ("Ctrl+Shift+Z", "Ctrl+Y"), "Do it again."),
    ActionWords("play", "Play or pause", "Film", ("Space",), "Plays at the chosen speed."),
    ActionWords("back", "One frame back", "Film", ("Left", ","), "Hold to run backwards."),
    ActionWords("forward", "One frame on", "Film", ("Right", "."), "Hold to run forwards."),
    ActionWords("back_ten", "Ten frames back", "Film", ("Shift+Left",), ""),
    ActionWords("forward_ten", "Ten frames on", "Film", ("Shift+Right",), ""),
    ActionWords("first", "First frame", "Film", ("Home",), ""),
    ActionWords("last", "Last frame", "Film", ("End",), ""),
    ActionWords("speed_1", "Full speed", "Film", ("1",), ""),
    ActionWords("speed_2", "1/2 speed", "Film", ("2",), ""),
    ActionWords("speed_3", "1/4 speed", "Film", ("3",), ""),
    ActionWords("speed_4", "1/8 speed", "Film", ("4",), ""),
    ActionWords(
        "mark",
        "Mark the plate",
        "Review",
        ("M",),
        "Centre and rim of the near plate, on the frame that is shown.",
    ),
    ActionWords("unmark", "Remove the marks", "Review", ("Ctrl+M",), "Start the clip over."),
    ActionWords("track", "Track the bar", "Review", ("T",), "Follow the plate through the film."),
    ActionWords("stop", "Stop, or turn down a suggestion", "Review", ("Esc",), "The mark is kept."),
    ActionWords(
        "take",
        "Take the first corrective",
        "Review",
        ("Ctrl+Return",),
        "Write it to the athlete's record.",
    ),
    *(
        ActionWords(
            f"answer_{number}",
            f"Answer {number}",
            "Review",
            (f"Ctrl+Alt+{number}",),
            "To the question that tells the causes of a fault apart.",
        )
        for number in range(1, 5)
    ),
    ActionWords(
        "accept",
        "Accept what is suggested",
        "Review",
        ("A",),
        "Whose clip it is, the plate that was found, where the lifter looks, which lift it is.",
    ),
    ActionWords("queue_next", "Next clip that waits", "Review", ("Q",), "Of the chosen who."),
    ActionWords(
        "queue_pause",
        "Let the queue rest, or go on",
        "Review",
        ("Ctrl+P",),
        "The background looks through clips one by one.",
    ),
    ActionWords("rep_before", "The lift before", "Review", ("[",), "In a clip of several lifts."),
    ActionWords("rep_after", "The next lift", "Review", ("]",), "In a clip of several lifts."),
    ActionWords(
        "beside",
        "Beside another clip",
        "Review",
        ("Ctrl+B",),
        "All measures of two clips: left and right arm, before and after.",
    ),
    ActionWords(
        "closer",
        "Close to the lifter",
        "Review",
        ("Z",),
        "Again: the whole picture. The wheel enlarges what is under it; drag moves it.",
    ),
    ActionWords("whole", "Whole film on the time line", "Review", ("W",), "Or only the lift."),
    ActionWords("doubt", "Next doubtful frame", "By hand", ("N",), "Doubtful or lost."),
    ActionWords("doubt_before", "Doubtful frame before", "By hand", ("Shift+N",), ""),
    ActionWords("confirm", "The point is right", "By hand", ("Y",), "It becomes a fixed point."),
    ActionWords(
        "click",
        "Click through",
        "By hand",
        ("C",),
        "Click the bar frame by frame; Enter takes the expected place. C again keeps the points.",
    ),
    ActionWords("span", "Begin a span here", "By hand", ("B",), "Then go to its end; H or J."),
    ActionWords(
        "hide",
        "Hide the span",
        "By hand",
        ("H",),
        "A gap: the begun span, or the doubtful stretch.",
    ),
    ActionWords(
        "bridge", "Bridge the span", "By hand", ("J",), "A smooth curve over it, marked as such."
    ),
    ActionWords("unspan", "Clear the span here", "By hand", ("Shift+H",), ""),
    ActionWords("from_here", "Follow from here on", "By hand", ("Shift+B",), "Again: all of it."),
    ActionWords("to_here", "Follow up to here", "By hand", ("Shift+J",), "Again: all of it."),
    ActionWords(
        "measure",
        "Set two points of the scale",
        "By hand",
        ("Shift+M",),
        "Drag between two points whose distance is known.",
    ),
    ActionWords(
        "upright",
        "Set the vertical",
        "By hand",
        ("Shift+U",),
        "Drag along a post, a door or a rack: forward and rearward are read against it.",
    ),
    ActionWords("body_show", "Show or hide the body", "Body", ("K",), "Landmarks over the film."),
    ActionWords(
        "body_find", "Find the body anew", "Body", ("Ctrl+K",), "Landmarks, in the background."
    ),
    ActionWords(
        "body_seed",
        "Show where the lifter is",
        "Body",
        ("Ctrl+Shift+K",),
        "Drag from hip to shoulder on a frame where the lifter was lost.",
    ),
    ActionWords(
        "turn", "The lifter looks the other way", "Body", ("F",), "Turns forward and back round."
    ),
    ActionWords(
        "body_hide",
        "Hide the chosen point",
        "Body",
        ("Shift+K",),
        "Over the begun span (B), or on this frame.",
    ),
    ActionWords(
        "body_plant",
        "The foot stands still",
        "Body",
        ("P",),
        "Over the begun span (B), or round this frame.",
    ),
    ActionWords(
        "body_free", "Free the chosen point", "Body", ("Shift+P",), "Takes back the work by hand."
    ),
    *(
        ActionWords(
            f"moment_{number}",
            f"Go to moment {number}",
            "Body",
            (f"Alt+{number}",),
            "A key position of the lift, in their order over the time line.",
        )
        for number in range(1, 10)
    ),
    ActionWords(
        "draw_back",
        "Line along the back",
        "Draw",
        ("Shift+L",),
        "From hip to shoulder on this frame; it follows them.",
    ),
    ActionWords(
        "draw_plumb",
        "Plumb line from the shoulder",
        "Draw",
        ("Shift+V",),
        "How far the bar is behind or ahead of it.",
    ),
    ActionWords("draw_line", "Line", "Draw", ("L",), "Its tilt and its length."),
    ActionWords("draw_angle", "Angle", "Draw", ("G",), "Three points; the second is the apex."),
    ActionWords("draw_vertical", "Plumb line", "Draw", ("V",), "Against the bar, in cm."),
    ActionWords("draw_horizontal", "Level line", "Draw", ("U",), "Against the bar, in cm."),
    ActionWords(
        "draw_between",
        "Way between two frames",
        "Draw",
        ("X",),
        "Time, and how far it is forward and up from one place to the other.",
    ),
    ActionWords("draw_pen", "Freehand", "Draw", ("R",), "For pointing."),
    ActionWords("draw_note", "Note", "Draw", ("O",), "A few words, pinned to this time."),
    ActionWords(
        "draw_elsewhere",
        "Follow, ghost, or only here",
        "Draw",
        ("S",),
        "What other frames show of the chosen drawing; its ghost is for comparing.",
    ),
    ActionWords("draw_remove", "Remove the drawing", "Draw", ("Del",), "The chosen one."),
    ActionWords("draw_show", "Show or hide drawings", "Draw", ("I",), "All drawings of the clip."),
    ActionWords(
        "go_screen", "Screen", "Go", ("Ctrl+1",), "Athletes, what they can do safely, their fit."
    ),
    ActionWords("go_teach", "Teach", "Go", ("Ctrl+2",), "Board, visits, ladders, try-outs."),
    ActionWords("go_film", "Film", "Go", ("Ctrl+3",), "All clips, and what waits in them."),
    ActionWords(
        "go_review", "Review", "Go", ("Ctrl+4",), "The film, the bar's path, the one thing to say."
    ),
    ActionWords(
        "go_prescribe", "Prescribe", "Go", ("Ctrl+5",), "Drills, warm-up, complex, session sheet."
    ),
    ActionWords(
        "correctives", "Correctives", "Go", ("Shift+F2",), "What was seen, and the drills for it."
    ),
    ActionWords("warmup", "Warm-up", "Go", ("Shift+F3",), "Opening, build-up, the first rep."),
    ActionWords("complex", "Complex", "Go", ("Shift+F4",), "The best string for what is wanted."),
    ActionWords("session", "Session sheet", "Go", ("Shift+F5",), "One page, to print or send."),
    ActionWords("drills", "Drills", "Go", ("Shift+F6",), "The library, and your own drills."),
    ActionWords("faults", "Faults shown", "Go", ("Shift+F7",), "Beside the right way, by degree."),
    ActionWords("go_record", "Record", "Go", ("Ctrl+6",), "Correctives that run, and plates."),
    ActionWords("athletes", "Athletes", "Go", ("F2",), "Enter athletes, change their facts."),
    ActionWords("screening", "Screening", "Go", ("F3",), "Nine checks and what to do about them."),
    ActionWords("fit", "Fit", "Go", ("F4",), "Grips, overhead height, start height."),
    ActionWords("board", "Board", "Go", ("F5",), "Who is where, who is due, who is stuck."),
    ActionWords("visit", "Visit", "Go", ("F6",), "Mark a whole group's visit."),
    ActionWords("ladders", "Ladders", "Go", ("F7",), "Stages with their moving figures."),
    ActionWords("choose", "Choose a ladder", "Go", ("F8",), "Ranked ladders with reasons."),
    ActionWords("tryout", "Try-out", "Go", ("F9",), "Variants in one visit; jump heights."),
    ActionWords("compare", "Compare movements", "Go", ("F10",), "Two side by side, with a sheet."),
    ActionWords(
        "daylight", "Daylight theme", "View", ("Ctrl+L",), "Light surfaces for a bright hall."
    ),
    ActionWords("keys", "Keys", "Help", ("F1",), "All actions and their keys."),
    ActionWords("cautions", "Cautions", "Help", (), "What to keep in mind before anyone lifts."),
)
