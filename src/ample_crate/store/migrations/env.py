"""Alembic's entry: uses the engine that `Database.migrate` hands over."""

from alembic import context

from ample_crate.store.models import Recipient
from ample_crate.store.outlines import Outline  # noqa: F401 (its table)
from ample_crate.store.standing import Order  # noqa: F401 (its tables)
from ample_crate.store.studied import Studied  # noqa: F401 (its tables)

with context.config.attributes["engine"].connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Recipient.metadata,
        # The worker engine keeps its own tables.
        include_name=lambda name, kind, parents: (
            not (kind == "table" and str(name).startswith("procrastinate_"))
        ),
    )
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
