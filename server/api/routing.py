"""How the API's routes tell of their errors."""

from __future__ import annotations

from collections.abc import Callable
from http import HTTPStatus
from typing import Any

from ninja import Router
from ninja.constants import NOT_SET

from server.api.schemas.common import Problem

_BODY = {"application/json": {"schema": {"$ref": "#/components/schemas/Problem"}}}


class ApiRouter(Router):
    """A router whose errors stand in the API's description without a model for each status of each route.

    Errors are answered in one place (`server/api/main.py`) and never go through these models, whose making takes a
    fifth of the time in which a killed server is there again.
    """

    def add_api_operation(self, path: str, methods: list[str], view_func: Callable[..., Any], **options: Any) -> None:
        """A route; what its `response` says of `Problem` goes into the description alone."""
        response, extra = options.get("response", NOT_SET), options.get("openapi_extra") or {}
        if isinstance(response, dict):
            described = {
                status: {"description": HTTPStatus(status).phrase, "content": _BODY}
                for status, model in response.items()
                if model is Problem
            }
            rest = {status: model for status, model in response.items() if model is not Problem}
            options["response"] = rest or {200: None}
            options["openapi_extra"] = {**extra, "responses": {**extra.get("responses", {}), **described}}
        super().add_api_operation(path, methods, view_func, **options)
