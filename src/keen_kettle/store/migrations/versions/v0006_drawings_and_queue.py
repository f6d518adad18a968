"""Clips: drawings; what waits for the coach, what the background does, and what was guessed."""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

COLUMNS = {
    "drawings": "'[]'",
    "waits": "'review'",
    "background": "''",
    "trouble": "''",
    "guess": "'{}'",
}


def upgrade() -> None:
    for name, plain in COLUMNS.items():
        op.execute(f"ALTER TABLE clips ADD COLUMN {name} TEXT NOT NULL DEFAULT {plain}")
    op.execute("UPDATE clips SET waits = '' WHERE id IN (SELECT clip_id FROM tracks)")


def downgrade() -> None:
    for name in COLUMNS:
        op.execute(f"ALTER TABLE clips DROP COLUMN {name}")
