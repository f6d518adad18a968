"""Own movements: what a coach's own words stand for in strings and drills."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE TABLE movements (name TEXT PRIMARY KEY, document TEXT NOT NULL) STRICT")


def downgrade() -> None:
    op.execute("DROP TABLE movements")
