"""Prescribing: findings of clips, answers to splitting questions, the life of a corrective, own drills."""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

COLUMNS = (
    ("cue", "TEXT NOT NULL DEFAULT ''"),
    ("implement", "TEXT NOT NULL DEFAULT 'barbell'"),
    ("measure", "TEXT NOT NULL DEFAULT ''"),
    ("before_value", "REAL"),
    ("before_sigma", "REAL"),
    ("outcome", "TEXT NOT NULL DEFAULT ''"),
    ("ended_on", "TEXT"),
    ("after_clip", "INTEGER"),
    ("after_value", "REAL"),
    ("after_sigma", "REAL"),
    ("outcome_says", "TEXT NOT NULL DEFAULT ''"),
)
TABLES = (
    "CREATE TABLE findings (clip_id INTEGER NOT NULL REFERENCES clips(id) ON DELETE CASCADE, "
    "fault TEXT NOT NULL, family TEXT NOT NULL, severity REAL NOT NULL, confidence REAL NOT NULL, "
    "measure TEXT NOT NULL, value REAL, sigma REAL, PRIMARY KEY (clip_id, fault)) STRICT",
    "CREATE TABLE judged (clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE, "
    "family TEXT NOT NULL, measures TEXT NOT NULL) STRICT",
    "CREATE TABLE answers (athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, "
    "fault TEXT NOT NULL, answer TEXT NOT NULL, on_day TEXT NOT NULL, "
    "PRIMARY KEY (athlete_id, fault)) STRICT",
    "CREATE TABLE drills (id TEXT PRIMARY KEY, document TEXT NOT NULL) STRICT",
    "CREATE TABLE complexes (id INTEGER PRIMARY KEY, name TEXT NOT NULL, text TEXT NOT NULL, "
    "on_day TEXT NOT NULL) STRICT",
)


def upgrade() -> None:
    for column, kind in COLUMNS:
        op.execute(f"ALTER TABLE correctives ADD COLUMN {column} {kind}")
    for table in TABLES:
        op.execute(table)


def downgrade() -> None:
    for table in ("complexes", "drills", "answers", "judged", "findings"):
        op.execute(f"DROP TABLE {table}")
    for column, _ in reversed(COLUMNS):
        op.execute(f"ALTER TABLE correctives DROP COLUMN {column}")
