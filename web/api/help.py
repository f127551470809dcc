"""The documentation as pages inside the program, made from ``docs/`` when first asked for."""

from __future__ import annotations

import re
from functools import cache

from django.conf import settings
from markdown_it import MarkdownIt
from mdit_py_plugins.anchors import anchors_plugin

#: Page -> title, in the order of the list beside them.
PAGES = {
    "guide": "User guide",
    "glossary": "Glossary",
    "theory": "Theory manual",
    "document": "The flowsheet document",
    "recipes": "Recipes for scripts",
    "extending": "Adding units and models",
    "production": "Running it for others",
    "data-licences": "Data and licences",
}


@cache
def page_html(slug: str) -> str:
    """A page of our own Markdown as HTML; raw HTML in it is shown as text. Links between pages stay inside the program."""
    text = (settings.ROOT / "docs" / f"{slug}.md").read_text(encoding="utf-8")
    renderer = MarkdownIt("commonmark", {"html": False}).enable("table").use(anchors_plugin, max_level=3)
    return re.sub(r'href="([a-z-]+)\.md(#[^"]*)?"', r'href="/help/\1\2"', renderer.render(text))
