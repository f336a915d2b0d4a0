"""Runs the bench programs, pandas, NumPy and SciPy, and prints each goal with its ratio."""
import json
import os
import pathlib
import subprocess
import sys
import time

programs, folder = map(pathlib.Path, sys.argv[1:3])


def make_table(file, megabytes=100, columns=40):
    import numpy as np

    rng = np.random.default_rng(1)
    with open(file, "w") as out:
        out.write("time [s]," + ",".join(f"channel {i}" for i in range(columns)) + "\n")
        row = 0
        while out.tell() < megabytes * 1_000_000:
            block = rng.normal(size=(2000, columns)) * 50
            lines = []
            for values in block:
                lines.append(f"{row * 0.01:.2f}," + ",".join(f"{v:.4f}" for v in values))
                row += 1
            out.write("\n".join(lines) + "\n")


def median(values):
    values = sorted(values)
    return values[len(values) // 2]


def run(program, **environment):
    out = subprocess.run([programs / program, "--benchmark_format=json", "--benchmark_repetitions=5", "--benchmark_min_time=0.2"],
                         env={**os.environ, **environment}, capture_output=True, text=True)
    times = {}
    for row in json.loads(out.stdout)["benchmarks"]:
        if row.get("error_occurred"):
            sys.exit(f"{row['name']}: {row['error_message']}")
        if row.get("aggregate_name") == "median":
            unit = {"ns": 1e-9, "us": 1e-6, "ms": 1e-3, "s": 1}[row["time_unit"]]
            times[row["run_name"]] = row["real_time"] * unit
    return times


def formula_with_numpy(count=10_000_000):
    """The formula of bench_formula as NumPy writes it, on float32, into fresh memory as everybody does."""
    import numpy as np

    rng = np.random.default_rng(1)
    a, b, c = (rng.uniform(0, 20, count).astype(np.float32) for _ in range(3))
    times = []
    for _ in range(7):
        begin = time.perf_counter()
        np.sqrt(a * a + b * b) * np.float32(0.5) + np.where(c > 10, a, b)
        times.append(time.perf_counter() - begin)
    return median(times)


def project_with_a_tree(file, segments=2000):
    """The projection of the same points with SciPy's cKDTree: nearest point of the line, then its two segments."""
    import numpy as np
    from scipy.spatial import cKDTree

    data = np.fromfile(file).reshape(-1, 2)
    line, points = data[:segments], data[segments:]
    times = []
    for _ in range(3):
        begin = time.perf_counter()
        nearest = cKDTree(line).query(points)[1]
        best = np.full(len(points), np.inf)
        for first in (nearest - 1, nearest):
            a, b = line[first % segments], line[(first + 1) % segments]
            along = b - a
            share = np.clip(((points - a) * along).sum(1) / (along * along).sum(1), 0, 1)
            away = ((points - a - along * share[:, None]) ** 2).sum(1)
            best = np.minimum(best, away)
        times.append(time.perf_counter() - begin)
    return median(times)


def read_with_polars(table):
    """Seconds in which Polars, the quickest general reader of tables that we know, reads it on all cores; None where the
    npm registry does not give it (Debian has no package)."""
    place = folder / "polars"
    place.mkdir(exist_ok=True)
    (place / "package.json").write_text("{}")
    script = """
const { performance } = require('perf_hooks'), polars = require('nodejs-polars'), times = [];
for (let i = 0; i < 9; ++i) {
    const begin = performance.now();
    polars.readCSV(process.argv[1]);
    times.push(performance.now() - begin);
}
console.log(times.sort((a, b) => a - b)[4] / 1000);
"""
    try:
        subprocess.run(["npm", "install", "--no-audit", "--no-fund", "nodejs-polars"], cwd=place, check=True,
                       capture_output=True, timeout=300)
        out = subprocess.run(["node", "-e", script, table.resolve()], cwd=place, check=True, capture_output=True, text=True)
        return float(out.stdout)
    except (OSError, subprocess.SubprocessError, ValueError):
        return None


def welch_with_scipy(count=1_000_000, segment=1024):
    import numpy as np
    from scipy import signal

    x = np.random.default_rng(1).normal(0, 1, count).astype(np.float32)
    times = []
    for _ in range(7):
        begin = time.perf_counter()
        signal.welch(x, 500, nperseg=segment)
        times.append(time.perf_counter() - begin)
    return median(times)


folder.mkdir(parents=True, exist_ok=True)
table, library = folder / "table.csv", folder / "demo"
make_table(table)
subprocess.run([programs / "rendak-cli", "demo", "--write", library], check=True, capture_output=True)
import pandas

pandas_s = []
for _ in range(3):
    begin = time.perf_counter()
    pandas.read_csv(table)
    pandas_s.append(time.perf_counter() - begin)
points_file = folder / "points.bin"
core = run("bench_core", RENDAK_BENCH_CSV=str(table), RENDAK_BENCH_FOLDER=str(folder), RENDAK_BENCH_POINTS=str(points_file))
polars_s = read_with_polars(table)
tree_s = project_with_a_tree(points_file)
collect = run("bench_collect", RENDAK_BENCH_FOLDER=str(folder))
frame = run("bench_frame", RENDAK_BENCH_LIBRARY=str(library))
formula = run("bench_formula", RENDAK_BENCH_DEMO=str(library))
why = run("bench_why")
chassis = run("bench_chassis")
welch_s = welch_with_scipy()
numpy_s = formula_with_numpy()


def line(what, ours, goal):
    print(f"{what:58} {ours:>22}   goal {goal}")


def find(times, start):
    return next(value for name, value in times.items() if name.startswith(start))


ms = lambda s: f"{1000 * s:.2f} ms"
one_thread, traces = find(frame, "frame_of_traces/1"), find(frame, "frame_of_traces/2")
fastest = frame["frame_qcustomplot/0"]
line("frame, 12 lanes x 4 laps x 10 000, soft edges, 1.6 px", ms(traces), "<= 5 ms")
line("  with one thread", ms(one_thread), "-")
line("  QCustomPlot's fastest (thin, no soft edges) is slower by", f"{fastest / traces:.1f} x", ">= 5 x")
line("  QCustomPlot at the same look is slower by", f"{find(frame, 'frame_qcustomplot/1') / traces:.0f} x", "-")
line("  the floor (a pass over all points)", ms(frame["frame_floor"]), "-")
line("frame of the real desk with labels", ms(find(frame, "frame_of_the_desk")), "<= 5 ms")
line("  8 laps x 16 lanes at 2560 x 1440", ms(find(frame, "frame_of_a_large_desk")), "<= 12 ms")
line("scatter of 1 million points", ms(find(frame, "scatter_of_a_million")), "<= 30 ms")
line("  QCustomPlot's dots are slower by", f"{find(frame, 'scatter_qcustomplot') / find(frame, 'scatter_of_a_million'):.0f} x", "-")
line("cursor move", ms(frame["cursor_move"]), "< 2 ms")
pandas_time = median(pandas_s)
size_mb = table.stat().st_size / 1e6
line(f"CSV import of {size_mb:.0f} MB, two threads", f"{size_mb / find(core, 'csv_import/2'):.0f} MB/s", "-")
line("  pandas (C engine) on the same bytes is slower by", f"{pandas_time / find(core, 'csv_import/2'):.1f} x", ">= 7 x")
line("  with one thread", f"{pandas_time / find(core, 'csv_import/1'):.1f} x", "-")
line("  Polars on all cores takes longer by",
     f"{polars_s / find(core, 'csv_import/2'):.1f} x" if polars_s else "no Polars here", ">= 2 x")
line("  with storing the recording, flushed to disk", f"{pandas_time / find(core, 'csv_import_and_store'):.1f} x", ">= 7 x")
line("opening a run of 2 M samples / of 10 k samples", f"{core['open_stored_run/2000000'] / core['open_stored_run/10000']:.2f} x", "about 1 x")
line("  (absolute, 20 channels)", f"{1e6 * core['open_stored_run/2000000']:.0f} us", "-")
line("overview of a run / plain min-max pass", f"{core['overview_of_run'] / core['plain_min_max_pass']:.2f} x", "<= 1.2 x")
line("aligning a lap pair and its gap", ms(core["align_and_gap_of_a_pair"]), "< 5 ms")
line("projecting 500 laps of 4 km (850 000 points)", ms(core["project_500_laps"]), "-")
line("  SciPy's cKDTree with refinement takes longer by", f"{tree_s / core['project_500_laps']:.1f} x", ">= 5 x")
line("aligning 500 laps of 4 km", ms(core["align_500_laps"]), "-")
line("an 18-lap run cut at a start line that is being placed", ms(core["start_line_preview_of_18_laps"]), "< 100 ms")
line("MDF import of one run (26 MB) / a plain read of the file", f"{find(collect, 'mdf_import/plain') / find(collect, 'plain_read'):.1f} x", "<= 5 x")
line("  packed (transposed deflate)", ms(find(collect, "mdf_import/packed")), "-")
line("  the CSV of the same data takes longer by", f"{find(collect, 'csv_of_the_same_data') / find(collect, 'mdf_import/plain'):.0f} x", "-")
link = find(collect, "the_bare_link")
line("download with its digest checked / the bare link", f"{find(collect, 'download/quick_digest') / link:.2f} x", "<= 3 x")
line("  until the disk has it (an import goes on meanwhile)", f"{find(collect, 'download/quick_digest_flushed') / link:.2f} x", "-")
line("  from a logger that names SHA-256 alone", f"{find(collect, 'download/sha256') / link:.2f} x", "-")
line("  (absolute, 33 MB over loopback)", ms(find(collect, "download/quick_digest")), "-")
line("library of 5 000 runs: open and read", ms(find(collect, "open_5000_runs")), "< 300 ms")
line("  fill, sort, filter the list", " / ".join(ms(find(collect, name)) for name in ("fill_the_list", "sort_the_list", "filter_the_list")), "< 100 ms")
line("  the real window: after an edit / while a filter is typed", " / ".join(ms(find(collect, name)) for name in ("refresh_the_logbook", "filter_in_the_logbook")), "< 300 ms / < 100 ms")
blocks = formula["formula_in_blocks"]
line("formula on 10 M samples, five operations and a condition", f"{10e6 / blocks / 1e6:.0f} M/s", "-")
line("  NumPy (float32) takes longer by", f"{numpy_s / blocks:.1f} x", ">= 5 x")
if "muparser_bulk" in formula:
    line("  muParser in bulk mode takes longer by", f"{formula['muparser_bulk'] / blocks:.1f} x", ">= 12 x")
line("  of the speed of a hand-written loop", f"{formula['by_hand'] / blocks:.2f}", ">= 0.6")
line("  with checking and fresh memory for the result", ms(formula["formula_as_a_channel"]), "-")
line("the whole starter set on an 18-lap main-logger run", ms(formula["starter_set_of_an_18_lap_run"]), "-")
previews = [value for name, value in formula.items() if name.startswith("preview_of_a_lap")]
line("keystroke: check and compute a lap, median / slowest", f"{ms(median(previews))} / {ms(max(previews))}", "< 33 ms")
line("  in the window: keystroke to the new curve on the screen", ms(find(frame, "keystroke_to_preview")), "<= 33 ms")
plain = why["plain_pass"]
line("ledger and corner figures of 2 x 18 laps", ms(find(why, "ledger_of_2_x_18_laps") + find(why, "corner_figures_of_2_x_18_laps")), "<= 150 ms")
line("  as a multiple of a plain pass over four channels", f"{(find(why, 'ledger_of_2_x_18_laps') + find(why, 'corner_figures_of_2_x_18_laps')) / (2 * plain):.0f} x", "-")
line("  with all sentences, both ways", ms(find(why, "story_of_2_x_18_laps")), "-")
line("limit of 18 laps", ms(find(why, "limit_of_18_laps")), "-")
line("shown pace of a lap of 5 km", ms(why["shown_pace_of_a_lap"]), "<= 20 ms")
line("quickest line of a lap of 5 km", ms(why["quickest_line_of_a_lap"]), "<= 2 s")
line("line against the road of 18 laps / guide of a lap", f"{ms(why['road_use_of_18_laps'])} / {ms(why['guide_of_a_lap'])}", "-")
line("overview of 2 x 18 laps", ms(find(why, "overview_of_2_x_18_laps")), "-")
line("Welch, 1 M samples, segments of 1024: SciPy takes longer by", f"{welch_s / chassis['welch_1_m_samples']:.1f} x", ">= 5 x")
line("  share of the bare transforms' speed", f"{chassis['bare_transforms'] / chassis['welch_1_m_samples']:.2f}", ">= 0.5")
line("  spectra of a stretch, 18 laps x 4 wheels at 500 Hz", ms(chassis['stretch_of_18_laps']), "<= 50 ms")
