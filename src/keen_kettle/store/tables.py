"""The tables as SQLAlchemy Core knows them; their making is the migrations' work."""

from sqlalchemy import REAL, Column, ForeignKey, Integer, LargeBinary, MetaData, Table, Text

__all__ = [
    "HEAD",
    "answers",
    "assessments",
    "athletes",
    "bests",
    "bodies",
    "clips",
    "complexes",
    "correctives",
    "drills",
    "findings",
    "groups",
    "judged",
    "jumps",
    "ladders",
    "members",
    "metadata",
    "screenings",
    "settings",
    "steps",
    "tracks",
    "tries",
    "visits",
]

HEAD = "0011"
"""The newest migration; a data file at this revision needs none."""

metadata = MetaData()

athletes = Table(
    "athletes",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("name", Text, nullable=False),
    Column("stature_m", REAL),
    Column("cautions", Text, nullable=False),
    Column("equipment", Text, nullable=False),
    Column("trained", Integer, nullable=False),
    Column("birth_year", Integer),
    Column("sex", Text, nullable=False),
    Column("weight_class", Text, nullable=False),
    Column("mass_kg", REAL),
    Column("lengths_m", Text, nullable=False),
    Column("grips_m", Text, nullable=False),
    Column("aim", Text, nullable=False),
    Column("sport", Text, nullable=False),
    Column("training_years", REAL, nullable=False),
    Column("sessions_week", Integer, nullable=False),
    Column("school", Text, nullable=False),
    Column("consent", Text, nullable=False),
    Column("notes", Text, nullable=False),
    Column("photo", LargeBinary),
    Column("archived_on", Text),
    Column("lifting_years", REAL),
    Column("wants_lifts", Integer, nullable=False),
    Column("own_lift", Text, nullable=False),
)

groups = Table(
    "groups",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("name", Text, nullable=False),
    Column("pace", Text, nullable=False, default=""),
    Column("weeks", Integer, nullable=False, default=0),
)

members = Table(
    "members",
    metadata,
    Column("group_id", ForeignKey("groups.id", ondelete="CASCADE"), primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), primary_key=True),
)

screenings = Table(
    "screenings",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("check_id", Text, nullable=False),
    Column("state", Text, nullable=False),
    Column("on_day", Text, nullable=False),
    Column("note", Text, nullable=False),
)

visits = Table(
    "visits",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("ladder", Text, nullable=False),
    Column("stage", Text, nullable=False),
    Column("on_day", Text, nullable=False),
    Column("met", Text, nullable=False),
    Column("asked", Integer, nullable=False),
    Column("faults", Text, nullable=False),
    Column("reps", Integer),
    Column("load_kg", REAL),
    Column("enjoyment", Integer, nullable=False),
    Column("pain", Integer, nullable=False),
    Column("note", Text, nullable=False),
    Column("advised", Text, nullable=False),
    Column("reason", Text, nullable=False),
    Column("decided", Text, nullable=False),
    Column("why", Text, nullable=False),
    Column("confidence", Text, nullable=False),
    Column("verdict", Text, nullable=False),
)

jumps = Table(
    "jumps",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("on_day", Text, nullable=False),
    Column("height_m", REAL, nullable=False),
)

tries = Table(
    "tries",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("on_day", Text, nullable=False),
    Column("movement", Text, nullable=False),
    Column("met", Integer, nullable=False),
    Column("asked", Integer, nullable=False),
    Column("liked", Integer, nullable=False),
    Column("speed_mps", REAL),
)

steps = Table(
    "steps",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("ladder", Text, nullable=False),
    Column("stage", Text, nullable=False),
    Column("on_day", Text, nullable=False),
    Column("kind", Text, nullable=False),
    Column("why", Text, nullable=False),
)

ladders = Table(
    "ladders",
    metadata,
    Column("id", Text, primary_key=True),
    Column("document", Text, nullable=False),
)

bests = Table(
    "bests",
    metadata,
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), primary_key=True),
    Column("lift", Text, primary_key=True),
    Column("kg", REAL, nullable=False),
)

clips = Table(
    "clips",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="SET NULL")),
    Column("path", Text, nullable=False),
    Column("sha256", Text, nullable=False, unique=True),
    Column("frames", Integer, nullable=False),
    Column("duration_s", REAL, nullable=False),
    Column("filmed_on", Text, nullable=False),
    Column("lift", Text, nullable=False),
    Column("mass_kg", REAL),
    Column("facing", Text, nullable=False),
    Column("diameter_mm", REAL, nullable=False),
    Column("marks", Text, nullable=False),
    Column("thumbnail", LargeBinary, nullable=False),
    Column("steady", Integer, nullable=False),
    Column("capture_fps", REAL),
    Column("followed", Text, nullable=False),
    Column("scale_by", Text, nullable=False),
    Column("scale_points", Text),
    Column("upright", Text),
    Column("body", Text, nullable=False),
    Column("drawings", Text, nullable=False),
    Column("waits", Text, nullable=False),
    Column("background", Text, nullable=False),
    Column("trouble", Text, nullable=False),
    Column("guess", Text, nullable=False),
)

bodies = Table(
    "bodies",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
    Column("made_from", Text, nullable=False),
    Column("data", LargeBinary, nullable=False),
)

assessments = Table(
    "assessments",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
    Column("made_from", Text, nullable=False),
    Column("data", LargeBinary, nullable=False),
)

tracks = Table(
    "tracks",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
    Column("thing", Text, primary_key=True),
    Column("made_from", Text, nullable=False),
    Column("data", LargeBinary, nullable=False),
)

correctives = Table(
    "correctives",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), nullable=False),
    Column("clip_id", ForeignKey("clips.id", ondelete="SET NULL")),
    Column("fault", Text, nullable=False),
    Column("drill", Text, nullable=False),
    Column("family", Text, nullable=False),
    Column("name", Text, nullable=False),
    Column("load_kg", REAL),
    Column("dose", Text, nullable=False),
    Column("reason", Text, nullable=False),
    Column("taken_on", Text, nullable=False),
    Column("review_on", Text, nullable=False),
    Column("cue", Text, nullable=False),
    Column("implement", Text, nullable=False),
    Column("measure", Text, nullable=False),
    Column("before_value", REAL),
    Column("before_sigma", REAL),
    Column("outcome", Text, nullable=False),
    Column("ended_on", Text),
    Column("after_clip", Integer),
    Column("after_value", REAL),
    Column("after_sigma", REAL),
    Column("outcome_says", Text, nullable=False),
)

findings = Table(
    "findings",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
    Column("fault", Text, primary_key=True),
    Column("family", Text, nullable=False),
    Column("severity", REAL, nullable=False),
    Column("confidence", REAL, nullable=False),
    Column("measure", Text, nullable=False),
    Column("value", REAL),
    Column("sigma", REAL),
)

judged = Table(
    "judged",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
    Column("family", Text, nullable=False),
    Column("measures", Text, nullable=False),
)

answers = Table(
    "answers",
    metadata,
    Column("athlete_id", ForeignKey("athletes.id", ondelete="CASCADE"), primary_key=True),
    Column("fault", Text, primary_key=True),
    Column("answer", Text, nullable=False),
    Column("on_day", Text, nullable=False),
)

drills = Table(
    "drills",
    metadata,
    Column("id", Text, primary_key=True),
    Column("document", Text, nullable=False),
)

movements = Table(
    "movements",
    metadata,
    Column("name", Text, primary_key=True),
    Column("document", Text, nullable=False),
)

complexes = Table(
    "complexes",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("name", Text, nullable=False),
    Column("text", Text, nullable=False),
    Column("on_day", Text, nullable=False),
)

settings = Table(
    "settings",
    metadata,
    Column("name", Text, primary_key=True),
    Column("value", Text, nullable=False),
)
