"""Runs the simulated instruments on free loopback ports and prints their addresses, until its input is closed."""

import socketserver
import sys
import threading

from dosis.instruments.simulated.device import Device
from dosis.instruments.simulated.devices import DEVICES


class Listener(socketserver.ThreadingTCPServer):
    """One device behind one port; several may talk to it, one line at a time."""

    daemon_threads = True
    allow_reuse_address = True

    def __init__(self, device: Device) -> None:
        super().__init__(("127.0.0.1", 0), Talk)
        self.device = device
        self.turn = threading.Lock()


class Talk(socketserver.StreamRequestHandler):
    """Lines in, lines out. With the switch `cable` at "loose" the next values break off halfway."""

    server: Listener

    def handle(self) -> None:
        for line in self.rfile:
            with self.server.turn:
                answer = self.server.device.answer(line.decode("ascii", errors="replace"))
            panel = self.server.device.panel
            if answer is not None and answer.startswith(b"#") and panel.get("cable") == "loose":
                panel["cable"] = "firm"
                self.wfile.write(answer[: len(answer) // 2])
                return
            if answer is not None:
                self.wfile.write(answer)


def main() -> None:
    """Start all, say where they are, and stay until the parent goes."""
    listeners = [Listener(kind()) for kind in DEVICES]
    for listener in listeners:
        threading.Thread(target=listener.serve_forever, daemon=True).start()
    print(" ".join(f"127.0.0.1:{listener.server_address[1]}" for listener in listeners), flush=True)
    sys.stdin.read()


main()
