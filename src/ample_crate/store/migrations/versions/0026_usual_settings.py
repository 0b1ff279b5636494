"""What is usual for a recipient may be kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "usual",
        sa.Column(
            "recipient_key",
            sa.String,
            sa.ForeignKey("recipient.key", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("document", JSONB, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("usual")
