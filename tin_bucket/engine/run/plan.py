"""The plan of a refresh: the question with everything that it takes from the workspace, before any call is made."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, tzinfo

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.protocol import Paginator
from tin_bucket.core.pagination.registry import paginate
from tin_bucket.core.problem import fail
from tin_bucket.core.request.build import build_call
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.fan_out import fan_out_names
from tin_bucket.core.request.iterations import Iteration, plan_iterations
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import Bindings, Given, bind
from tin_bucket.core.request.variables import Value, make_scope
from tin_bucket.engine.work_out.values import read_fan_out, with_choices
from tin_bucket.store.workspace import Workspace


@dataclass(frozen=True, slots=True)
class RunPlan:
    """What will be asked.

    Attributes:
        brief: the brief.
        services: id → service, for the question and the lookups.
        bindings: the values of the parameters.
        iterations: the values that the question is asked for; one empty iteration when it is asked once.
        here: the time zone of this machine, for parameters without one.
    """

    brief: Brief
    services: Mapping[str, Service]
    bindings: Bindings
    iterations: list[Iteration] = field(default_factory=lambda: [{}])
    here: tzinfo = UTC

    @property
    def service_id(self) -> str:
        """The id of the service that the question asks; empty for a sheet."""
        return self.brief.ask.service if self.brief.ask is not None else ""

    def scope(self, at: int | None = None) -> dict[str, Value]:
        """What the names stand for, in one of the iterations or outside of them."""
        own: Bindings = {**self.bindings, **self.iterations[at]} if at is not None else self.bindings
        return make_scope(self.brief.parameters, own, self.here)

    def call(self, at: int = 0) -> Call:
        """The first call of an iteration.

        Raises:
            ProblemError: as :func:`core.calls.build_call`.
        """
        ask = self.brief.ask
        if ask is None:
            raise fail("no-question", "This query reads a sheet and makes no call.", where="ask", do="Refresh it.")
        service = self.services[ask.service]
        return build_call(service.base, ask, self.scope(at), service.fixed_headers())

    def paginator(self, at: int = 0) -> Paginator:
        """The paginator of an iteration, not begun yet.

        Raises:
            ProblemError: as :meth:`call`.
        """
        call = self.call(at)
        return paginate(call, self.brief.pages, self.services[self.service_id].base)


def make_plan(workspace: Workspace, brief: Brief, given: Mapping[str, Given], moment: Moment) -> RunPlan:
    """Bind the parameters and find the iterations.

    Raises:
        ProblemError: an unknown service, sheet or query; a parameter without a value; values that are unfit.
    """
    services = {service_id: workspace.services.get(service_id) for service_id in brief.services()}
    each_named = {one.parameter for one in brief.each if one.by == "parameter"}
    bound = with_choices(workspace, brief)
    # A parameter that takes its values from the iterations needs none of its own.
    needed = [
        parameter.model_copy(update={"required": False})
        if parameter.name in set(fan_out_names(brief.each)) - each_named
        else parameter
        for parameter in bound.parameters
    ]
    bindings = bind(needed, given, moment)
    iterations = plan_iterations(brief.each, bound.parameters, bindings, moment, read_fan_out(workspace, brief.each))
    return RunPlan(brief, services, bindings, iterations, moment.now.tzinfo or UTC)
