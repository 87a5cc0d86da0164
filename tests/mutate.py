#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Plants faults in a copy of the source, one at a time; the suite must catch each.

    ./dev mutate            all faults
    ./dev mutate NAME ...   some of them
    ./dev mutate --list     check that every fault still finds its place, without building

Writes docs/methods/mutation.md when all were run. A fault that no test catches ends with exit status 1.
"""
import pathlib, re, shutil, subprocess, sys

ROOT = pathlib.Path(__file__).resolve().parent.parent
COPY = ROOT / "build" / "mutate"
# name, file, text that stands there once (white space folded), its replacement, tests that are asked
FAULTS = [
    ("exponent of the hydraulic radius", "core/hydraulics/uniform_flow.cpp", "return a * std::cbrt(r * r) / n; } double conveyance", "return a * std::cbrt(r) / n; } double conveyance", "hydraulics"),
    ("critical depth without g", "core/hydraulics/uniform_flow.cpp", "std::cbrt(q * q / gravity)", "std::cbrt(q * q)", "hydraulics"),
    ("sign of the Froude term", "core/hydraulics/barrel.cpp", "sign_ * (1 - froude2)", "sign_ * (1 + froude2)", "hydraulics"),
    ("pressure part dropped", "core/hydraulics/barrel.cpp", "if (excess >= 0) return {y + excess * length, length, length};", "if (excess >= 0) return {y, length, length};", "hydraulics"),
    ("momentum without the pressure above the crown", "core/hydraulics/uniform_flow.cpp", "return flow * flow / (gravity * a) + moment + a * std::max(depth - d, 0.0);", "return flow * flow / (gravity * a) + moment;", "hydraulics"),
    ("linear instead of log-log rain", "core/hydrology/idf.cpp", "log_duration_.push_back(std::log(durations[i]));", "log_duration_.push_back(durations[i]);", "hydraulics"),
    ("coefficient not capped", "core/analysis/rational.cpp", "std::min(1.0, cover.coefficient * rain.frequency_factor)", "(cover.coefficient * rain.frequency_factor)", "analysis"),
    ("travel time left out", "core/analysis/rational.cpp", "std::max(d.time, f.time + f.travel)", "std::max(d.time, f.time)", "analysis"),
    ("held flow dropped", "core/analysis/rational.cpp", "std::max(f.plain_flow, largest_inflow)", "std::max(f.plain_flow, 0 * largest_inflow)", "analysis"),
    ("structure loss not added", "core/analysis/grade_line.cpp", "velocity_head(r.velocity_up) + n.loss * velocity_head(r.velocity_up);", "velocity_head(r.velocity_up);", "analysis"),
    ("stale grade line kept after a size change", "core/analysis/grade_line.cpp", "return a.section == b.section && a.roughness", "return a.roughness", "analysis"),
    ("stale rain kept", "core/analysis/solver.cpp", "x.known_flow == y.known_flow && x.local_time", "x.local_time", "analysis"),
    ("highest instead of lowest way out", "core/network/compile.cpp", "return std::tie(level, id) > std::tie(o.level, o.id);", "return std::tie(level, id) < std::tie(o.level, o.id);", "analysis"),
    ("limit judged from the wrong side", "core/review/review.cpp", "beyond_limit(value, limit.value, at_most) ? Verdict::Beyond", "beyond_limit(value, limit.value, !at_most) ? Verdict::Beyond", "review"),
    ("size proposal ignores the pipe above", "core/design/design.cpp", "if (s->size < least[i] - 1e-9) {", "if (false) {", "review"),
    ("undo skips the origin", "core/model/edit.cpp", "forward ? p.origin_after : p.origin_before", "p.origin_after", "model"),
    ("deleting a structure leaves its pipes", "core/model/edit.cpp", "drop_where(std::type_identity<Pipe>{}, ends_here);", "", "model"),
    ("copy on write without the copy", "core/model/table.h", "if (c.use_count() != 1) c = std::make_shared<Chunk>(*c);", "if (false) c = std::make_shared<Chunk>(*c);", "model"),
    ("cover to the inside of the barrel", "core/model/lay.cpp", "const double below = s.default_cover + pipe.wall + pipe.size", "const double below = s.default_cover + pipe.size", "model-lay"),
    ("pinned ends follow too", "core/model/lay.cpp", "end_free = p.origin[to_field] == Origin::Default;", "end_free = p.origin[to_field] != Origin::Ground;", "model-lay"),
    ("conflicts of variants not seen", "core/model/variant.cpp", "if (conflicts && !same_value(now, patch->before) && !same_value(now, patch->after))", "if (conflicts && same_value(now, patch->before) && !same_value(now, patch->after))", "model-variants"),
    ("a formula's minus taken from the wrong side", "core/model/formula.cpp", "case '-': return a->value(project, kind, id) - b->value(project, kind, id);", "case '-': return b->value(project, kind, id) - a->value(project, kind, id);", "model-formula"),
    ("street noise taken for low points", "core/streets/street.cpp", "return to - from >= least_depth && to > from;", "return to > from;", "streets"),
    ("street paths left in a ring", "core/design/street_paths.cpp", "if (!worst) break;", "break;", "design-site"),
    ("alternatives priced without working space", "core/design/branches.cpp", "2 * p.wall + 2 * working_space;", "2 * p.wall;", "design-layout"),
    ("split pipe bends at the wrong part", "core/design/layout.cpp", "const double share = station / drawn;", "const double share = 1 - station / drawn;", "design-layout"),
    ("existing ground before the finished", "core/terrain/terrain.cpp", "if (finished) if (const double z = finished->elevation(p, cursors.finished); !std::isnan(z)) return z;", "", "terrain"),
    ("journal not flushed", "exchange/journal.cpp", "if (!disk_->append(path_, bytes) || !disk_->flush(path_)) return false;", "if (!disk_->append(path_, bytes)) return false;", "exchange-journal"),
    ("rows pasted twice are taken", "exchange/paste_table.cpp", "if (row.fate != PasteRow::Fate::Matched) continue;", "if (!row.id) continue;", "exchange-paste"),
    ("unit of a pasted head ignored", "exchange/paste_table.cpp", "column.factor = u->factor;", "", "exchange-paste"),
    ("LandXML read easting first", "exchange/landxml.cpp", "p.y = n[at] * unit; p.x = n[at + 1] * unit;", "p.x = n[at] * unit; p.y = n[at + 1] * unit;", "exchange-import"),
    ("foot of 0.30480061 m", "core/base/units.cpp", "foot = 0.3048,", "foot = 0.30480061,", "base"),
    ("save without rename", "exchange/disk.cpp", "disk->write(temporary, write_project(project), error)", "disk->write(target, write_project(project), error)", "exchange"),
]


def pattern(text):
    """Matches the text with any white space between its tokens."""
    return re.compile(r"\s+".join(re.escape(part) for part in text.split()))


def place(body, fault):
    found = pattern(fault[2]).findall(body)
    if len(found) != 1:
        sys.exit(f"mutate: '{fault[0]}' finds its place {len(found)} times in {fault[1]}: update tests/mutate.py")


def run(*command):
    return subprocess.run(command, cwd=COPY, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


def main():
    wanted = [a for a in sys.argv[1:] if not a.startswith("-")]
    faults = [f for f in FAULTS if not wanted or f[0] in wanted]
    for f in FAULTS:
        place((ROOT / "src" / f[1]).read_text(), f)
    if "--list" in sys.argv:
        print("\n".join(f[0] for f in FAULTS))
        return
    COPY.mkdir(parents=True, exist_ok=True)
    for name in ("src", "tests", "bench", "examples"):
        shutil.rmtree(COPY / name, ignore_errors=True)
        shutil.copytree(ROOT / name, COPY / name)
    for name in ("CMakeLists.txt", "CMakePresets.json"):
        shutil.copy(ROOT / name, COPY / name)
    tests = sorted({f[4] for f in faults})
    run("cmake", "--preset", "release")
    built = run("cmake", "--build", "build/release", *[f"--target=test-{t}" for t in tests])
    if built.returncode:
        sys.exit(built.stdout[-3000:])
    missed, rows = [], []
    for fault in faults:
        name, file, old, new, test = fault
        path = COPY / "src" / file
        body = path.read_text()
        path.write_text(pattern(old).sub(lambda _: new, body))
        built = run("cmake", "--build", "build/release", f"--target=test-{test}")
        try:
            tried = subprocess.run([COPY / f"build/release/bin/test-{test}"], cwd=COPY, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, timeout=120)
            fails = re.findall(r"FAIL!\s+: \w+::(\w+)", tried.stdout) or (["it ends abnormally"] if tried.returncode else [])
        except subprocess.TimeoutExpired:
            fails = ["it never ends"]
        if built.returncode:
            sys.exit(f"mutate: '{name}' does not compile:\n{built.stdout[-2000:]}")
        path.write_text(body)
        rows.append((name, file, test, fails[0] if fails else "**nothing**"))
        print(f"{'caught' if fails else 'MISSED':8} {name}: {fails[0] if fails else ''}", flush=True)
        if not fails:
            missed.append(name)
    if not wanted:
        text = "# Planted faults\n\n`./dev mutate` plants each of these in a copy of the source and runs the tests; the suite must catch every one.\n\n| fault | file | tests | caught first by |\n|---|---|---|---|\n"
        text += "".join(f"| {n} | `{f}` | {t} | {c} |\n" for n, f, t, c in rows)
        (ROOT / "docs/methods/mutation.md").write_text(text)
    print(f"{len(faults) - len(missed)} of {len(faults)} faults caught")
    sys.exit(1 if missed else 0)


main()
