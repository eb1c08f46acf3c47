"""What is seen from outside: whether the server is well, how busy it is, and a line for each
request.

Metrics are in the text format of Prometheus, by its own library.
"""

import logging
import time
from collections.abc import Iterator

from flask import Flask, Response, g, jsonify, request
from prometheus_client import CollectorRegistry, Histogram, ProcessCollector, generate_latest
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, Metric
from prometheus_client.exposition import CONTENT_TYPE_PLAIN_0_0_4
from prometheus_client.registry import Collector

from lean_parcel.core.errors import LeanParcelError
from lean_parcel.web.access import access
from lean_parcel.web.served import workspace
from lean_parcel.work.queue import trace
from lean_parcel.work.queue.work_queue import Priority

#: One line for each request.
_log = logging.getLogger("lean_parcel.requests")
_BUCKETS_S = (0.005, 0.02, 0.1, 0.25, 1, 5, 30)
REQUEST_ID_HEADER = "X-Request-Id"


def register(app: Flask) -> None:
    """Adds the routes, and measures all requests."""
    registry = CollectorRegistry()
    ProcessCollector(registry=registry)
    registry.register(_QueueCollector())
    seconds = Histogram(
        "lean_parcel_request_seconds",
        "Time until the head of an answer.",
        ["method", "route", "status"],
        buckets=_BUCKETS_S,
        registry=registry,
    )

    def begin() -> None:
        g.begun_s = time.monotonic()
        trace.begin_request()

    def end(response: Response) -> Response:
        taken_s = time.monotonic() - g.begun_s
        route = request.url_rule.rule if request.url_rule else ""
        seconds.labels(request.method, route, response.status_code).observe(taken_s)
        response.headers[REQUEST_ID_HEADER] = trace.request_id()
        told = {
            "method": request.method,
            "route": route,
            "status": response.status_code,
            "seconds": round(taken_s, 4),
        }
        _log.info("%s %s: %d", request.method, route, response.status_code, extra=told)
        return response

    def metrics() -> Response:
        return Response(generate_latest(registry), content_type=CONTENT_TYPE_PLAIN_0_0_4)

    app.before_request(begin)
    app.after_request(end)
    app.add_url_rule("/health", view_func=_health, endpoint="health")
    app.add_url_rule("/metrics", view_func=metrics, endpoint="metrics")


def _health() -> tuple[Response, int]:
    """Whether requests can be answered; and to who has access, how busy it is."""
    served = workspace()
    try:
        served.page_viewing.layout()
        told: dict[str, object] = {"status": "ready"}
    except LeanParcelError as error:
        told = {"status": "failing", "code": error.code}
    if access().is_given():
        state = served.context.queue.state()
        told |= {
            "queue_length": sum(state.jobs.values()),
            "running_tasks": state.running,
            "workers": state.slots,
            "workers_alive": state.workers_alive,
            "is_read_only": served.context.is_read_only,
        }
    return jsonify(told), 200 if told["status"] == "ready" else 503


class _QueueCollector(Collector):
    """What the queue of the workspace says of itself whenever it is asked."""

    def describe(self) -> Iterator[Metric]:
        """Nothing in advance: it is registered before a request brings the workspace."""
        return iter(())

    def collect(self) -> Iterator[Metric]:
        state = workspace().context.queue.state()
        jobs = GaugeMetricFamily(
            "lean_parcel_queue_jobs", "Jobs that wait for their turn.", labels=["priority"]
        )
        for priority in Priority:
            jobs.add_metric([priority.name.lower()], state.jobs.get(priority, 0))
        yield jobs
        yield GaugeMetricFamily("lean_parcel_running_tasks", "Tasks that run.", state.running)
        yield GaugeMetricFamily("lean_parcel_workers", "Tasks that may run.", state.slots)
        if state.workers_alive is not None:
            yield GaugeMetricFamily(
                "lean_parcel_workers_alive", "Worker processes that live.", state.workers_alive
            )
        tasks = CounterMetricFamily(
            "lean_parcel_tasks", "Tasks that ended.", labels=["kind", "outcome"]
        )
        for (kind, outcome), count in state.tasks.items():
            tasks.add_metric([kind, outcome], count)
        yield tasks
        seconds = CounterMetricFamily(
            "lean_parcel_task_seconds", "Seconds that tasks took.", labels=["kind"]
        )
        for kind, taken_s in state.task_seconds.items():
            seconds.add_metric([kind], taken_s)
        yield seconds
