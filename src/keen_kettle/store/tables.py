"""The tables as SQLAlchemy Core knows them; their making is the migrations' work."""

from sqlalchemy import REAL, Column, ForeignKey, Integer, LargeBinary, MetaData, Table, Text

__all__ = ["HEAD", "athletes", "bests", "clips", "correctives", "metadata", "settings", "tracks"]

HEAD = "0001"
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
)

tracks = Table(
    "tracks",
    metadata,
    Column("clip_id", ForeignKey("clips.id", ondelete="CASCADE"), primary_key=True),
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
)

settings = Table(
    "settings",
    metadata,
    Column("name", Text, primary_key=True),
    Column("value", Text, nullable=False),
)
