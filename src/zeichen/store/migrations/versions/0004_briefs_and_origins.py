"""Briefs that are kept, where sketches come from, clean-up chains, the workshop"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("briefs") as table:
        table.add_column(sa.Column("style", sa.JSON(), nullable=True))
        table.add_column(sa.Column("edits", sa.JSON(), nullable=True))
        table.add_column(sa.Column("reference_id", sa.Integer(), nullable=True))
        table.add_column(sa.Column("run_at", sa.DateTime(), nullable=True))
    with op.batch_alter_table("sketches") as table:
        table.add_column(sa.Column("order", sa.JSON(), nullable=True))
        table.add_column(sa.Column("licence", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("machine_made", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.execute("UPDATE sketches SET machine_made = 1 WHERE source = 'generator'")
    op.create_table(
        "chains",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("steps", sa.JSON(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_chains")),
        sa.UniqueConstraint("name", name=op.f("uq_chains_name")),
    )
    op.create_table(
        "workshop",
        sa.Column("key", sa.String(length=40), nullable=False),
        sa.Column("value", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_workshop")),
    )


def downgrade() -> None:
    op.drop_table("workshop")
    op.drop_table("chains")
    with op.batch_alter_table("sketches") as table:
        for name in ("machine_made", "licence", "order"):
            table.drop_column(name)
    with op.batch_alter_table("briefs") as table:
        for name in ("run_at", "reference_id", "edits", "style"):
            table.drop_column(name)
