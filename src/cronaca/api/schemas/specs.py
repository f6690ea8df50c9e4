"""From what came over the wire to what services take: the same fields, frozen, in tuples."""

from __future__ import annotations

from dataclasses import fields
from typing import Final, overload

from cronaca.api.schemas import Model
from cronaca.api.schemas import figures as f
from cronaca.api.schemas import statistics as st
from cronaca.api.schemas import stretches as sc
from cronaca.core.statistics import Condition
from cronaca.core.statistics.sheet import Norm
from cronaca.services import figures as s
from cronaca.services.statistics import specs as t

_SPECS: Final[dict[type[Model], type]] = {
    f.ConditionIn: Condition,
    f.FigureIn: s.FigureSpec,
    f.SplitIn: s.SplitSpec,
    f.WindowIn: s.WindowSpec,
    f.ConfigurationIn: s.ConfigurationSpec,
    f.FiguresIn: s.FiguresSpec,
    f.ExplainIn: s.ExplainSpec,
    st.NormIn: Norm,
    st.ColumnIn: t.ColumnSpec,
    st.RowIn: t.RowSpec,
    st.StatisticsIn: t.SheetSpec,
    st.DrilldownIn: t.DrilldownSpec,
    st.PairIn: t.PairSpec,
    st.ScatterIn: t.ScatterSpec,
    st.ControlIn: t.ControlSpec,
    sc.StretchRowIn: t.StretchRowSpec,
    sc.StretchesIn: t.StretchesSpec,
}


@overload
def spec_of(model: f.FigureIn) -> s.FigureSpec: ...
@overload
def spec_of(model: f.WindowIn) -> s.WindowSpec: ...
@overload
def spec_of(model: f.ConfigurationIn) -> s.ConfigurationSpec: ...
@overload
def spec_of(model: f.FiguresIn) -> s.FiguresSpec: ...
@overload
def spec_of(model: f.ExplainIn) -> s.ExplainSpec: ...
@overload
def spec_of(model: st.StatisticsIn) -> t.SheetSpec: ...
@overload
def spec_of(model: st.DrilldownIn) -> t.DrilldownSpec: ...
@overload
def spec_of(model: st.ScatterIn) -> t.ScatterSpec: ...
@overload
def spec_of(model: st.ControlIn) -> t.ControlSpec: ...
@overload
def spec_of(model: sc.StretchesIn) -> t.StretchesSpec: ...
def spec_of(model: Model) -> object:
    """The spec of a model, with the specs of the models in it."""
    return _spec_of(model)


def _spec_of(model: Model) -> object:
    kind = next(_SPECS[base] for base in type(model).__mro__ if base in _SPECS)
    values: object = kind(**{field.name: _plain(getattr(model, field.name)) for field in fields(kind)})
    return values


def _plain(value: object) -> object:
    if isinstance(value, Model):
        return _spec_of(value)
    return tuple(map(_plain, value)) if isinstance(value, list) else value
