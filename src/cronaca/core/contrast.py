"""How well a colour is told from its ground (WCAG 2.2, "contrast ratio" and "relative luminance")."""

from __future__ import annotations

from typing import Final

from cronaca.core.errors import InvalidInput

PAPER: Final = {"day": "#F6F3EC", "night": "#16181A"}
"""The ground of both themes."""
LEAST: Final = 4.5
"""Contrast of text (WCAG 2.2, 1.4.3, level AA)."""


def contrast(one: str, other: str) -> float:
    """The contrast ratio of two colours (#rrggbb): 1 (none) to 21."""
    light, dark = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def check_accent(field: str, colour: str, theme: str) -> None:
    """Raises InvalidInput for an accent that cannot be read on the ground of a theme."""
    ratio = contrast(colour, PAPER[theme])
    if ratio < LEAST:
        raise InvalidInput(
            field,
            "contrast-ground",
            "{colour} has a contrast of {ratio:.1f} to the {theme} ground {paper}",
            "Take a colour with at least {least}.",
            colour=colour,
            ratio=ratio,
            theme=theme,
            paper=PAPER[theme],
            least=LEAST,
        )


def _luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue
