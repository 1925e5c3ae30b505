"""What the environment sets: port, data folder, an outside database."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from golddice.core.errors import GoldDiceError

ROOT = Path(__file__).resolve().parents[2]
DEMO = ROOT / "demo" / "saltglass-deep.golddice.json"
DEFAULT_PORT = 8420


class BadSetting(GoldDiceError):
    """An environment variable that cannot be used."""


@dataclass(frozen=True)
class Settings:
    port: int
    folder: Path
    database_url: str | None
    dask: str | None = None

    @classmethod
    def from_environment(cls) -> Settings:
        text = os.environ.get("GOLDDICE_PORT", str(DEFAULT_PORT))
        if not text.isdigit() or not 1 <= int(text) <= 65535:
            raise BadSetting(f"GOLDDICE_PORT must be a port number, 1 to 65535, got “{text}”")
        folder = Path(os.environ.get("GOLDDICE_VAR", ROOT / "var"))
        database, dask = os.environ.get("GOLDDICE_DATABASE_URL"), os.environ.get("GOLDDICE_DASK")
        return cls(int(text), folder, database, dask or None)
