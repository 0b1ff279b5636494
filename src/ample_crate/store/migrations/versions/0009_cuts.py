"""Where a copy of a range begins and ends is kept beside the range."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.add_column("deliverable", sa.Column("cut", json, nullable=True))


def downgrade() -> None:
    op.drop_column("deliverable", "cut")
