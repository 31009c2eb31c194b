"""The one table of settings. Each is read once at start from the environment, with the prefix ZEICHEN_."""

import os
from pathlib import Path

from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from zeichen.core.errors import InvalidInputError
from zeichen.jobs.limits import WorkLimits


class Settings(BaseSettings):
    """Where data lies, where the app listens, how many processes work."""

    model_config = SettingsConfigDict(env_prefix="ZEICHEN_", frozen=True)

    data: Path = Field(default=Path("data"), description="Folder for the database and all files.")
    port: int = Field(default=8417, ge=1, le=65535, description="Port on 127.0.0.1.")
    workers: int = Field(
        default=max(1, (os.cpu_count() or 2) - 1), ge=1, le=64, description="Processes for background work."
    )
    largest_upload_mb: int = Field(
        default=80, ge=1, le=2000, description="Largest picture that can be brought in, MB."
    )
    largest_collection_mb: int = Field(
        default=2000, ge=1, le=4000, description="Largest file of a collection that can be taken in, MB."
    )
    live_time_s: float = Field(
        default=20,
        ge=1,
        le=3600,
        description="Longest time for what someone waits for, s; past it, it is ended.",
    )
    live_memory_mb: int = Field(
        default=1500, ge=500, le=1_000_000, description="Most memory of a process that answers at once, MB."
    )
    job_time_s: float = Field(
        default=900, ge=5, le=86_400, description="Longest time for one piece of background work, s."
    )
    job_memory_mb: int = Field(
        default=3000, ge=500, le=1_000_000, description="Most memory of a process for background work, MB."
    )

    def live_limits(self) -> WorkLimits:
        """Return what may be taken by what someone waits for."""
        return WorkLimits(self.live_time_s, self.live_memory_mb)

    def job_limits(self) -> WorkLimits:
        """Return what may be taken by one piece of background work."""
        return WorkLimits(self.job_time_s, self.job_memory_mb)


def read_settings() -> Settings:
    """Return the settings as the environment gives them.

    Raises
    ------
    InvalidInputError
        If one of them cannot be.
    """
    try:
        return Settings()
    except ValidationError as error:
        first = error.errors()[0]
        name = "ZEICHEN_" + "_".join(str(part) for part in first["loc"]).upper()
        raise InvalidInputError(
            f"The setting {name} cannot be “{first.get('input')}”: {first['msg']}. Change it in the environment."
        ) from error
