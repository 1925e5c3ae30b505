"""One HTML document that needs nothing else: no script, no picture, no network. It prints as it stands."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape

STYLE = """
body { font: 15px/1.5 Georgia, serif; color: #221d17; background: #fffdf8; max-width: 46em;
  margin: 2.5em auto; padding: 0 1.2em }
h1 { font-size: 1.9em; margin: 0 0 .1em } h2 { font-size: 1.3em; margin: 1.8em 0 .2em }
table { border-collapse: collapse; width: 100%; margin: .4em 0 1em }
caption { text-align: left; color: #6b6255 }
th, td { text-align: left; padding: .22em .6em .22em 0; border-bottom: 1px solid #ded5c3 }
th { font-weight: normal; color: #6b6255 }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums }
tr.tier td { border-bottom: 2px solid currentColor; padding-top: .8em; font-weight: bold }
p.small, li { color: #6b6255 }
@media print { body { background: none; margin: 0 } h2, caption { break-after: avoid }
  tr { break-inside: avoid } }
"""


def document(title: str, parts: Iterable[str], style: str = "") -> str:
    """A page of these parts, which are HTML already; what is empty is left out."""
    return (
        "<!doctype html>\n"
        f'<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{STYLE}{style}</style></head><body>\n" + "\n".join(part for part in parts if part) + "\n"
        "</body></html>\n"
    )
