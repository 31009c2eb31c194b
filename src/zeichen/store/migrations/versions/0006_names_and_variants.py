"""Names of revisions, colour variants"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("revisions") as table:
        table.add_column(sa.Column("name", sa.String(length=120), nullable=False, server_default=""))
    op.create_table(
        "variants",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("drawing_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("svg_sha", sa.String(length=64), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["drawing_id"], ["drawings.id"], name=op.f("fk_variants_drawing_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_variants")),
    )
    op.create_index(op.f("ix_variants_drawing_id"), "variants", ["drawing_id"])


def downgrade() -> None:
    op.drop_index(op.f("ix_variants_drawing_id"), table_name="variants")
    op.drop_table("variants")
    with op.batch_alter_table("revisions") as table:
        table.drop_column("name")
