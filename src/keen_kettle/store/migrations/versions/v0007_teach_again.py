"""Teaching, second reading: pace of groups, confidence and load verdict of visits, jumps, try-outs."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

COLUMNS = (
    ("visits", "confidence", "TEXT NOT NULL DEFAULT ''"),
    ("visits", "verdict", "TEXT NOT NULL DEFAULT ''"),
    ("groups", "pace", "TEXT NOT NULL DEFAULT ''"),
    ("groups", "weeks", "INTEGER NOT NULL DEFAULT 0"),
    ("athletes", "lifting_years", "REAL"),
    ("athletes", "wants_lifts", "INTEGER NOT NULL DEFAULT 0"),
    ("athletes", "own_lift", "TEXT NOT NULL DEFAULT ''"),
)


def upgrade() -> None:
    for table, column, kind in COLUMNS:
        op.execute(f"ALTER TABLE {table} ADD COLUMN {column} {kind}")
    op.execute(
        "CREATE TABLE jumps (id INTEGER PRIMARY KEY, "
        "athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, "
        "on_day TEXT NOT NULL, height_m REAL NOT NULL) STRICT"
    )
    op.execute(
        "CREATE TABLE tries (id INTEGER PRIMARY KEY, "
        "athlete_id INTEGER NOT NULL REFERENCES athletes(id) ON DELETE CASCADE, "
        "on_day TEXT NOT NULL, movement TEXT NOT NULL, met INTEGER NOT NULL, "
        "asked INTEGER NOT NULL, liked INTEGER NOT NULL, speed_mps REAL) STRICT"
    )


def downgrade() -> None:
    op.execute("DROP TABLE tries")
    op.execute("DROP TABLE jumps")
    for table, column, _ in reversed(COLUMNS):
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
