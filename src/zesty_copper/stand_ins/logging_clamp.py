"""A simulated logging clamp: a small server that answers as `docs/logging-clamp.md` says."""

import json
import socketserver
import time
from threading import Thread

from pydantic import ValidationError

from zesty_copper.core.errors import ZestyError
from zesty_copper.stand_ins.clamp_protocol import MOST_LINE_BYTES, Begin, Begun, Ended, Refused, Sample
from zesty_copper.stand_ins.simulated_run import SimulatedRun

__all__ = ["LoggingClamp"]

LOOPBACK = "127.0.0.1"
ANSWER_SECONDS = 30.0


class _Handler(socketserver.StreamRequestHandler):
    """One connection: one question, and the samples that answer it."""

    timeout = ANSWER_SECONDS

    def handle(self) -> None:
        """Answer until the other side has had enough."""
        line = self.rfile.readline(MOST_LINE_BYTES)
        try:
            begin = Begin.model_validate_json(line)
            if begin.circuit is None:
                raise ValueError("The simulated clamp has to be told what it is clamped to: send a circuit.")
            run = SimulatedRun(begin.circuit, begin.fault, begin.seed)
        except (ValidationError, ValueError) as error:
            self._say(Refused(refused=str(error).splitlines()[0]))
            return
        except ZestyError as error:
            self._say(Refused(refused=error.message))
            return
        try:
            self._say(Begun(channels=run.channels))
            begun = time.monotonic()
            for at, values in run.samples(begin.rate_hz, begin.minutes):
                ahead = at / begin.speed - (time.monotonic() - begun)
                if ahead > 0:
                    self.wfile.flush()
                    time.sleep(ahead)
                self._say(Sample(s=at, v=tuple(values)))
            self._say(Ended())
        except OSError:
            return  # the other side has left

    def _say(self, told: Begun | Sample | Ended | Refused) -> None:
        self.wfile.write(json.dumps(told.model_dump(mode="json")).encode() + b"\n")


class LoggingClamp(socketserver.ThreadingTCPServer):
    """The clamp's server, on this machine alone; it answers until it is closed."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self) -> None:
        super().__init__((LOOPBACK, 0), _Handler)

    def __enter__(self) -> "LoggingClamp":
        Thread(target=self.serve_forever, daemon=True, name="simulated clamp").start()
        return self

    def __exit__(self, *_: object) -> None:
        self.shutdown()
        self.server_close()

    @property
    def address(self) -> tuple[str, int]:
        """Where it is reached."""
        host, port = self.server_address[:2]
        return str(host), int(port)
