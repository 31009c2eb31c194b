"""Limits of tools: radius at inside corners, number of colours"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("yardsticks") as table:
        table.add_column(sa.Column("corner_mm", sa.Double(), nullable=False, server_default="0"))
        table.add_column(sa.Column("colours", sa.Integer(), nullable=False, server_default="24"))
    op.execute("UPDATE yardsticks SET colours = 4 WHERE process = 'relief'")


def downgrade() -> None:
    with op.batch_alter_table("yardsticks") as table:
        for name in ("colours", "corner_mm"):
            table.drop_column(name)
