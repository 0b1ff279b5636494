"""${message}"""

import sqlalchemy as sa
from alembic import op
${imports if imports else ""}

revision = ${repr(up_revision)}
down_revision = ${repr(down_revision)}
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Go forward."""
    ${upgrades if upgrades else "pass"}


def downgrade() -> None:
    """Go back."""
    ${downgrades if downgrades else "pass"}
