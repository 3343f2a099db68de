"""The OpenAPI document: as FastAPI writes it, with errors as what they are, problem documents (RFC 9457)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from fastapi import APIRouter, FastAPI
from fastapi.openapi.utils import get_openapi
from fastapi.routing import APIRoute

from barrio.api.desk import Needs
from barrio.api.problems import Problem

_PROBLEM = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
_ALWAYS = {
    "400": "The address is malformed", "401": "Nobody is signed in", "403": "You may not, or not from here", "413": "The body is too large", "414": "The address is too long",
    "429": "Too often", "422": "This cannot be done", "503": "Not now: the database is lost, or much is under way",
}  # fmt: skip
"""What can go wrong with every request."""


def described(app: FastAPI, routers: Iterable[APIRouter]) -> dict[str, Any]:
    """The document, made once; each operation of these routers says in `x-right` which right it needs."""
    if app.openapi_schema is None:
        rights = {
            route.operation_id: right_of(route)
            for router in routers
            for route in router.routes
            if isinstance(route, APIRoute)
        }
        document = get_openapi(title=app.title, version=app.version, routes=app.routes)
        document["components"]["schemas"].setdefault(
            "Problem", Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        )
        for operations in document["paths"].values():
            for operation in operations.values():
                _with_problems(operation["responses"])
                right = rights.get(operation.get("operationId"), "")
                if right:
                    operation["x-right"] = right
        document["components"]["schemas"].pop("HTTPValidationError", None)
        document["components"]["schemas"].pop("ValidationError", None)
        app.openapi_schema = document
    return app.openapi_schema


def _with_problems(responses: dict[str, Any]) -> None:
    for code, words in _ALWAYS.items():
        responses.setdefault(code, {"description": words})
    for code, response in responses.items():
        if code.startswith(("4", "5")):
            response["content"] = _PROBLEM


def right_of(route: APIRoute) -> str:
    """The right that a route needs; `sign-in` when it is for whoever is signed in, nothing when it is for everybody."""
    for part in route.dependant.dependencies:
        if isinstance(part.call, Needs):
            return part.call.right or "sign-in"
    return ""
