"""Clips: a line that a coach drew along something upright."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE clips ADD COLUMN upright TEXT")


def downgrade() -> None:
    op.execute("ALTER TABLE clips DROP COLUMN upright")
