"""Figures as they go over the wire."""

from __future__ import annotations

from cronaca.api import wire
from cronaca.api.schemas import Scalar, exact
from cronaca.api.schemas import figures as s
from cronaca.core import figures as core
from cronaca.core.aggregates import AGGREGATES
from cronaca.core.model import ValueType
from cronaca.core.statistics.words import LABELS
from cronaca.services.figures import Explained, resolved, value_of


def catalogue() -> list[s.CatalogueEntry]:
    """Every figure there is."""
    return [
        s.CatalogueEntry(
            name=name, label=LABELS[name], formula=entry.formula, source=entry.source, kind=entry.result,
            types=sorted(t.name.lower() for t in entry.types), standard=name in AGGREGATES,
        )
        for name, entry in core.all_figures().items()
    ]  # fmt: skip


def explanation_out(explained: Explained) -> s.ExplanationOut:
    """How a figure was made."""
    made, kind = explained.explanation, explained.tag.value_type

    def shown(value: float | int | None) -> Scalar:
        if kind is ValueType.TEXT and value is not None:
            return explained.names.get(int(value), "")
        return wire.scalar(value, kind)

    bounds = [
        s.BoundOut(
            at_us=str(bound.at_us), value=shown(bound.value), status=bound.status, how=bound.how,
            from_samples=[(str(t), shown(v)) for t, v in bound.from_samples],
        )
        for bound in (made.start_bound, made.end_bound)
    ]  # fmt: skip
    samples = None if made.samples is None else [
        s.SampleOut(time_us=str(x.ts_us), value=shown(x.value), quality=x.quality, is_mark=x.is_mark)
        for x in made.samples
    ]  # fmt: skip
    config = made.configuration
    return s.ExplanationOut(
        figure=made.figure, formula=made.formula, source=made.source, unit=made.unit,
        value=exact(value_of(made.value, made.result_kind, kind, explained.names)),
        status_code=f"{made.status_code:08X}", status=made.status,
        window=s.WindowOut.from_object(resolved(made.window, explained.calendar)),
        forward=made.forward, options=made.options,
        configuration=s.ConfigurationIn(
            treat_uncertain_as_bad=config.treat_uncertain_as_bad, percent_good=config.percent_good,
            percent_bad=config.percent_bad, sloped_extrapolation=config.sloped_extrapolation,
            stepped=made.stepped,
        ),
        good=made.good, uncertain=made.uncertain, bad=made.bad, good_s=made.good_s,
        uncertain_s=made.uncertain_s, bad_s=made.bad_s, covered=made.covered,
        known_until_us=str(made.known_until_us), bounds_rule=made.bounds_rule, start_bound=bounds[0],
        end_bound=bounds[1], ingredients=made.ingredients, samples=samples,
        path=s.PathOut.from_object(made.path),
    )  # fmt: skip
