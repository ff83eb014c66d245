# SPDX-License-Identifier: GPL-3.0-or-later
"""A small stand-in for a model server on the loopback: streams a fixed form of answer, and notes what it was asked.

Run as `python standin_server.py PORT_FILE`; writes its port there and ends with its standard input.
"""

import json
import sys
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path


class Handler(BaseHTTPRequestHandler):
    def do_POST(self):
        asked = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        if asked.get("model") == "unknown":
            body = json.dumps({"error": {"message": "no such model"}}).encode()
            self.send_response(404)
            self.end_headers()
            self.wfile.write(body)
            return
        first = next(line for line in asked["messages"][-1]["content"].split("\n") if not line.startswith("# "))
        self.send_response(200)
        self.send_header("Content-Type", "text/event-stream")
        self.end_headers()
        for words in (*(f"{word} " for word in first.split()), "[1]"):
            event = {"choices": [{"delta": {"content": words}}]}
            self.wfile.write(f"data: {json.dumps(event)}\n\n".encode())
        self.wfile.write(b"data: [DONE]\n\n")

    def log_message(self, *words):
        pass


def main() -> None:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    Path(sys.argv[1]).write_text(str(server.server_address[1]))
    sys.stdin.read()


if __name__ == "__main__":
    main()
