"""Teaching: more facts about athletes, groups, screenings, visits, steps, own ladders."""

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

FACTS = (
    "birth_year INTEGER",
    "sex TEXT NOT NULL DEFAULT ''",
    "weight_class TEXT NOT NULL DEFAULT ''",
    "mass_kg REAL",
    "lengths_m TEXT NOT NULL DEFAULT '{}'",
    "grips_m TEXT NOT NULL DEFAULT '{}'",
    "aim TEXT NOT NULL DEFAULT 'general'",
    "sport TEXT NOT NULL DEFAULT ''",
    "training_years REAL NOT NULL DEFAULT 0",
    "sessions_week INTEGER NOT NULL DEFAULT 2",
    "school TEXT NOT NULL DEFAULT '{}'",
    "consent TEXT NOT NULL DEFAULT ''",
    "notes TEXT NOT NULL DEFAULT ''",
    "photo BLOB",
    "archived_on TEXT",
)

OF_ATHLETE = "athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE"
TABLES = {
    "groups": "id INTEGER PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE UNIQUE",
    "members": f"""
        group_id INTEGER NOT NULL REFERENCES groups(id) ON DELETE CASCADE, {OF_ATHLETE},
        PRIMARY KEY (group_id, athlete_id)""",
    "screenings": f"""
        id INTEGER PRIMARY KEY, {OF_ATHLETE}, check_id TEXT NOT NULL,
        state TEXT NOT NULL CHECK (state IN ('pass', 'not yet', 'not tested')),
        on_day TEXT NOT NULL, note TEXT NOT NULL""",
    "visits": f"""
        id INTEGER PRIMARY KEY, {OF_ATHLETE}, ladder TEXT NOT NULL, stage TEXT NOT NULL,
        on_day TEXT NOT NULL, met TEXT NOT NULL, asked INTEGER NOT NULL, faults TEXT NOT NULL,
        reps INTEGER, load_kg REAL, enjoyment INTEGER NOT NULL CHECK (enjoyment IN (-1, 0, 1)),
        pain INTEGER NOT NULL, note TEXT NOT NULL, advised TEXT NOT NULL, reason TEXT NOT NULL,
        decided TEXT NOT NULL, why TEXT NOT NULL""",
    "steps": f"""
        id INTEGER PRIMARY KEY, {OF_ATHLETE}, ladder TEXT NOT NULL, stage TEXT NOT NULL,
        on_day TEXT NOT NULL, kind TEXT NOT NULL, why TEXT NOT NULL""",
    "ladders": "id TEXT PRIMARY KEY, document TEXT NOT NULL",
}
INDEXES = {
    "members_of_athlete": "members (athlete_id)",
    "screenings_of_athlete": "screenings (athlete_id, check_id, id)",
    "visits_of_athlete": "visits (athlete_id, on_day, id)",
    "steps_of_athlete": "steps (athlete_id, ladder, id)",
    "steps_by_day": "steps (on_day)",
}


def upgrade() -> None:
    for column in FACTS:
        op.execute(f"ALTER TABLE athletes ADD COLUMN {column}")
    for name, columns in TABLES.items():
        op.execute(f"CREATE TABLE {name} ({columns}) STRICT")
    for name, columns in INDEXES.items():
        op.execute(f"CREATE INDEX {name} ON {columns}")
    # A hang now always names its position; clips so far were read as from above the knee.
    op.execute(
        "UPDATE clips SET lift = lift || ', above knee' WHERE lift LIKE 'hang %' AND lift NOT LIKE '%,%'"
    )


def downgrade() -> None:
    for name in INDEXES:
        op.execute(f"DROP INDEX {name}")
    for name in reversed(TABLES):
        op.execute(f"DROP TABLE {name}")
    for column in reversed(FACTS):
        op.execute(f"ALTER TABLE athletes DROP COLUMN {column.split()[0]}")
