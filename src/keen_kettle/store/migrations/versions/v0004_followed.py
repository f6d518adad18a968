"""Clips: what is followed, spans set by hand, other ways to a scale; tracks: one for each thing."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

PLAIN = '{"thing": "plate", "spans": [], "first": null, "last": null, "aside": []}'
TRACKS = """
    clip_id INTEGER NOT NULL REFERENCES clips(id) ON DELETE CASCADE, thing TEXT NOT NULL,
    made_from TEXT NOT NULL, data BLOB NOT NULL, PRIMARY KEY (clip_id, thing)"""
OLD_TRACKS = """
    clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE,
    made_from TEXT NOT NULL, data BLOB NOT NULL"""


def upgrade() -> None:
    op.execute(f"ALTER TABLE clips ADD COLUMN followed TEXT NOT NULL DEFAULT '{PLAIN}'")
    op.execute("ALTER TABLE clips ADD COLUMN scale_by TEXT NOT NULL DEFAULT 'plate'")
    op.execute("ALTER TABLE clips ADD COLUMN scale_points TEXT")
    op.execute("ALTER TABLE tracks RENAME TO tracks_before")
    op.execute(f"CREATE TABLE tracks ({TRACKS}) STRICT")
    op.execute("INSERT INTO tracks SELECT clip_id, 'plate', made_from, data FROM tracks_before")
    op.execute("DROP TABLE tracks_before")


def downgrade() -> None:
    op.execute("ALTER TABLE tracks RENAME TO tracks_after")
    op.execute(f"CREATE TABLE tracks ({OLD_TRACKS}) STRICT")
    op.execute(
        "INSERT INTO tracks SELECT clip_id, made_from, data FROM tracks_after WHERE thing = 'plate'"
    )
    op.execute("DROP TABLE tracks_after")
    for name in ("scale_points", "scale_by", "followed"):
        op.execute(f"ALTER TABLE clips DROP COLUMN {name}")
