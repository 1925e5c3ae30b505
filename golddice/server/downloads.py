"""Files that a browser is given to keep."""

from __future__ import annotations

from fastapi import Response

from golddice.core.game.models import Game


def download(game: Game, content: bytes | str, kind: str, ending: str) -> Response:
    """A file named after a game, of letters that every system takes."""
    letters = "".join(c if c.isascii() and c.isalnum() else " " for c in game.name.lower())
    name = "-".join(letters.split()) or "game"
    headers = {"Content-Disposition": f'attachment; filename="{name}.{ending}"'}
    return Response(content, media_type=kind, headers=headers)
