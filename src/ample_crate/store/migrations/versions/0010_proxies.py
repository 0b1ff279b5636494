"""What tells of a master's proxy is called so."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("master", "play", new_column_name="proxy")


def downgrade() -> None:
    op.alter_column("master", "proxy", new_column_name="play")
