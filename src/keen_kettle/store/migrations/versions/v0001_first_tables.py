"""Athletes with bests, clips with marks, tracks, correctives, settings."""

from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TABLES = {
    "athletes": """
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, stature_m REAL, cautions TEXT NOT NULL,
        equipment TEXT NOT NULL, trained INTEGER NOT NULL""",
    "bests": """
        athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, lift TEXT NOT NULL,
        kg REAL NOT NULL CHECK (kg > 0), PRIMARY KEY (athlete_id, lift)""",
    "clips": """
        id INTEGER PRIMARY KEY, athlete_id INTEGER REFERENCES athletes(id) ON DELETE SET NULL,
        path TEXT NOT NULL, sha256 TEXT NOT NULL UNIQUE, frames INTEGER NOT NULL,
        duration_s REAL NOT NULL, filmed_on TEXT NOT NULL, lift TEXT NOT NULL, mass_kg REAL,
        facing TEXT NOT NULL, diameter_mm REAL NOT NULL, marks TEXT NOT NULL,
        thumbnail BLOB NOT NULL""",
    "tracks": """
        clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE,
        made_from TEXT NOT NULL, data BLOB NOT NULL""",
    "correctives": """
        id INTEGER PRIMARY KEY, athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE,
        clip_id INTEGER REFERENCES clips(id) ON DELETE SET NULL, fault TEXT NOT NULL,
        drill TEXT NOT NULL, family TEXT NOT NULL, name TEXT NOT NULL, load_kg REAL,
        dose TEXT NOT NULL, reason TEXT NOT NULL, taken_on TEXT NOT NULL, review_on TEXT NOT NULL""",
    "settings": "name TEXT PRIMARY KEY, value TEXT NOT NULL",
}


def upgrade() -> None:
    for name, columns in TABLES.items():
        op.execute(f"CREATE TABLE {name} ({columns}) STRICT")


def downgrade() -> None:
    for name in reversed(TABLES):
        op.execute(f"DROP TABLE {name}")
