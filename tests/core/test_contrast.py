"""Contrast of colours. Expected values: WCAG 2.2, definition of "contrast ratio" (black on white is 21:1),
and Understanding 1.4.3, where #767676 is named as the lightest grey that is enough on white (from memory)."""

from __future__ import annotations

import pytest

from cronaca.core.contrast import check_accent, contrast
from cronaca.core.errors import InvalidInput


def test_the_ends_of_the_scale() -> None:
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21)
    assert contrast("#FFFFFF", "#000000") == pytest.approx(21)
    assert contrast("#1F6F78", "#1f6f78") == 1


def test_the_lightest_grey_that_is_enough_on_white() -> None:
    assert contrast("#767676", "#FFFFFF") >= 4.5 > contrast("#777777", "#FFFFFF")


def test_an_accent_that_cannot_be_read_is_refused_with_its_ratio() -> None:
    check_accent("accent_day", "#1F6F78", "day")
    check_accent("accent_night", "#5FB3B9", "night")
    with pytest.raises(InvalidInput, match=r"accent_day.*contrast of 2\.\d to the day ground #F6F3EC"):
        check_accent("accent_day", "#5FB3B9", "day")
