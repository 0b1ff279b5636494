"""What was foretold of a run is kept with it, and the mean quality that it came to."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("run", sa.Column("foretold", JSONB, nullable=True))
    op.add_column("comparison", sa.Column("mean", sa.Float, nullable=True))


def downgrade() -> None:
    op.drop_column("comparison", "mean")
    op.drop_column("run", "foretold")
