"""The one table of settings. Each is read once at start from the environment, with the prefix ZEICHEN_."""

import os
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


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
