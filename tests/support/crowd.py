"""People and machines at a server: those who work, and those who hold connections and say or take nothing."""

import http.client
import http.cookiejar
import json
import socket
import urllib.error
import urllib.request
from typing import Any


class Client:
    """A page without a picture: it has a key, sends edits again until they are answered, and knows what was acknowledged."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        self.key = ""

    def call(self, path: str, body: dict[str, Any] | None = None) -> tuple[int, Any]:
        """The status and the answer; status 0 where nothing answered, or the answer broke off."""
        return self.send(path, None if body is None else json.dumps(body).encode(), "application/json")

    def status(self, path: str) -> int:
        """The status alone, of what may be no JSON."""
        try:
            with self.opener.open(f"{self.url}{path}", timeout=60) as answer:
                return int(answer.status)
        except urllib.error.HTTPError as error:
            return error.code

    def send(self, path: str, data: bytes | None, kind: str) -> tuple[int, Any]:
        """As ``call``, with bytes of some media type."""
        request = urllib.request.Request(f"{self.url}{path}", data, {"Content-Type": kind})
        request.add_header("X-CSRFToken", self.key)
        try:
            with self.opener.open(request, timeout=30) as answer:
                return answer.status, json.loads(answer.read())
        except urllib.error.HTTPError as error:
            return error.code, json.loads(error.read() or b"{}")
        except (OSError, ValueError, http.client.HTTPException):
            return 0, None

    def edit(self, path: str, operation: dict[str, Any]) -> tuple[int, Any]:
        """An edit on the newest revision."""
        status, state = self.call(path)
        return (
            self.call(f"{path}/operations", {"revision": state["revision"], "operation": operation})
            if status == 200
            else (status, state)
        )

    def refresh_key(self) -> None:
        self.key = (self.call("/api/key")[1] or {}).get("key", "")


class Crowd:
    """Connections that keep a server waiting, each in its own way. Close it to let go of them."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.connections: list[socket.socket] = []

    def _connect(self, said: bytes, buffer: int = 0) -> None:
        connection = socket.socket()
        if buffer:
            # Little is taken in before anybody reads.
            connection.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, buffer)
        connection.connect(("127.0.0.1", self.port))
        connection.sendall(said)
        self.connections.append(connection)

    def silent(self, count: int) -> None:
        """Says nothing at all."""
        for _ in range(count):
            self._connect(b"")

    def half_sent(self, count: int) -> None:
        """Promises a body and sends a part of it."""
        head = f"POST /api/graphs HTTP/1.1\r\nHost: 127.0.0.1:{self.port}\r\nContent-Length: 5000\r\n\r\n"
        for _ in range(count):
            self._connect(head.encode() + b"{")

    def slow(self, count: int, path: str) -> None:
        """Asks for something and takes none of it."""
        for _ in range(count):
            self._connect(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{self.port}\r\n\r\n".encode(), 4096)

    def close(self) -> None:
        for connection in self.connections:
            connection.close()


def memory_of(pid: int) -> int:
    """The bytes that a process holds in memory."""
    with open(f"/proc/{pid}/statm") as file:
        return int(file.read().split()[1]) * 4096
