"""Makes the CSV of a logger that never was: three months of five-minute readings, with a decimal comma and a semicolon
between cells, as a spreadsheet on the continent writes them.

    python3 logger-file.py "Corner tower" 2027-03-09T08:00 > tower.csv
"""
import math
import random
import sys
from datetime import datetime, timedelta

name, until = sys.argv[1], datetime.fromisoformat(sys.argv[2])
days = int(sys.argv[3]) if len(sys.argv) > 3 else 92
random.seed(name)
print("Time;System;pH;EC (mS/cm);Water temperature (°C)")
lines = days * 288
for n in range(lines):
    at = until - timedelta(minutes=5 * (lines - 1 - n))
    # A change every other week: fresh feed, pH at its aim; between them pH climbs and the feed is eaten.
    along = (n % (14 * 288)) / (14 * 288)
    day = 2 * math.pi * (at.hour + at.minute / 60 - 9) / 24
    ph = 5.8 + 0.5 * along + 0.06 * math.sin(day) + random.gauss(0, 0.01)
    ec = 1.60 - 0.35 * along + random.gauss(0, 0.008)
    temperature = 20.2 + 1.6 * math.sin(day) + random.gauss(0, 0.05)
    print(f"{at:%Y-%m-%d %H:%M};{name};{ph:.2f};{ec:.2f};{temperature:.1f}".replace(".", ","))
