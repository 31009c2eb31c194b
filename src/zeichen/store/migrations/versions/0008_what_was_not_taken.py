"""What was not taken of a file that was brought in, kept with the drawing's states"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("revisions") as table:
        table.add_column(sa.Column("brought_in", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    with op.batch_alter_table("revisions") as table:
        table.drop_column("brought_in")
