"""Edits go on while others hold connections, read slowly, ask for pictures, or send what stalls."""

import struct
import threading

import cv2
import numpy as np

from tests.support.crowd import Client, Crowd, memory_of
from tests.support.databases import graph_id
from tests.support.live import LiveCase

SIDE = 2048


class Crowded(LiveCase):
    def setUp(self) -> None:
        self.client = Client(self.live.url)
        self.client.refresh_key()
        self.path = f"/api/graphs/{graph_id(self.live.engine, 'Ferry enamel')}"
        self.crowd = Crowd(self.live.port)
        self.addCleanup(self.crowd.close)

    def edits_go_on(self) -> None:
        for number in range(3):
            status, answer = self.client.edit(self.path, {"op": "set_title", "value": f"Ferry enamel {number}"})
            self.assertEqual(status, 200, answer)
        self.client.edit(self.path, {"op": "set_title", "value": "Ferry enamel"})

    def upload(self, name: str, data: bytes) -> tuple[int, dict]:
        """Sends a picture as the page does."""
        edge = "edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        return self.client.send("/api/textures", body, f"multipart/form-data; boundary={edge}")

    def test_beside_those_who_say_or_take_nothing(self) -> None:
        noise = np.random.default_rng(1).integers(0, 255, (SIDE, SIDE, 3), np.uint8)
        status, made = self.upload("large.png", cv2.imencode(".png", noise)[1].tobytes())
        self.assertEqual(status, 200, made)
        before = memory_of(self.live.process.pid)
        self.crowd.silent(110)
        self.crowd.half_sent(60)
        self.crowd.slow(24, f"/api/textures/{made['texture']['id']}/levels")
        self.edits_go_on()
        # The slow ones share one copy of what they do not take.
        self.assertLess(memory_of(self.live.process.pid) - before, 12 * SIDE * SIDE * 4)

    def test_beside_many_who_want_pictures(self) -> None:
        titles = ("Ferry enamel", "Basin water", "Slate bluff", "Bronze gear")
        paths = [f"/api/graphs/{graph_id(self.live.engine, title)}" for title in titles]
        for number, path in enumerate(paths):
            self.assertEqual(self.client.edit(path, {"op": "set_title", "value": f"{titles[number]} again"})[0], 200)
        wanted = [f"{path}/picture.png?r={n}" for path in paths for n in range(7)]
        seen: list[int] = []
        asking = [threading.Thread(target=lambda p=p: seen.append(Client(self.live.url).status(p))) for p in wanted]
        for thread in asking:
            thread.start()
        self.edits_go_on()
        for thread in asking:
            thread.join()
        self.assertLessEqual(set(seen), {200, 503}, "painted, or asked to come again")
        self.assertIn(200, seen)
        for number, path in enumerate(paths):
            self.client.edit(path, {"op": "set_title", "value": titles[number]})

    def test_beside_files_that_stall(self) -> None:
        answers: list[tuple[int, dict]] = []
        files = {"channels.exr": many_channels(100_000), "scans.jpg": many_scans(20_000)}
        sending = [
            threading.Thread(target=lambda n=n, d=d: answers.append(self.upload(n, d))) for n, d in files.items()
        ]
        for thread in sending:
            thread.start()
        self.edits_go_on()
        for thread in sending:
            thread.join()
        self.assertEqual([status for status, _ in answers], [422, 422])
        said = " ".join(answer["error"]["what"] for _, answer in answers)
        self.assertIn("100000 channels", said)
        self.assertIn("scans", said)

    def test_a_body_too_large_is_refused_before_it_is_read(self) -> None:
        self.crowd._connect(
            f"POST /api/textures HTTP/1.1\r\nHost: 127.0.0.1:{self.live.port}\r\nContent-Length: {1 << 30}\r\n\r\n".encode()
        )
        self.assertIn(b"413", self.crowd.connections[-1].recv(100))


def many_channels(count: int) -> bytes:
    """An OpenEXR file whose header claims so many channels of one pixel."""
    channels = b"".join(b"c%06d\0" % i + struct.pack("<iIii", 1, 0, 1, 1) for i in range(count)) + b"\0"
    box = struct.pack("<4i", 0, 0, 0, 0)
    attributes = (
        (b"channels", b"chlist", channels),
        (b"compression", b"compression", b"\0"),
        (b"dataWindow", b"box2i", box),
        (b"displayWindow", b"box2i", box),
        (b"lineOrder", b"lineOrder", b"\0"),
        (b"pixelAspectRatio", b"float", struct.pack("<f", 1)),
        (b"screenWindowCenter", b"v2f", struct.pack("<2f", 0, 0)),
        (b"screenWindowWidth", b"float", struct.pack("<f", 1)),
    )
    head = b"".join(b"%s\0%s\0%s%s" % (n, k, struct.pack("<i", len(v)), v) for n, k, v in attributes)
    return struct.pack("<II", 20000630, 2) + head + b"\0"


def many_scans(count: int) -> bytes:
    """A JPEG whose picture comes in so many scans."""
    made = cv2.imencode(".jpg", np.zeros((64, 64, 3), np.uint8), [cv2.IMWRITE_JPEG_PROGRESSIVE, 1])[1].tobytes()
    start = made.rindex(b"\xff\xda")
    return made[:start] + made[start:-2] * count + made[-2:]
