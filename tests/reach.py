#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Which lines of the source the tests reach, and which program reaches which.

    ./dev reach               builds build/coverage, runs every test program, counts
    ./dev reach --lines       each line of core, exchange and the desk that no test reaches
    ./dev reach --lines core/review   of one folder or file only

A line that no test reaches can hold any fault. Planted faults (tests/mutate.py --reach) ask only the programs that reach their line.
"""
import concurrent.futures, difflib, json, os, pathlib, shutil, subprocess, sys, time

ROOT = pathlib.Path(__file__).resolve().parent.parent
TREE = ROOT / "build" / "coverage"
COUNTS = TREE / "counts"      # a folder for each test program
SOURCES = TREE / "as_counted"  # the source as it was then: lines move


def build():
    if not (TREE / "build.ninja").exists():
        subprocess.run(["cmake", "-S", ROOT, "-B", TREE, "-G", "Ninja", "-DCMAKE_BUILD_TYPE=Release", "-DCULVERT_REACH=ON"],
                       check=True, stdout=subprocess.DEVNULL)
    subprocess.run(["cmake", "--build", TREE], check=True)
    shutil.rmtree(SOURCES, ignore_errors=True)
    shutil.copytree(ROOT / "src", SOURCES)


def count(program):
    folder = COUNTS / program.name[5:]
    folder.mkdir(parents=True)
    env = {**os.environ, "GCOV_PREFIX": str(folder), "QT_QPA_PLATFORM": "offscreen", "XDG_RUNTIME_DIR": "/tmp"}
    begun = time.monotonic()
    try:
        ran = subprocess.run([program], cwd=ROOT, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=900)
        (folder / "seconds").write_text(f"{time.monotonic() - begun:.1f}")
        return f"{program.name}: ends with {ran.returncode}"
    except subprocess.TimeoutExpired:
        return f"{program.name}: stopped after 900 s"


def run_all():
    shutil.rmtree(COUNTS, ignore_errors=True)
    programs = sorted((TREE / "bin").glob("test-*"))
    with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        for said in pool.map(count, programs):
            print(said, flush=True)


def object_of(file):
    """The notes of a source file, as the compiler left them."""
    found = list(TREE.glob(f"CMakeFiles/*.dir/src/{file}.gcno"))
    return found[0] if found else None


def lines_of(file, folder):
    """Line by line how often a program came there; None where it holds no code."""
    notes = object_of(file)
    if not notes:
        return {}
    counts = folder / notes.relative_to("/").with_suffix(".gcda")
    if not counts.exists():
        return {}
    beside = counts.with_suffix(".gcno")
    if not beside.exists():
        beside.symlink_to(notes)
    said = subprocess.run(["gcov", "--json-format", "--stdout", counts], cwd=TREE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL).stdout
    out = {}
    for part in json.loads(said)["files"] if said.strip() else []:
        if part["file"].endswith("src/" + str(file)):
            for line in part["lines"]:
                out[line["line_number"]] = out.get(line["line_number"], 0) + line["count"]
    return out


KNOWN = {}


def reach(file):
    """For each program the lines of a source file it comes to."""
    file = str(file)
    if not COUNTS.exists():
        sys.exit("reach: nothing is counted yet; run ./dev reach first")
    if file not in KNOWN:
        with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
            folders = sorted(f for f in COUNTS.iterdir() if f.is_dir())
            KNOWN[file] = dict(zip([f.name for f in folders], pool.map(lambda f: lines_of(file, f), folders)))
    return KNOWN[file]


def seconds(program):
    told = COUNTS / program / "seconds"
    if told.exists():
        return float(told.read_text())
    return 900.0 if (COUNTS / program).exists() else 10.0  # a new one is not counted yet


def as_counted(file, line, now):
    """The number a line (from 1) of today's text had when it was counted, or nothing."""
    then = (SOURCES / file).read_text().splitlines() if (SOURCES / file).exists() else []
    now = now.splitlines()
    if then == now:
        return line
    for a, b, n in difflib.SequenceMatcher(None, then, now, autojunk=False).get_matching_blocks():
        if b <= line - 1 < b + n:
            return line - b + a
    return None


def programs(file, line, now):
    """The programs that come to a line of today's text; nothing where that is not known (a new line, a line without counts of its own)."""
    at = as_counted(file, line, now)
    if at is None:
        return None
    per = reach(file)
    # A statement over several lines is counted at its first: the nearest counted line above stands for it.
    counted = sorted({l for lines in per.values() for l in lines if l <= at})
    if not counted:
        return None
    found = [p for p, lines in per.items() if lines.get(counted[-1], 0) > 0]
    return found if found or counted[-1] == at else None


def show(part):
    total = dark = 0
    for file in sorted(f.relative_to(SOURCES) for f in SOURCES.rglob("*.cpp")):
        if not str(file).startswith(part or ("core", "exchange", "app/desk")):
            continue
        sums = {}
        for lines in reach(file).values():
            for line, n in lines.items():
                sums[line] = sums.get(line, 0) + n
        text = (SOURCES / file).read_text().splitlines()
        total += len(sums)
        for line in sorted(l for l, n in sums.items() if n == 0):
            dark += 1
            print(f"{file}:{line}: {text[line - 1].strip()}", flush=True)
    print(f"{dark} of {total} lines are reached by no test")


if __name__ == "__main__":
    if "--lines" in sys.argv:
        show(next((a for a in sys.argv[1:] if not a.startswith("-")), ""))
    else:
        build()
        run_all()
