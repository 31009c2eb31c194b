"""Uploads as things of their own; which job took another's place"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "uploads",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("motif_id", sa.Integer(), nullable=False),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("sha", sa.String(length=64), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("sketch_id", sa.Integer(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["motif_id"], ["motifs.id"], name=op.f("fk_uploads_motif_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["sketch_id"], ["sketches.id"], name=op.f("fk_uploads_sketch_id"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_uploads")),
    )
    op.create_index(op.f("ix_uploads_motif_id"), "uploads", ["motif_id"])
    with op.batch_alter_table("jobs") as table:
        table.add_column(sa.Column("again_id", sa.Integer(), nullable=True))
    _take_over()


def _take_over() -> None:
    """Make uploads of what was brought in before: finished ones from their sketches, others from their jobs."""
    bind = op.get_bind()
    bind.execute(
        sa.text(
            "INSERT INTO uploads (motif_id, file_name, sha, size_bytes, sketch_id, created_at) "
            "SELECT motif_id, file_name, original_sha, 0, id, created_at FROM sketches "
            "WHERE source = 'upload' AND original_sha IS NOT NULL"
        )
    )
    kept = {row[0] for row in bind.execute(sa.text("SELECT sha FROM uploads"))}
    motifs = {row[0] for row in bind.execute(sa.text("SELECT id FROM motifs"))}
    jobs = bind.execute(sa.text("SELECT id, params, created_at FROM jobs WHERE kind = 'import' ORDER BY id"))
    for job_id, raw, created_at in jobs.fetchall():
        params = json.loads(raw)
        sha, motif_id = params.get("original_sha"), params.get("motif_id")
        if not sha or sha in kept or motif_id not in motifs:
            continue
        kept.add(sha)
        added = bind.execute(
            sa.text(
                "INSERT INTO uploads (motif_id, file_name, sha, size_bytes, created_at) "
                "VALUES (:motif_id, :file_name, :sha, 0, :created_at)"
            ),
            {
                "motif_id": motif_id,
                "file_name": params.get("file_name", "picture"),
                "sha": sha,
                "created_at": created_at,
            },
        )
        params["upload_id"] = added.lastrowid
        bind.execute(
            sa.text("UPDATE jobs SET params = :params WHERE id = :id"),
            {"params": json.dumps(params), "id": job_id},
        )


def downgrade() -> None:
    with op.batch_alter_table("jobs") as table:
        table.drop_column("again_id")
    op.drop_index(op.f("ix_uploads_motif_id"), table_name="uploads")
    op.drop_table("uploads")
