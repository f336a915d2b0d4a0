#!/usr/bin/env python3
"""Writes the tables of this folder: one made-up drive, written as people and their programs write tables, each with what
must come out (expected.json). Run it after adding a case: ./make_cases.py. With a folder as argument the tables are
written there, and longer (--rows)."""
import argparse
import json
import math
import pathlib

KMH = 3.6
G = 9.80665
LAT0, LON0 = 47.3182640, 8.6713200


def drive(rows, hz=10):
    """A made-up lap of a bent oval of about 900 m, driven again and again; SI units."""
    out = []
    s = 0.0
    length = 900.0

    def curvature(at):
        x = 2 * math.pi * at / length
        return 2 * math.pi / length * (1 + 1.3 * math.sin(2 * x + 0.4) + 0.55 * math.sin(3 * x))

    def limit(at):
        return min(48.0, math.sqrt(13.0 / max(abs(curvature(at)), 1e-4)))

    speed = limit(0)
    heading, north, east = 0.35, 0.0, 0.0
    distance = 0.0
    dt = 1 / hz
    for i in range(rows):
        k = curvature(s)
        target = min(limit(s + d) + 0.02 * d for d in range(0, 70, 5))
        a = max(-9.0, min(5.0, (target - speed) * 2.2))
        throttle = max(0.0, min(1.0, 0.18 + a / 5.0)) if a > -1 else 0.0
        brake = max(0.0, -a - 0.8) * 8.1e5
        gear = 2 + int(speed / 13)
        revs = speed / (0.31 * (1.05 - 0.13 * gear)) * 3.9 * 1.6
        out.append(dict(t=i * dt, lat=LAT0 + north / 111194.93, lon=LON0 + east / (111194.93 * math.cos(math.radians(LAT0))),
                        speed=speed, throttle=throttle, brake=brake, gear=gear, revs=revs, ay=speed * speed * k, ax=a,
                        steer=math.radians(13 * 57.3 * k), yaw=speed * k, heading=math.degrees(heading) % 360,
                        oil=95 + 5 * math.sin(i / 37), pressure=1.9e5 + 900 * math.sin(i / 23), s=distance))
        for _ in range(10):
            h = dt / 10
            speed = max(4.0, speed + a * h)
            heading -= curvature(s) * speed * h
            north += math.cos(heading) * speed * h
            east += math.sin(heading) * speed * h
            s = (s + speed * h) % length
            distance += speed * h
    return out


class Cases:
    def __init__(self, rows, folder):
        self.d = drive(rows)
        self.folder = folder
        self.expected = []

    # What columns usually hold: name, unit, text of a row.
    def columns(self, **changes):
        base = {
            "time": ("Time", "s", lambda r: f"{r['t']:.3f}"),
            "lat": ("Latitude", "deg", lambda r: f"{r['lat']:.7f}"),
            "lon": ("Longitude", "deg", lambda r: f"{r['lon']:.7f}"),
            "speed": ("Speed", "km/h", lambda r: f"{r['speed'] * KMH:.3f}"),
            "throttle": ("Throttle", "%", lambda r: f"{r['throttle'] * 100:.2f}"),
            "brake": ("Brake", "bar", lambda r: f"{r['brake'] / 1e5:.3f}"),
            "revs": ("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:.1f}"),
        }
        for key, change in changes.items():
            if change is None:
                base.pop(key, None)
            else:
                base[key] = change
        return base

    def text(self, columns, sep=",", comma=False, units="brackets", eol="\n", rows=None, head="", names=True):
        lines = []
        cells = list(columns.values())
        if names:
            if units == "brackets":
                lines.append(sep.join(f"{n} [{u}]" if u else n for n, u, _ in cells))
            elif units == "row":
                lines.append(sep.join(n for n, _, _ in cells))
                lines.append(sep.join(u for _, u, _ in cells))
            elif units == "above":
                lines.append(sep.join(u for _, u, _ in cells))
                lines.append(sep.join(n for n, _, _ in cells))
            elif units == "none":
                lines.append(sep.join(n for n, _, _ in cells))
            else:
                lines.append(sep.join(units(n, u) for n, u, _ in cells))
        for r in rows if rows is not None else self.d:
            made = [f(r) for _, _, f in cells]
            if comma:
                made = [m.replace(".", ",") for m in made]
            lines.append(sep.join(made))
        return head + eol.join(lines) + eol

    def add(self, name, text, expect="right", channels=None, tolerance=None, rows=None, start=None, options=None,
            encoding="utf-8", signs=(1, 1), lacks=(), file_ending=".csv", holes=None):
        data = text if isinstance(text, bytes) else text.encode(encoding)
        file = "".join(ch if ch.isalnum() or ch in "-.+" else "_" for ch in name.replace("µ", "micro_sign_").replace("μ", "mu_")) + file_ending
        (self.folder / file).write_bytes(data)
        entry = {"file": file, "expect": [expect] if isinstance(expect, str) else list(expect)}
        if "right" in entry["expect"]:
            entry["channels"] = channels or ["latitude", "longitude", "speed", "throttle", "brake_front", "engine_speed"]
            if tolerance:
                entry["tolerance"] = tolerance
        if holes:
            entry["holes"] = holes
        if rows is not None:
            entry["rows"] = rows
        if start is not None:
            entry["start_unix_s"] = start
        if options:
            entry["options"] = options
        if signs != (1, 1):
            entry["signs"] = list(signs)
        if lacks:
            entry["lacks"] = list(lacks)
        self.expected.append(entry)

    def usual(self, name, expect="right", sep=",", comma=False, units="brackets", head="", channels=None, tolerance=None,
              start=None, rows=None, signs=(1, 1), encoding="utf-8", options=None, names=True, eol="\n", lacks=(),
              use_rows=None, holes=None, **changes):
        self.add(name, self.text(self.columns(**changes), sep, comma, units, eol, use_rows, head, names), expect, channels,
                 tolerance, rows, start, options, encoding, signs, lacks, holes=holes)


START = 1781358451.0  # 2026-06-13 13:47:31 UTC


def clock(t, decimals=2, base=13 * 3600 + 47 * 60 + 31):
    t = base + t
    h, m = int(t // 3600), int(t % 3600 // 60)
    s = t - h * 3600 - m * 60
    return h, m, f"{s:0{3 + decimals}.{decimals}f}"


def hms(t, decimals=2, base=13 * 3600 + 47 * 60 + 31):
    h, m, s = clock(t, decimals, base)
    return f"{h:02d}:{m:02d}:{s}"


def write(c):
    u = c.usual
    n = len(c.d)
    right = "right"
    none = [("no unit", "")]

    # --- times: units
    def t_unit(unit, factor, decimals=0):
        return ("Time", unit, lambda r: f"{r['t'] * factor:.{decimals}f}")
    for unit, factor, decimals in [("ms", 1e3, 0), ("msec", 1e3, 0), ("millis", 1e3, 0), ("milliseconds", 1e3, 0), ("us", 1e6, 0),
                                   ("µs", 1e6, 0), ("μs", 1e6, 0), ("usec", 1e6, 0), ("microseconds", 1e6, 0), ("ns", 1e9, 0),
                                   ("min", 1 / 60, 8), ("minutes", 1 / 60, 8), ("h", 1 / 3600, 10), ("hr", 1 / 3600, 9),
                                   ("days", 1 / 86400, 10), ("cs", 100, 0), ("1/100 s", 100, 0), ("1/1000 s", 1000, 0),
                                   ("10 ms", 100, 0), ("0.1 ms", 1e4, 0), ("sec", 1, 3), ("Sekunden", 1, 3), ("ds", 10, 0)]:
        u("time unit " + unit.replace("/", " per "), time=t_unit(unit, factor, decimals))
    u("time unit ticks 10 ms", expect=("right", "asked"), time=t_unit("ticks", 100))
    u("time unit ticks without motion", expect="asked", time=t_unit("ticks", 100), lat=None, lon=None, speed=None)
    u("time unit latin1 micro", time=t_unit("µs", 1e6), encoding="latin-1")
    u("time unit code page 437 micro", time=t_unit("æs", 1e6), encoding="latin-1")
    for label, factor, decimals in [("s", 1, 3), ("ms", 1e3, 0), ("us", 1e6, 0), ("ns", 1e9, 0)]:
        u("time no unit " + label, time=t_unit("", factor, decimals))
    u("time no unit minutes", expect=("right", "asked"), time=t_unit("", 1 / 60, 8))
    u("time no unit day fraction", expect=("right", "asked"), time=t_unit("", 1 / 86400, 10))
    u("time no unit hundredths", expect=("right", "asked"), time=t_unit("", 100, 0))
    u("time says s but is ms", expect=("right", "asked"), time=t_unit("s", 1000, 0))
    two = [dict(r, t=r["t"] * 20) for r in c.d[::20]]
    u("time says s but is ms without speed", expect="asked", time=t_unit("s", 1000, 0), speed=None)
    u("time says ms but is s without speed", expect="asked", time=t_unit("ms", 1, 3), speed=None)
    u("time whole steps of two seconds", expect=("right", "asked"), time=("Time", "", lambda r: f"{r['t'] / 20:.0f}"), lat=None, lon=None,
      use_rows=[dict(r, t=2.0 * i * 20) for i, r in enumerate(c.d)], rows=n,
      channels=["throttle"], speed=None, brake=None)
    u("time last row 1e300", expect="right", rows=n - 1, time=("Time", "s", lambda r: "1e300" if r is c.d[-1] else f"{r['t']:.3f}"))
    u("time spike in the middle", expect="right", rows=n - 1, time=("Time", "s", lambda r: "99999" if r is c.d[n // 2] else f"{r['t']:.3f}"))
    u("rate 1e300", expect="refused", time=None, options={"rate": 1e300})
    u("rate asked for", time=None, options={"rate": 10})
    u("no time at all", expect="refused", time=None)
    # --- times: texts
    for label, form in [("clock", lambda t: hms(t)), ("clock comma", lambda t: hms(t).replace(".", ",")),
                        ("clock am pm", lambda t: "%d:%02d:%s PM" % ((lambda x: (x[0] - 12, x[1], x[2]))(clock(t)))),
                        ("stop watch", lambda t: "%d:%s" % (clock(t, 3, 58)[1], clock(t, 3, 58)[2]))]:
        u("time text " + label, time=("Time", "", lambda r, form=form: '"' + form(r["t"]) + '"'))
    dates = [("ISO Z", lambda t: "2026-06-13T" + hms(t) + "Z", START), ("ISO zone", lambda t: "2026-06-13T" + hms(t) + "+02:00", START - 7200),
             ("ISO zone without colon", lambda t: "2026-06-13T" + hms(t) + "+0200", START - 7200),
             ("ISO basic", lambda t: "20260613T" + hms(t).replace(":", "") + "Z", START), ("ISO blank", lambda t: "2026-06-13 " + hms(t), START),
             ("slashes year first", lambda t: "2026/06/13 " + hms(t), START), ("dd.mm.yyyy", lambda t: "13.06.2026 " + hms(t), START),
             ("dd.mm.yyyy comma", lambda t: "13.06.2026 " + hms(t).replace(".", ","), START),
             ("dd slash mm", lambda t: "13/06/2026 " + hms(t), START), ("mm slash dd", lambda t: "06/13/2026 " + hms(t), START),
             ("mm slash dd am pm", lambda t: "06/13/2026 %d:%02d:%s PM" % ((lambda x: (x[0] - 12, x[1], x[2]))(clock(t))), START),
             ("dd-mm-yyyy", lambda t: "13-06-2026 " + hms(t), START),
             ("month name", lambda t: "13-Jun-2026 " + hms(t), START), ("month name first", lambda t: "Jun 13 2026 " + hms(t), START),
             ("month name German", lambda t: "13. Juni 2026 " + hms(t), START), ("two digit year", lambda t: "13/06/26 " + hms(t), START),
             ("clock before date", lambda t: hms(t) + " 13.06.2026", START)]
    for label, form, start in dates:
        u("date " + label, start=start, time=("Time", "", lambda r, form=form: '"' + form(r["t"]) + '"'))
    u("date open order", expect="asked", time=("Time", "", lambda r: "06/07/2026 " + hms(r["t"])))
    u("date open order answered", time=("Time", "", lambda r: "06/07/2026 " + hms(r["t"])), options={"take": ["Time=time:mm/dd"]},
      start=1780840051)
    u("date unix", start=START, time=("Time", "", lambda r: f"{START + r['t']:.2f}"))
    u("date unix ms", start=START, time=("Timestamp", "", lambda r: f"{(START + r['t']) * 1000:.0f}"))
    u("date unix us", start=START, time=("Timestamp", "", lambda r: f"{(START + r['t']) * 1e6:.0f}"))
    u("date spreadsheet days", start=START, time=("Time", "", lambda r: f"{START / 86400 + 25569 + r['t'] / 86400:.9f}"), tolerance={"time": 1e-3})
    u("date spreadsheet day fraction", expect=("right", "asked"), time=("Time", "", lambda r: f"{(13 * 3600 + 47 * 60 + 31 + r['t']) / 86400:.10f}"))
    u("hhmmss numbers", time=("UTC Time", "", lambda r: hms(r["t"]).replace(":", "")))
    u("hhmmss with thousandths", time=("UTC", "", lambda r: hms(r["t"], 3).replace(":", "").replace(".", "")))
    u("hhmmss unit", time=("UTC", "hhmmss.ss", lambda r: hms(r["t"]).replace(":", "")))
    u("GPS seconds of the week", time=("GPS Time", "s", lambda r: f"{481651 + r['t']:.2f}"))
    u("date column apart", start=START, time=("Time", "", lambda r: hms(r["t"])), date=("Date", "", lambda r: "13.06.2026"))
    u("date column ddmmyy", start=START, time=("UTC Time", "", lambda r: hms(r["t"]).replace(":", "")), date=("Date", "", lambda r: "130626"),
      tolerance={"start": 86400})
    u("date in the title", start=START, head="Date,13.06.2026\nTime,13:47:31\n\n")
    for word in ["Zeit", "Temps", "Tiempo", "Tempo", "sec", "GPS Time", "Elapsed Time", "Timestamp", "T", "Uhrzeit"]:
        u("time called " + word, time=(word, "s", lambda r: f"{r['t']:.3f}"))
    u("time called sec no unit", time=("sec", "", lambda r: f"{r['t']:.3f}"))
    u("time decimal comma Zeit", sep=";", comma=True, time=("Zeit", "s", lambda r: f"{r['t']:.3f}"))
    for head in ["Sample rate,10\n", "Sampling rate [Hz],10\n", "Sample interval [s],0.1\n", "Sample interval,0.1\n", "Interval [ms],100\n",
                 "# Sample rate: 10 Hz\n", "Sample period;100 ms\n", "Frequency = 10 Hz\n"]:
        u("rate in title " + head.strip(),
          time=None, head=head + "\n", sep=";" if ";" in head else ",")
    u("rate in title that the motion contradicts", expect="refused", time=None, head="Sample rate,25\n\n")
    third = n // 3
    u("lap time starts again", time=("Time", "s", lambda r: f"{r['t'] - (int(round(r['t'] * 10)) // third) * third / 10:.3f}"))
    u("clock set back", time=("Time", "s", lambda r: f"{r['t'] - (2.5 if r['t'] > n / 20 else 0):.3f}"))
    u("clock through midnight", time=("Time", "", lambda r: hms(((r["t"] + 86400 - n / 20) % 86400), base=0)))
    blocks = c.d[: n // 2] + c.d[n // 2 + 8:] + c.d[n // 2: n // 2 + 8]
    u("rows out of order", use_rows=blocks)
    u("rows twice", use_rows=c.d[: n // 2] + c.d[n // 2 - 4:])
    u("rows missing", use_rows=[r for i, r in enumerate(c.d) if not n // 2 <= i < n // 2 + 6], rows=n, expect="right", lacks=[n // 2, n // 2 + 6])
    # --- positions
    def dm(x, digits):
        a = abs(x)
        return f"{int(a):0{digits}d}{(a - int(a)) * 60:08.5f}"

    def dms(x):
        a = abs(x)
        m = (a - int(a)) * 60
        return f"{int(a)}°{int(m):02d}'{(m - int(m)) * 60:07.4f}"
    p = dict(channels=None)
    for (sy, sx, tag) in [(1, 1, "ne"), (-1, -1, "sw"), (1, -1, "nw")]:
        ns, ew = "N" if sy > 0 else "S", "E" if sx > 0 else "W"
        flip = dict(signs=(sy, sx))
        lat, lon = (lambda r: r["lat"]), (lambda r: r["lon"])
        u(f"places letters beside {tag}", lat=("Lat", "", lambda r: f"{lat(r):.7f}"), **flip,
          lon=("NS", "", lambda r, ns=ns: ns), x1=("Lon", "", lambda r: f"{lon(r):.7f}"), x2=("EW", "", lambda r, ew=ew: ew))
        u(f"places letter behind {tag}", **flip, lat=("Latitude", "", lambda r, ns=ns: f"{lat(r):.7f}{ns}"), lon=("Longitude", "", lambda r, ew=ew: f"{lon(r):.7f}{ew}"))
        u(f"places letter before {tag}", **flip, lat=("Latitude", "", lambda r, ns=ns: f"{ns} {lat(r):.7f}"), lon=("Longitude", "", lambda r, ew=ew: f"{ew} {lon(r):.7f}"))
        u(f"places degrees minutes letter {tag}", **flip, lat=("Latitude", "", lambda r, ns=ns: dm(lat(r), 2) + ns), lon=("Longitude", "", lambda r, ew=ew: dm(lon(r), 3) + ew))
        u(f"places degrees minutes letter beside {tag}", **flip, lat=("Latitude", "", lambda r: dm(lat(r), 2)), lon=("N/S", "", lambda r, ns=ns: ns),
          x1=("Longitude", "", lambda r: dm(lon(r), 3)), x2=("E/W", "", lambda r, ew=ew: ew))
        u(f"places degrees minutes seconds {tag}", **flip, lat=("Latitude", "", lambda r, ns=ns: dms(lat(r)) + '"' + ns), lon=("Longitude", "", lambda r, ew=ew: dms(lon(r)) + '"' + ew))
        u(f"places degrees minutes number {tag}", **flip, lat=("Latitude", "", lambda r, sy=sy: ("-" if sy < 0 else "") + dm(lat(r), 2)),
          lon=("Longitude", "", lambda r, sx=sx: ("-" if sx < 0 else "") + dm(lon(r), 3)))
        u(f"places ten millionths {tag}", **flip, lat=("Latitude", "", lambda r, sy=sy: f"{sy * lat(r) * 1e7:.0f}"), lon=("Longitude", "", lambda r, sx=sx: f"{sx * lon(r) * 1e7:.0f}"))
        u(f"places one cell {tag}", **flip, lat=("Position", "", lambda r, sy=sy, sx=sx: f'"{sy * lat(r):.7f}, {sx * lon(r):.7f}"'), lon=None)
        u(f"places one cell letters {tag}", **flip, lat=("GPS", "", lambda r, ns=ns, ew=ew: f"{ns}{lat(r):.7f} {ew}{lon(r):.7f}"), lon=None)
        u(f"places names with letters {tag}", **flip, lat=("lat_" + ns.lower(), "", lambda r: f"{lat(r):.7f}"), lon=("lon_" + ew.lower(), "", lambda r: f"{lon(r):.7f}"))
    u("places minutes", lat=("Latitude", "min", lambda r: f"{r['lat'] * 60:.6f}"), lon=("Longitude", "min", lambda r: f"{r['lon'] * 60:.6f}"))
    u("places radians", lat=("Latitude", "rad", lambda r: f"{math.radians(r['lat']):.10f}"), lon=("Longitude", "rad", lambda r: f"{math.radians(r['lon']):.10f}"))
    u("places 1e-7 deg", lat=("Latitude", "1e-7 deg", lambda r: f"{r['lat'] * 1e7:.0f}"), lon=("Longitude", "1e-7 deg", lambda r: f"{r['lon'] * 1e7:.0f}"))
    u("places deg times 1e7", lat=("Latitude", "deg*1e7", lambda r: f"{r['lat'] * 1e7:.0f}"), lon=("Longitude", "deg*1e7", lambda r: f"{r['lon'] * 1e7:.0f}"))
    u("places millionths", lat=("Latitude", "", lambda r: f"{r['lat'] * 1e6:.0f}"), lon=("Longitude", "", lambda r: f"{r['lon'] * 1e6:.0f}"), tolerance={"place": 1e-6})
    u("places millionths without speed", expect=("asked", "right"), lat=("Latitude", "", lambda r: f"{r['lat'] * 1e6:.0f}"), lon=("Longitude", "", lambda r: f"{r['lon'] * 1e6:.0f}"), tolerance={"place": 1e-6}, speed=None,
      channels=["latitude", "longitude"])
    u("places 0 to 360", signs=(1, -1), lon=("Longitude", "deg", lambda r: f"{360 - r['lon']:.7f}"))
    u("places swapped beyond 90", signs=(1, 130), lat=("Latitude", "deg", lambda r: f"{r['lon'] + 130:.7f}"), lon=("Longitude", "deg", lambda r: f"{r['lat']:.7f}"))
    u("places swapped below 90", lat=("Latitude", "deg", lambda r: f"{r['lon']:.7f}"), lon=("Longitude", "deg", lambda r: f"{r['lat']:.7f}"))
    u("lat long are accelerations", expect=("right", "asked"), lat=("Lat", "", lambda r: f"{r['ay'] / G:.4f}"), lon=("Long", "", lambda r: f"{r['ax'] / G:.4f}"),
      channels=["lateral_acceleration", "longitudinal_acceleration", "speed"])
    u("lat long in g", lat=("Lat", "g", lambda r: f"{r['ay'] / G:.4f}"), lon=("Long", "g", lambda r: f"{r['ax'] / G:.4f}"),
      channels=["lateral_acceleration", "longitudinal_acceleration", "speed"])
    # --- numbers
    def grouped(mark):
        return lambda r: f"{r['revs'] * 30 / math.pi:,.1f}".replace(",", mark)
    u("thousands comma quoted", revs=("RPM", "rpm", lambda r: '"' + grouped(",")(r) + '"'))
    u("thousands comma quoted whole", revs=("RPM", "rpm", lambda r: f'"{r["revs"] * 30 / math.pi:,.0f}"'), tolerance={"engine_speed": 0.06})
    u("thousands apostrophe", revs=("RPM", "rpm", grouped("'")))
    u("thousands curly apostrophe", revs=("RPM", "rpm", grouped("’")))
    u("thousands blank", revs=("RPM", "rpm", grouped(" ")))
    u("thousands narrow blank", revs=("RPM", "rpm", grouped("\u202f")))
    u("thousands nbsp latin1", revs=("RPM", "rpm", grouped("\u00a0")), encoding="latin-1")
    u("thousands only above a thousand", revs=("RPM", "rpm", lambda r: f'"{r["revs"] * 30 / math.pi - (4000 if r["t"] < n / 12 else 0):,.1f}"'), expect="right",
      channels=["latitude", "longitude", "speed", "throttle", "brake_front"])

    def german(whole):
        form = "{:,.0f}" if whole else "{:,.1f}"
        return lambda r: form.format(r["revs"] * 30 / math.pi).replace(",", "_").replace(".", ",").replace("_", ".")
    for whole in (False, True):
        cols = c.columns(revs=("RPM", "rpm", german(whole)))
        cells = list(cols.values())
        lines = [";".join(f"{a} [{b}]" for a, b, _ in cells)]
        for r in c.d:
            lines.append(";".join(f(r) if a == "RPM" else f(r).replace(".", ",") for a, _, f in cells))
        c.add("thousands point decimal comma" + (" whole" if whole else ""), "\n".join(lines) + "\n", tolerance={"engine_speed": 0.06})
    u("thousands tab only whole numbers", sep="\t", lat=None, lon=None, throttle=None, brake=None, time=("Time", "ms", lambda r: f"{r['t'] * 1000:.0f}"),
      speed=("Speed", "km/h", lambda r: f"{r['speed'] * KMH:.0f}"), revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:,.0f}"),
      channels=["speed", "engine_speed"], tolerance={"speed": 0.15, "engine_speed": 0.06})
    u("thousands tab point decimal", sep="\t", revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:,.0f}"), tolerance={"engine_speed": 0.06})
    u("decimal comma quoted", time=("Time", "s", lambda r: f"\"{r['t']:.3f}\"".replace(".", ",")), **{k: (a, b, lambda r, f=f: '"' + f(r).replace(".", ",") + '"')
      for k, (a, b, f) in c.columns().items() if k != "time"})
    all_ch = ["latitude", "longitude", "speed", "throttle", "brake_front", "engine_speed", "longitudinal_acceleration"]
    for label, form in [("unicode minus", lambda x: f"{x:.3f}".replace("-", "−")), ("brackets", lambda x: f"({-x:.3f})" if x < 0 else f"{x:.3f}"),
                        ("trailing minus", lambda x: f"{-x:.3f}-" if x < 0 else f"{x:.3f}"), ("dash", lambda x: f"{x:.3f}".replace("-", "–"))]:
        u("negative " + label, channels=all_ch, ax=("Long Acc", "g", lambda r, form=form: form(r["ax"] / G)))
    u("units in every cell", units="none", **{k: (a, "", lambda r, f=f, b=b: f"{f(r)} {b}") for k, (a, b, f) in c.columns().items()})
    u("units in cells without blank", units="none", speed=("Speed", "", lambda r: f"{r['speed'] * KMH:.3f}km/h"), throttle=("Throttle", "", lambda r: f"{r['throttle'] * 100:.2f}%"),
      brake=("Brake", "", lambda r: f"{r['brake'] / 1e5:.3f}bar"), revs=("RPM", "", lambda r: f"{r['revs'] * 30 / math.pi:.1f}rpm"))
    text = c.text(c.columns()).encode()
    half = text.find(b"\n", len(text) // 2) + 1
    c.add("NUL bytes in the middle", text[:half] + b"\0" * min(512, n) + text[half:])
    c.add("NUL bytes at the end", text + b"\0" * (2 * n))
    # --- names and units
    u("unit min-1 superscript", revs=("RPM", "min⁻¹", c.columns()["revs"][2]))
    u("unit 1/min", revs=("Engine Speed", "1/min", c.columns()["revs"][2]))
    u("unit U/min", revs=("RPM", "U/min", c.columns()["revs"][2]))
    u("unit rpm times 1000", revs=("RPM", "rpm x 1000", lambda r: f"{r['revs'] * 30 / math.pi / 1000:.5f}"), tolerance={"engine_speed": 0.06})
    u("unit 1000 rpm", revs=("RPM", "1000 rpm", lambda r: f"{r['revs'] * 30 / math.pi / 1000:.5f}"), tolerance={"engine_speed": 0.06})
    u("unit 1 per s of revs", revs=("RPM", "1/s", lambda r: f"{r['revs'] / 2 / math.pi:.4f}"))
    u("unit Hz of revs", revs=("Engine Speed", "Hz", lambda r: f"{r['revs'] / 2 / math.pi:.4f}"))
    for enc in ("utf-8", "latin-1"):
        u("unit m per s2 sign " + enc, channels=all_ch, encoding=enc, ax=("Long Acc", "m/s²", lambda r: f"{r['ax']:.4f}"))
    u("unit m/s^2", channels=all_ch, ax=("Long Acc", "m/s^2", lambda r: f"{r['ax']:.4f}"))
    u("unit ft per s", speed=("Speed", "ft/s", lambda r: f"{r['speed'] / 0.3048:.4f}"))
    u("unit km per u", speed=("Speed", "km/u", c.columns()["speed"][2]))
    u("unit mph", speed=("Speed", "mph", lambda r: f"{r['speed'] / 0.44704:.4f}"))
    u("unit knots", speed=("Speed", "knots", lambda r: f"{r['speed'] * 3600 / 1852:.4f}"))
    u("unit MPa written mPa", brake=("Brake Pressure", "mPa", lambda r: f"{r['brake'] / 1e6:.5f}"))
    u("unit psi", brake=("Brake Pressure", "psi", lambda r: f"{r['brake'] / 6894.757293:.3f}"))
    u("unit degC", channels=["speed", "oil_temperature"], oil=("Oil Temp", "°C", lambda r: f"{r['oil']:.2f}"), encoding="latin-1")
    u("unit degF", channels=["speed", "oil_temperature"], oil=("Oil Temp", "°F", lambda r: f"{r['oil'] * 1.8 + 32:.2f}"))
    u("heading in rad said to be deg", channels=["speed", "heading"], heading=("Heading", "deg", lambda r: f"{math.radians(r['heading']):.5f}"), tolerance={"heading": 0.01})
    u("heading in rad no unit", channels=["speed", "heading"], heading=("Heading", "", lambda r: f"{math.radians(r['heading']):.5f}"), tolerance={"heading": 0.01})
    u("heading in deg", channels=["speed", "heading"], heading=("Heading", "deg", lambda r: f"{r['heading']:.3f}"), tolerance={"heading": 0.01})
    u("units above names", units="above")
    u("units below names", units="row")
    for label, form in [("braces", "{} {{{}}}"), ("round", "{} ({})"), ("hyphen", "{} - {}"), ("comma", "{}, {}"), ("in", "{} in {}"), ("angle", "{} <{}>")]:
        sep = ";" if label == "comma" else ","
        u("units " + label, sep=sep, units=lambda a, b, form=form: form.format(a, b))
    cells = list(c.columns().values())
    body = c.text(c.columns(), names=False)
    row = ",".join
    c.add("description between names and units", row(a for a, _, _ in cells) + "\n" + row("measured " + a.lower() for a, _, _ in cells) + "\n" + row(b for _, b, _ in cells) + "\n" + body)
    c.add("description below units", row(a for a, _, _ in cells) + "\n" + row(b for _, b, _ in cells) + "\n" + row("sensor of " + a.lower() for a, _, _ in cells) + "\n" + body)
    c.add("group row above names", row(["", "GPS", "GPS", "GPS", "Pedals", "Pedals", "Engine"]) + "\n" + row(f"{a} [{b}]" for a, b, _ in cells) + "\n" + body)
    c.add("names with line breaks", row(f'"{a}\n[{b}]"' for a, b, _ in cells) + "\n" + body)
    c.add("title block", "Session: test day\nDriver: A. Moreau\n\n" + row(f"{a} [{b}]" for a, b, _ in cells) + "\n\n" + body)
    c.add("no header at all", body, expect=("right", "asked", "refused"), channels=["time only"])
    c.add("utf16 little", c.text(c.columns()).encode("utf-16"))
    c.add("utf16 big without mark", c.text(c.columns()).encode("utf-16-be"))
    c.add("byte order mark", c.text(c.columns()), encoding="utf-8-sig")
    c.add("separator line", "sep=;\n" + c.text(c.columns(), sep=";"))
    c.add("separator at the end", "\n".join(line + "," for line in c.text(c.columns()).splitlines()) + "\n")
    c.add("carriage returns", c.text(c.columns(), eol="\r\n"))
    # pairs of columns with times of their own
    half_rate = c.d[::2]
    names = ["Time [s]", "Speed [km/h]", "Time [s]", "Throttle [%]", "Time [s]", "RPM [rpm]"]
    lines = [",".join(names)]
    for i, r in enumerate(c.d):
        h = half_rate[i] if i < len(half_rate) else None
        lines.append(",".join([f"{r['t']:.3f}", f"{r['speed'] * KMH:.3f}"] + ([f"{h['t']:.3f}", f"{h['throttle'] * 100:.2f}"] if h else ["", ""]) +
                              [f"{r['t'] + 0.02:.3f}", f"{r['revs'] * 30 / math.pi:.1f}"]))
    c.add("time for each column", "\n".join(lines) + "\n", channels=["speed"], rows=None)
    lines = [",".join(names)]
    for r in c.d:
        t = f"{r['t']:.3f}"
        lines.append(",".join([t, f"{r['speed'] * KMH:.3f}", t, f"{r['throttle'] * 100:.2f}", t, f"{r['revs'] * 30 / math.pi:.1f}"]))
    c.add("same time for each column", "\n".join(lines) + "\n", channels=["speed", "throttle", "engine_speed"])
    # --- quantities without units
    u("speed no unit positions kmh", speed=("Speed", "", c.columns()["speed"][2]))
    u("speed no unit positions mph", speed=("Speed", "", lambda r: f"{r['speed'] / 0.44704:.4f}"))
    u("speed no unit positions ms", speed=("Speed", "", lambda r: f"{r['speed']:.4f}"))
    u("speed no unit alone kmh", expect="asked", lat=None, lon=None, speed=("Speed", "", c.columns()["speed"][2]))
    u("speed no unit alone mph", expect="asked", lat=None, lon=None, speed=("Speed", "", lambda r: f"{r['speed'] / 0.44704:.4f}"))
    u("speed no unit alone ms", expect="asked", lat=None, lon=None, speed=("Speed", "", lambda r: f"{r['speed']:.4f}"))
    u("speed no unit acceleration mph", lat=None, lon=None, ax=("Long Acc", "g", lambda r: f"{r['ax'] / G:.4f}"), speed=("Speed", "", lambda r: f"{r['speed'] / 0.44704:.4f}"),
      channels=["speed", "throttle", "brake_front", "engine_speed"])
    u("speed no unit answered", lat=None, lon=None, speed=("Speed", "", lambda r: f"{r['speed'] / 0.44704:.4f}"), options={"take": ["Speed=speed:mph"]},
      channels=["speed", "throttle", "brake_front", "engine_speed"])
    u("speed says kmh but is ms", expect=("right", "asked"), speed=("Speed", "km/h", lambda r: f"{r['speed']:.4f}"))
    u("speed says mph but is kmh", expect=("right", "asked"), speed=("Speed", "mph", c.columns()["speed"][2]))
    u("speed says ms but is kmh alone", expect="asked", lat=None, lon=None, speed=("Speed", "m/s", lambda r: f"{r['speed'] * KMH * 1.6:.4f}"))
    u("brake says bar but is kPa", expect="asked", brake=("Brake", "bar", lambda r: f"{r['brake'] / 1e3:.2f}"))
    u("lateral says g but is m per s2", expect="asked", ay=("Lateral Acc", "g", lambda r: f"{r['ay']:.4f}"))
    u("revs say rpm but are thousands", expect="asked", revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi / 1000:.5f}"))
    u("unit that is not known", expect="asked", revs=("RPM", "wheels", lambda r: f"{r['revs'] * 30 / math.pi:.2f}"))
    u("cells that cannot be read", expect="asked", revs=("RPM", "rpm", lambda r: f"about {r['revs'] * 30 / math.pi:.0f} turns"))
    u("many cells that cannot be read", expect="asked", revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:.0f}" + (" or so" if round(r["t"] * 10) % 3 == 0 else "")))
    u("times that cannot be read", expect="refused", time=("Time", "", lambda r: f"moment {r['t']:.2f} of the day"))
    u("half circles in 31 bits", lat=("Latitude", "", lambda r: f"{r['lat'] * 2**31 / 180:.0f}"), lon=("Longitude", "", lambda r: f"{r['lon'] * 2**31 / 180:.0f}"))
    u("throttle 0 to 1", throttle=("Throttle", "", lambda r: f"{r['throttle']:.4f}"))
    u("throttle 0 to 1 said percent", expect=("right", "asked"), throttle=("Throttle", "%", lambda r: f"{r['throttle']:.4f}"))
    u("throttle 0 to 100", throttle=("Throttle", "", c.columns()["throttle"][2]))
    u("throttle 0 to 255", expect=("right", "asked"), throttle=("Throttle", "", lambda r: f"{r['throttle'] * 255:.2f}"))
    u("brake no unit bar", expect="asked", brake=("Brake", "", c.columns()["brake"][2]))
    u("brake no unit psi", expect="asked", brake=("Brake", "", lambda r: f"{r['brake'] / 6894.757:.2f}"))
    u("brake no unit answered", brake=("Brake", "", c.columns()["brake"][2]), options={"take": ["Brake=brake:bar"]})
    u("brake pressure no unit bar", expect=("right", "asked"), brake=("Brake Pressure", "", c.columns()["brake"][2]))
    u("brake pressure no unit psi", expect="asked", brake=("Brake Pressure", "", lambda r: f"{r['brake'] / 6894.757:.2f}"))
    for unit, factor in [("g", G), ("m per s2", 1)]:
        u("lateral no unit " + unit, channels=["speed", "lateral_acceleration"], ay=("Lateral Acc", "", lambda r, per=factor: f"{r['ay'] / per:.4f}"))
    u("lateral G", channels=["speed", "lateral_acceleration"], ay=("Lateral G", "", lambda r: f"{r['ay'] / G:.4f}"))
    u("oil no unit alone", expect=("asked", "right"), units="none", oil=("Oil Temp", "", lambda r: f"{r['oil']:.2f}"), lat=None, lon=None,
      channels=["oil_temperature"])
    u("oil no unit among metric", oil=("Oil Temp", "", lambda r: f"{r['oil']:.2f}"), channels=["speed", "oil_temperature"])
    u("tyre pressure no unit psi", pressure=("Tyre Pressure FL", "", lambda r: f"{r['pressure'] / 6894.757:.4f}"), channels=["speed", "tyre_pressure_fl"])
    u("battery voltage", battery=("Battery Voltage", "V", lambda r: "13.80"), channels=["speed"])

    # --- what stands for nothing
    def holed(mark, text, every=7):
        return lambda r: mark if round(r["t"] * 10) % every == 3 else text(r)
    kmh = c.columns()["speed"][2]
    for mark in ["-9999", "-999", "-999.25", "9999", "65535", "9.99E+37", "1e38", "#NV", "*", "nil", "(null)", '"NaN"']:
        u("speed where " + mark.strip('"') + " stands for nothing", holes={"speed": 7}, speed=("Speed", "km/h", holed(mark, kmh)))
    u("revs where -1e30 stands for nothing", holes={"engine_speed": 7}, revs=("RPM", "rpm", holed("-1e30", c.columns()["revs"][2])))
    u("places where 999 stands for nothing", holes={"latitude": 7, "longitude": 7}, lat=("Latitude", "deg", holed("999", c.columns()["lat"][2])),
      lon=("Longitude", "deg", holed("999.0", c.columns()["lon"][2])))
    u("revs of 9999 once are revs", revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:.1f}"), channels=["engine_speed", "speed"])

    # --- a column with a decimal sign of its own
    u("places with a comma beside points", sep=";", lat=("Latitude", "deg", lambda r: f"{r['lat']:.7f}".replace(".", ",")),
      lon=("Longitude", "deg", lambda r: f"{r['lon']:.7f}".replace(".", ",")))
    u("places with a short comma beside points", sep=";", tolerance={"place": 6e-5}, expect=("right", "asked"),
      lat=("Latitude", "deg", lambda r: f"{r['lat']:.4f}".replace(".", ",")), lon=("Longitude", "deg", lambda r: f"{r['lon']:.4f}".replace(".", ",")))

    # --- units and names that nobody thought of
    for unit, factor in [("km/h*10", 36), ("kilometers per hour", KMH), ("M.P.H.", 1 / 0.44704), ("dm/s", 10), ("ft/min", 60 / 0.3048), ("furlongs", 17)]:
        u("speed in " + unit.replace("/", " per ").replace("*", " times "), expect=("right", "asked"),
          speed=("Speed", unit, lambda r, f=factor: f"{r['speed'] * f:.3f}"))
    for name, factor in [("SpeedKnots", 1 / 0.514444), ("speedKmh", KMH), ("SPEED (MPH)*", 1 / 0.44704), ("V_GPS/kmh", KMH), ("Geschw. km/h", KMH),
                         ("Velocit\u00e0 (km/h)", KMH)]:
        u("speed called " + name.replace("/", " per ").replace("\u00e0", "a"), speed=(name, "", lambda r, f=factor: f"{r['speed'] * f:.3f}"))
    for unit, factor in [("gal", 100), ("cm/s\u00b2", 100), ("mg", 1000 / G)]:
        u("lateral in " + unit.replace("/", " per ").replace("\u00b2", "2"), channels=["speed", "lateral_acceleration"],
          ay=("Lateral Acceleration", unit, lambda r, f=factor: f"{r['ay'] * f:.2f}"))
    for unit, factor in [("gon", 400 / 360), ("grad", 400 / 360), ("grad", 1)]:
        u(f"heading in {unit} of which {round(360 * factor)} are a turn", channels=["speed", "heading"],
          heading=("Heading", unit, lambda r, f=factor: f"{r['heading'] * f:.3f}"))
    u("minimum maximum and mean behind the rows", expect=("right", "refused"), use_rows=None)
    text = (c.folder / "minimum_maximum_and_mean_behind_the_rows.csv").read_text()
    (c.folder / "minimum_maximum_and_mean_behind_the_rows.csv").write_text(text + "Min,47.1,8.5,20,0,0,3000\nMax,47.4,8.7,170,100,60,8000\nMean,47.3,8.6,90,40,5,6000\n")

    # --- heads
    words = {"Dutch": ("Tijd", "Breedtegraad", "Lengtegraad", "Snelheid", "Gaspedaal", "Toerental"),
             "Italian": ("Tempo", "Latitudine", "Longitudine", "Velocit\u00e0", "Acceleratore", "Giri motore"),
             "French": ("Temps", "Latitude", "Longitude", "Vitesse", "Acc\u00e9l\u00e9rateur", "R\u00e9gime moteur"),
             "Spanish": ("Tiempo", "Latitud", "Longitud", "Velocidad", "Acelerador", "R\u00e9gimen"),
             "Portuguese": ("Tempo", "Latitude", "Longitude", "Velocidade", "Acelerador", "Rota\u00e7\u00e3o"),
             "German": ("Zeit", "Breite", "L\u00e4nge", "Geschwindigkeit", "Gaspedal", "Drehzahl")}
    usual = c.columns()
    for language, names in words.items():
        keys = ["time", "lat", "lon", "speed", "throttle", "revs"]
        u("heads in " + language, brake=None, channels=["latitude", "longitude", "speed", "throttle", "engine_speed"],
          **{key: (name, usual[key][1], usual[key][2]) for key, name in zip(keys, names)})
    for name in ["SOG", "VSS", "GPS_v", "Vehicle speed sensor"]:
        u("speed called " + name, speed=(name, "km/h", kmh))
    stroke = {key: (name + "|" + unit, "", text) for key, (name, unit, text) in usual.items()}
    u("units behind an upright stroke", units="none", **stroke)
    whole = c.text(c.columns())
    half = c.text(c.columns(speed=("Speed", "mph", lambda r: f"{r['speed'] / 0.44704:.3f}")))
    lines, others = whole.splitlines(), half.splitlines()
    c.add("the same head again", "\n".join(lines[:50] + [lines[0]] + lines[50:]) + "\n")
    c.add("another unit below", "\n".join(lines[:50] + [""] + [others[0]] + others[50:]) + "\n", expect="refused")
    c.add("other columns below", "\n".join(lines[:50] + ["Time [s],Gear,Steering Angle [deg],Oil Temp [\u00b0C],Heading [deg],Clutch [%],Height [m]"] + lines[50:]) + "\n",
          expect="refused")
    c.add("decimal commas between commas", lines[0] + "\n" + "\n".join(
        line.split(",")[0] + "," + ",".join(cell.replace(".", ",") for cell in line.split(",")[1:]) for line in lines[1:]) + "\n", expect="refused")
    u("revs with a slash and what is possible", expect="asked", revs=("RPM", "rpm", lambda r: f"{r['revs'] * 30 / math.pi:.0f}/9000"))


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", nargs="?", default=str(pathlib.Path(__file__).parent))
    parser.add_argument("--rows", type=int, default=0)
    arguments = parser.parse_args()
    folder = pathlib.Path(arguments.folder)
    folder.mkdir(parents=True, exist_ok=True)
    for old in folder.glob("*.csv"):
        old.unlink()
    cases = Cases(arguments.rows or 100, folder)
    write(cases)
    keys = ["t", "lat", "lon", "speed", "throttle", "brake", "revs", "ay", "ax", "heading", "oil", "pressure"]
    truth = {k: [round(r[k], 9) for r in cases.d] for k in keys}
    (folder / "expected.json").write_text(json.dumps({"truth": truth, "cases": cases.expected}, ensure_ascii=False,
                                                     separators=(",", ":")).replace('{"file"', '\n{"file"') + "\n")
    print(len(cases.expected), "cases")


main()
