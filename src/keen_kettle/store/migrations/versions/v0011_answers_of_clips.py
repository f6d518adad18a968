"""What the program made of a clip, kept with it."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE assessments ("
        "clip_id INTEGER PRIMARY KEY REFERENCES clips(id) ON DELETE CASCADE, "
        "made_from TEXT NOT NULL, data BLOB NOT NULL) STRICT"
    )


def downgrade() -> None:
    op.execute("DROP TABLE assessments")
