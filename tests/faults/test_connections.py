"""A client that sends slowly, or no HTTP at all, costs its own connection and nothing else."""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator

import pytest
import uvicorn
from starlette.applications import Starlette
from starlette.responses import PlainTextResponse
from starlette.routing import Route

from cronaca.main.connection import LimitedConnection
from tests.support.application import lasts, wait_for

HEAD = b"GET /slow HTTP/1.1\r\nHost: localhost\r\n\r\n"


class Impatient(LimitedConnection):
    head_s = 0.5


@pytest.fixture(scope="module")
def port() -> Iterator[int]:
    def slow(_: object) -> PlainTextResponse:
        time.sleep(1.5)  # longer than a head may take
        return PlainTextResponse("done")

    app = Starlette(routes=[Route("/slow", slow)])
    config = uvicorn.Config(app, port=0, log_level="critical", http=Impatient, timeout_keep_alive=60)
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run)
    thread.start()
    try:
        wait_for(lambda: server.started)
        yield server.servers[0].sockets[0].getsockname()[1]
    finally:
        server.should_exit = True
        thread.join()


@pytest.fixture
def client(port: int) -> Iterator[socket.socket]:
    with socket.create_connection(("127.0.0.1", port), timeout=30) as found:
        yield found


def read_all(client: socket.socket) -> bytes:
    found = b""
    while data := client.recv(65_536):
        found += data
    return found


@pytest.mark.parametrize("sent", [b"", b"GET /slow HTTP/1.1\r\n", HEAD[:-2]])
def test_a_head_that_does_not_come_closes_its_connection(client: socket.socket, sent: bytes) -> None:
    client.sendall(sent)
    assert read_all(client) == b""


def test_one_that_comes_byte_by_byte_is_not_waited_for_longer(client: socket.socket) -> None:
    with pytest.raises(OSError):
        for _ in range(1000):
            client.sendall(b"X")
            time.sleep(0.05)


def test_an_answer_may_take_longer_than_a_head_and_the_next_request_too(client: socket.socket) -> None:
    for _ in range(2):
        client.sendall(HEAD)
        answer = b""
        while not answer.endswith(b"done"):
            answer += client.recv(65_536)
        lasts(1.0)  # idle between two requests: nothing has begun yet
    client.sendall(HEAD[:10])
    assert read_all(client) == b"", "the head of a later request has the same limit"


def test_what_is_no_http_gets_the_shape_of_every_error(client: socket.socket) -> None:
    client.sendall(b"\x00\x01 nonsense\r\n\r\n")
    head, _, body = read_all(client).partition(b"\r\n\r\n")
    assert head.startswith(b"HTTP/1.1 400 ") and b"application/problem+json" in head
    assert json.loads(body)["status"] == 400
