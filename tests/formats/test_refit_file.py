"""The refit file: the same bytes out as in, or refused whole with every fault by path."""

import json
import time
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from hypothesis import HealthCheck, given, settings

from benches.generate import generated_refit
from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Whole
from rovask.formats.refit_file import MOST_BYTES, json_schema, read_refit, write_refit
from tests.builders import data, task
from tests.core.strategies import wholes

ROOT = Path(__file__).parents[2]


def refused(content: bytes) -> list[str]:
    with pytest.raises(RefitFaults) as caught:
        read_refit(content)
    return [str(fault) for fault in caught.value.faults]


def as_bytes(plain: Any) -> bytes:
    return json.dumps(plain).encode()


@settings(max_examples=60, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
@given(wholes())
def test_export_import_export_is_identical(made: Whole) -> None:
    content = write_refit(made)
    again = read_refit(content)
    assert again == made
    assert write_refit(again) == content


def test_the_demo_is_its_own_export_and_fits_the_published_schema(demo: Refit) -> None:
    content = (ROOT / "src/rovask/start/demo.refit.json").read_bytes()
    whole = read_refit(content)
    assert whole.refit == demo
    assert write_refit(whole) == content
    schema = json.loads((ROOT / "docs/refit-file.schema.json").read_text())
    assert schema == json.loads(json_schema())
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    assert list(validator.iter_errors(json.loads(content))) == []
    assert list(validator.iter_errors(json.loads(write_refit(Whole(generated_refit(60, 4)))))) == []


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "not JSON"),
        (b"{", "line 1, column 2"),
        (b"[]", "not a refit file"),
        (b'"text"', "not a refit file"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b'{"format": "rovask-refit", "format": "x"}', "twice"),
        (b'{"format": "rovask-refit", "budget": NaN}', "NaN"),
        (b'{"format": "something"}', "format"),
        (b'{"format": "rovask-refit", "version": 99}', "reads version 1"),
        (b"[" * 100_000, "nested"),
        (b'{"format": "rovask-refit", "version": 1, "jobs": ' + b"[" * 60 + b"]" * 60 + b"}", "nested"),
        (b" " * (MOST_BYTES + 1), "8 MB"),
    ],
)
def test_what_is_no_refit_file_is_refused_in_a_sentence(content: bytes, words: str) -> None:
    told = refused(content)
    assert len(told) == 1
    assert words in told[0]


def test_a_half_true_file_is_refused_whole_with_every_fault() -> None:
    broken = data(task("a"), task("b", place="attic"))
    broken["jobs"][0]["tasks"][0] |= {"hands": 99, "mood": "good"}
    broken["people"][0]["hours"] = [{"days": ["mon"], "start": "18:00", "end": "08:00"}]
    broken["links"] = [{"id": "l", "first": "a", "then": "z", "min_lag": 3, "max_lag": 2}]
    del broken["name"]
    told = refused(as_bytes(broken))
    for path in (
        "name",
        "jobs[0].tasks[0].hands",
        "jobs[0].tasks[0].mood",
        "jobs[0].tasks[1].place",
        "people[0].hours[0]",
        "links[0].then",
    ):
        assert any(line.startswith(path) for line in told), path


def test_hostile_numbers_and_texts_are_faults() -> None:
    for hours in (1e308, -1, 0.33, "4", True, None):
        broken = data(task("a") | {"work": {"least": hours, "likely": hours, "most": hours}})
        assert any("work" in line for line in refused(as_bytes(broken)))
    markup = read_refit(as_bytes(data(task("a", title="<script>alert(1)</script>")))).refit
    assert markup.tasks["a"].title.startswith("<script>")  # kept as typed; pages escape it
    assert any("at most 120" in line for line in refused(as_bytes(data(task("a", title="x" * 121)))))


def test_more_faults_than_anybody_reads_are_counted() -> None:
    told = refused(as_bytes(data(*(task(f"t{at}", place="attic") for at in range(350)))))
    assert len(told) == 201
    assert told[-1] == "and 150 faults more"


@pytest.mark.parametrize(
    ("content", "told"),
    [
        (b'{"format": "rovask-refit", "version": 1, "jobs": [' + b"{}," * 700_000 + b"{}]}", "far more"),
        (b'{"format": "rovask-refit", "version": 1, "places": [' + b"1," * 4_000_000 + b"1]}", "far more"),
        (b'{"format": "rovask-refit", "version": 1, "links": [' + b'{"id":"a"},' * 50_000 + b"{}]}", "at most 5000"),
        (b'{"format": "rovask-refit", "version": 1, "hours_log": [' + b"{}," * 19_999 + b"{}]}", "is missing"),
    ],
)
def test_a_file_made_to_keep_the_server_busy_is_refused_at_once(content: bytes, told: str) -> None:
    """Looked at by size, depth and counts first; the bound on time is the bench's, this one is fifty times of it."""
    began = time.monotonic()
    assert any(told in line for line in refused(content))
    assert time.monotonic() - began < 5
