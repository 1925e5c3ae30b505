"""What the document of the interface says is so, for whatever is asked: examples are drawn from it."""

from __future__ import annotations

import copy
import unittest
from typing import Any

import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    negative_data_rejection,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from golddice.server.openapi import document
from tests.server.of_demo import DemoTest

EXAMPLES = 3  # of each operation, sound ones and others
CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_headers_conformance,
    response_schema_conformance,
]
# Its answer is that of `/profile`, where it is checked; here the library's own form of it is unsound.
UNREADABLE = "/api/games/{game_id}/meets/profile"
ENDLESS = "/api/games/{game_id}/events"
# A proposal takes seconds, each of them: fewer are asked for, and waited for longer.
SLOW = "/api/games/{game_id}/tune"


class Document(DemoTest):
    def test_every_operation_answers_as_it_says(self) -> None:
        asked = {GenerationMode.POSITIVE: 0, GenerationMode.NEGATIVE: 0}
        told = document()
        for path, methods in told["paths"].items():
            for method in methods:
                for mode in asked if path != ENDLESS else ():
                    # Drawing from a document alters it, so each has one of its own.
                    operation = schemathesis.openapi.from_dict(copy.deepcopy(told))[path][method]
                    # Of bytes that are a picture or not the document cannot say which are refused.
                    can_fail = (operation.body and "pictures" not in path) or operation.query
                    if mode.is_positive or can_fail:
                        with self.subTest(operation.label, mode=mode.value):
                            self.answers(operation, mode)
                        asked[mode] += 1
        self.assertGreater(asked[GenerationMode.POSITIVE], 30)
        self.assertGreater(asked[GenerationMode.NEGATIVE], 15)

    def answers(self, operation: Any, mode: GenerationMode) -> None:
        checks = CHECKS if mode.is_positive else [*CHECKS, negative_data_rejection]
        if operation.path == UNREADABLE:
            checks = [check for check in checks if check is not response_schema_conformance]

        is_slow = operation.path == SLOW and mode.is_positive

        @settings(
            max_examples=3 if is_slow else EXAMPLES,
            deadline=None,
            database=None,
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy(generation_mode=mode))
        def of(case: Any) -> None:
            if mode.is_positive and "game_id" in case.path_parameters:
                case.path_parameters["game_id"] = self.url.rsplit("/", 1)[-1]
            base = str(self.client.base_url)
            case.call_and_validate(base_url=base, checks=checks, timeout=240 if is_slow else 60)

        of()


if __name__ == "__main__":
    unittest.main()
