"""Clips: work by hand on the body and on events; bodies: what the model saw in a film."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

PLAIN = '{"points": [], "spans": [], "seeds": [], "events": []}'
BODIES = """
    clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE,
    made_from TEXT NOT NULL, data BLOB NOT NULL"""


def upgrade() -> None:
    op.execute(f"ALTER TABLE clips ADD COLUMN body TEXT NOT NULL DEFAULT '{PLAIN}'")
    op.execute(f"CREATE TABLE bodies ({BODIES}) STRICT")


def downgrade() -> None:
    op.execute("DROP TABLE bodies")
    op.execute("ALTER TABLE clips DROP COLUMN body")
