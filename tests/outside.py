# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs commands outside of the seal, for the few tests that need a network of their own machine or a tracer.

The test process seals itself at once and can never undo it, so this helper is
started before: it reads one command a line as JSON on its standard input, and
answers with its exit code and what it printed.
"""

import atexit
import json
import subprocess
import sys


class Outside:
    """The helper as the tests use it."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, __file__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, close_fds=True
        )
        atexit.register(self.close)

    def run(self, command, *, env, timeout_s=60, stdin=""):
        """Run a command to its end; gives (exit code, standard output, standard error)."""
        request = {"command": command, "env": env, "timeout": timeout_s, "stdin": stdin}
        self._process.stdin.write(json.dumps(request) + "\n")
        self._process.stdin.flush()
        answer = json.loads(self._process.stdout.readline())
        return answer["code"], answer["out"], answer["err"]

    def close(self):
        self._process.stdin.close()
        self._process.wait()
        self._process.stdout.close()


def main() -> None:
    for line in sys.stdin:
        asked = json.loads(line)
        try:
            done = subprocess.run(
                asked["command"], env=asked["env"], timeout=asked["timeout"], input=asked["stdin"], capture_output=True,
                text=True, check=False,
            )  # fmt: skip
            answer = {"code": done.returncode, "out": done.stdout, "err": done.stderr}
        except subprocess.TimeoutExpired as late:
            answer = {"code": -1, "out": "", "err": f"took over {late.timeout} s"}
        print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    main()
