"""Clips: whether the camera's movement is taken out, and at what rate it was filmed."""

from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE clips ADD COLUMN steady INTEGER NOT NULL DEFAULT 1")
    op.execute("ALTER TABLE clips ADD COLUMN capture_fps REAL")


def downgrade() -> None:
    op.execute("ALTER TABLE clips DROP COLUMN capture_fps")
    op.execute("ALTER TABLE clips DROP COLUMN steady")
