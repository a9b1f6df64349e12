"""A logger's script: reads its probes, posts what they read in bulk, and sends again what did not arrive.

    python3 logger.py http://127.0.0.1:4180 <person> <system> 2027-03-09T08:00:00+00:00 12

Twelve readings up to that moment, five minutes apart. `probes` is a stand-in: put your own in its place. Nothing but the
standard library is needed.
"""
import json
import math
import sys
import time
import urllib.error
import urllib.request
import uuid
from datetime import datetime, timedelta, timezone


def probes(at):
    """What the probes read: pH, EC in mS/cm, degrees C. A stand-in that swings with the lamp."""
    swing = math.sin(at.hour / 24 * 2 * math.pi)
    return round(6.1 + 0.1 * swing, 2), round(1.5 - 0.02 * swing, 2), round(20.5 + swing, 1)


def reading(system, at):
    ph, ec, temperature = probes(at)
    return {
        "system": system,
        "at": at.astimezone(timezone.utc).isoformat(),
        "ph": ph,
        "ec": {"value": ec, "scale": "ms_cm"},
        "temperature": temperature,
    }


def post(base, person, readings, tries=5):
    """Posts readings. The id is made once: a post that is repeated because its answer was lost is taken in once."""
    body = json.dumps({"id": str(uuid.uuid4()), "source": "logger.py", "readings": readings}).encode()
    headers = {"Content-Type": "application/json", "Mopsel-Person": person}
    for turn in range(tries):
        try:
            request = urllib.request.Request(f"{base}/api/readings", body, headers)
            with urllib.request.urlopen(request, timeout=20) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            problem = json.load(error)
            # What is refused stays refused: each line says why. Only what never arrived is sent again.
            if error.code < 500:
                for line in problem.get("lines", []):
                    print(f"reading {line['line']}: {line['why']['found']}. {line['why']['mend']}", file=sys.stderr)
                raise SystemExit(problem["detail"])
        except urllib.error.URLError:
            pass
        time.sleep(2**turn)
    raise SystemExit("It did not arrive. The readings are kept here; try again later.")


def main():
    base, person, system, until, count = sys.argv[1:6]
    until = datetime.fromisoformat(until)
    times = [until - timedelta(minutes=5 * n) for n in reversed(range(int(count)))]
    came = post(base, person, [reading(system, at) for at in times])
    print(f"{came['new']} new, {came['there']} there already")


main()
