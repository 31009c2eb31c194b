"""Clean-up of sketches"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("sketches") as table:
        table.add_column(sa.Column("raw_sha", sa.String(length=64), nullable=True))
        table.add_column(sa.Column("clean_steps", sa.JSON(), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("sketches") as table:
        table.drop_column("clean_steps")
        table.drop_column("raw_sha")
