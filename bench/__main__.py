"""`python -m bench [NAME] [--json]`: runs one measurement, or all of them."""

import argparse
import json
import sys

from redlantern.safety import seal


def main() -> int:
    """Run what was asked for."""
    seal.put_on()
    from bench import collection, quality, reading, speed

    benches = {"quality": quality, "speed": speed, "reading": reading, "collection": collection}
    parser = argparse.ArgumentParser(prog="./run bench")
    parser.add_argument("name", nargs="?", choices=[*benches])
    parser.add_argument("--json", action="store_true", help="print the figures as JSON")
    arguments = parser.parse_args()
    results = {}
    for name in [arguments.name] if arguments.name else [*benches]:
        result = benches[name].measure()
        results[name] = benches[name].as_json(result)
        if not arguments.json:
            print(f"\n{name.upper()}")
            benches[name].show(result)
    if arguments.json:
        print(json.dumps(results, indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main())
