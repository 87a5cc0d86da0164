#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Plants a fault in nearly every line of core, exchange and the desk at once, all asleep in one build, and wakes one at a time.

    ./dev sweep --seed 1              plants, builds, finds out which test comes to which fault, tries 300 of them
    ./dev sweep --count 1000          so many
    ./dev sweep --in core/design      in one room or file alone: that is built sooner
    ./dev sweep --again --from 300    the next ones, in the build that stands; tests that changed are built and asked anew
    ./dev sweep --again --ids 7,1204  these again
    ./dev sweep --part 1/2 --again    every second of them, for two runs side by side

Kinds and places are those of ./dev mutate --random. A fault that needs no compiler and no linker costs the tests that come to it:
some fifty a minute on two cores, where a fault planted by itself takes half a minute. A fault that no test sees is printed as
MISSED: read it, and write the test, or the reason why it changes no answer.
"""
import concurrent.futures, json, os, pathlib, random, re, resource, shutil, subprocess, sys, time

import mutate

ROOT = pathlib.Path(__file__).resolve().parent.parent
COPY = ROOT / "build" / "sweep"
PLANTED, COME_TO = COPY / "planted.json", COPY / "come_to.json"
ENV = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_RUNTIME_DIR": "/tmp"}
LONGEST = 45.0  # seconds of tests for one fault


def option(word, default):
    return sys.argv[sys.argv.index(word) + 1] if word in sys.argv else default


def closing(text, at):
    """Where the bracket that opens at a place closes, or -1."""
    depth, quote, k = 0, None, at
    while k < len(text):
        c = text[k]
        if quote:
            if c == "\\":
                k += 1
            elif c == quote:
                quote = None
        elif c == '"' or (c == "'" and not (k and text[k - 1].isalnum())):
            quote = c
        elif c in "([{":
            depth += 1
        elif c in ")]}":
            depth -= 1
            if depth == 0:
                return k
        k += 1
    return -1


def asleep(line, way, n):
    """The line with a fault asleep in it, or nothing where it is not known how."""
    at, old, new = way
    swapped = lambda text, begin: text[: at - begin] + new + text[at - begin + len(old):]
    code = line.split("//")[0].rstrip()
    # What stands for itself anywhere: an operator between two values, a number, the name of a function.
    word = old.strip()
    local = None
    if word in ("+", "-", "*", "/", "==", "!=", "<", ">", "<=", ">="):
        local = f" {word} asleep::Swap<{n}>() {word} "
    elif word in ("std::max", "std::min"):
        local = f"asleep::{word[5:]}<{n}>" if line[at + len(old):].startswith("(") else None
        if not local:
            return None
    elif re.fullmatch(r"\d+|\d+\.\d+|true|false", old):
        local = f"(asleep::on({n}) ? {new} : {old})"
    if local:
        return line[:at] + local + line[at + len(old):]
    # A condition on one line, or what it guards.
    if m := re.match(r"\s*(?:\} else )?(?:if|while) \(", code):
        open_ = m.end() - 1
        end = closing(code, open_)
        if open_ < at < end:
            start, inner = open_ + 1, code[open_ + 1: end]
            if ";" in inner:
                start += inner.rindex(";") + 1
                inner = code[start:end]
            elif re.match(r"(const |auto|[\w:<>*&]+ \*?\w+ = )", inner):
                return None
            return code[:start] + f" asleep::on({n}) ? ({swapped(inner, start)}) : ({inner})" + code[end:] if at >= start else None
        body = code[end + 1:]
        if end < 0 or at < end or body.strip().startswith("{"):
            return None
        guarded = asleep(body, (at - end - 1, old, new), n)
        return code[: end + 1] + " " + guarded if guarded else None
    # A value that is returned or named.
    if m := re.match(r"(\s*)(return |(?:const )?[\w:<>*&]+(?: const)?[ *&]+(?:\w+|\[[\w, ]+\]) = )(.*);$", code):
        if at >= m.start(3) and not (m[2].startswith("return") and m[3].startswith("{")):
            depth = 0
            for c in m[3]:
                depth += (c in "([{") - (c in ")]}")
                if c == "," and depth == 0:
                    return None
            return f"{m[1]}{m[2]}asleep::on({n}) ? ({swapped(m[3], m.start(3))}) : ({m[3]});"
    # Any other statement.
    if code.endswith(";") and not re.match(r"\s*(const |auto |static |for \(|return \{|else|\}|case )", code) and all(
            code.count(a) == code.count(b) for a, b in ("{}", "()")):
        indent = len(code) - len(code.lstrip())
        return code[:indent] + f"{{ if (asleep::on({n})) {{ {swapped(code, 0).strip()} }} else {{ {code.strip()} }} }}"
    if m := re.match(r"\s*for \(", code):
        open_ = m.end() - 1
        end = closing(code, open_)
        parts = code[open_ + 1: end].split(";")
        if end > at and len(parts) == 3:
            two = open_ + 1 + len(parts[0]) + 1
            three = two + len(parts[1]) + 1
            if at >= three:
                return code[:three] + f" asleep::on({n}) ? (void)({swapped(parts[2], three)}) : (void)({parts[2]})" + code[end:]
            if at >= two:
                return code[:two] + f" asleep::on({n}) ? ({swapped(parts[1], two)}) : ({parts[1]})" + code[three - 1:]
        elif 0 < end < at:
            guarded = asleep(code[end + 1:], (at - end - 1, old, new), n)
            return code[: end + 1] + " " + guarded if guarded else None
    return None


def build():
    return subprocess.run(["cmake", "--build", "build/release", "--", "-k", "0"], cwd=COPY, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


def copy(names):
    for name in names:
        if (ROOT / name).is_dir():
            for old in [f for f in (COPY / name).rglob("*") if f.is_file() and not (ROOT / name / f.relative_to(COPY / name)).exists()]:
                old.unlink()
            shutil.copytree(ROOT / name, COPY / name, dirs_exist_ok=True, copy_function=mutate.newer)
        else:
            mutate.newer(ROOT / name, COPY / name)


def plant(seed):
    COPY.mkdir(parents=True, exist_ok=True)
    copy(["src", "tests", "bench", "examples", "docs", "packaging", "CMakeLists.txt", "CMakePresets.json", "README.md", "CHANGELOG.md", "LICENSE"])
    subprocess.run(["cmake", "--preset", "release", "-DCULVERT_SHARED=ON"], cwd=COPY, check=True, stdout=subprocess.DEVNULL)
    dice, planted = random.Random(seed), {}
    files = [f for room in ("core", "exchange", "app/desk") for f in sorted((COPY / "src" / room).rglob("*.cpp"))]
    files = [f for f in files if str(f.relative_to(COPY / "src")).startswith(option("--in", ""))]
    for file in files:
        lines = file.read_text().split("\n")
        sound = list(lines)
        lines[0] = f'#include "{COPY}/tests/sweep.h"'  # in place of the licence: numbers of lines stay
        for i, line in enumerate(sound):
            ways = mutate.ways_of(line) if i and "constexpr" not in line and "static_assert" not in line and 'R"(' not in line else []
            way = dice.choice(ways) if ways else None
            if way and (done := asleep(line, way, len(planted) + 1)):
                at, old, new = way
                planted[len(planted) + 1] = [str(file.relative_to(COPY / "src")), i, line, line[:at] + new + line[at + len(old):]]
                lines[i] = done
        file.write_text("\n".join(lines))
    print(f"{len(planted)} faults planted, seed {seed}", flush=True)
    number_of = {(f, i): n for n, (f, i, _, _) in planted.items()}
    while (built := build()).returncode:  # where a fault does not compile its line is made sound
        bad = set(re.findall(r"src/((?:core|exchange|app)/\S+?\.cpp):(\d+):\d+:(?: (?:fatal )?error|   required from)", built.stdout))
        sound_again = 0
        for file, line in bad:
            text = (COPY / "src" / file).read_text().split("\n")
            for i in (int(line) - 1, int(line) - 2, int(line)):
                if (n := number_of.pop((file, i), None)) is not None:
                    text[i] = planted.pop(n)[2]
                    sound_again += 1
                    break
            (COPY / "src" / file).write_text("\n".join(text))
        print(f"{sound_again} do not compile", flush=True)
        if not sound_again:
            sys.exit(built.stdout[-3000:])
    PLANTED.write_text(json.dumps(planted))


def ask(program, functions, number=0, folder=None):
    """Runs functions of a test program; the first that fails, or nothing."""
    env = {**ENV, "CULVERT_FAULT": str(number), **({"CULVERT_COME_TO": str(folder)} if folder else {})}
    limit = int(5 + 4 * sum(seconds for _, seconds in functions)) if number else 900
    try:
        ran = subprocess.run([COPY / f"build/release/bin/test-{program}", *[name for name, _ in functions]], cwd=COPY, env=env, text=True, errors="replace",
                             stdout=subprocess.PIPE, stderr=subprocess.STDOUT, timeout=10 * limit + 30,
                             preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_CPU, (limit, limit + 5)))
    except subprocess.TimeoutExpired:
        return "it waits for ever"
    fails = re.findall(r"FAIL!\s+: \w+::(\w+)", ran.stdout)
    return "" if ran.returncode == 0 else fails[0] if fails else "it ends abnormally"


def look(job):
    program, function = job
    folder = COPY / "come_to" / f"{program}.{function}"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    begun = time.monotonic()
    fails = ask(program, [(function, 0)], folder=folder)
    seconds = time.monotonic() - begun
    numbers = sorted({int(n) for f in folder.iterdir() for n in f.read_text().split()})
    shutil.rmtree(folder)
    if fails:
        print(f"left out: {program}, {function}, which fails without a fault", flush=True)
        return None
    return program, function, seconds, numbers


def come_to():
    jobs = []
    for path in sorted((COPY / "build/release/bin").glob("test-*")):
        if path.name == "test-house":  # it reads the source
            continue
        said = subprocess.run([path, "-functions"], cwd=COPY, env=ENV, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True).stdout
        jobs += [(path.name[5:], line[:-2]) for line in said.split("\n") if line.endswith("()")]
    with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        found = [row for row in pool.map(look, jobs) if row]
    COME_TO.write_text(json.dumps(found))
    print(f"{len(found)} tests, {sum(row[2] for row in found):.0f} s of them", flush=True)


def try_faults(count, begin, part, parts, seed):
    planted = {int(n): row for n, row in json.loads(PLANTED.read_text()).items()}
    tests = {}
    for program, function, seconds, numbers in json.loads(COME_TO.read_text()):
        for n in numbers:
            tests.setdefault(n, []).append((seconds, program, function))
    within = option("--in", "")
    # A sum of texts has no difference: its fault would not compile, and is none.
    texts = lambda n: n not in tests and '"' in planted[n][2] and " - " in planted[n][3] and " - " not in planted[n][2]
    order = [n for n in sorted(planted) if planted[n][0].startswith(within) and not texts(n)]
    random.Random(seed).shuffle(order)
    wanted = [int(n) for n in option("--ids", "").split(",")] if "--ids" in sys.argv else order[begin: begin + count]
    tried = caught = 0
    for n in wanted[part - 1:: parts]:
        file, i, sound, fault = planted[n]
        near = mutate.room_of(file).removeprefix("core_")
        asked = sorted(tests.get(n, []), key=lambda t: t[0] * (0.2 if t[1].startswith(near) else 3 if t[1].startswith("app") else 1))
        why, spent, left = "", 0.0, ""
        while asked and not why:
            if spent > LONGEST:
                left = f"{len(asked)} tests were not asked any more"
                break
            program, group = asked[0][1], []
            while asked and asked[0][1] == program and len(group) < 6:  # beside each other: one start of the program
                group.append((asked[0][2], asked.pop(0)[0]))
            begun = time.monotonic()
            if fails := ask(program, group, n):
                why = f"{program}: {fails}"
            spent += time.monotonic() - begun
        tried += 1
        caught += bool(why)
        said = why or left or ("" if n in tests else "reached by no test")
        print(f"{'caught' if why else 'MISSED'} {n} {file}:{i + 1}  {sound.strip()}  ->  {fault.strip()}   {said}", flush=True)
    print(f"{caught} of {tried} faults caught: {caught * 100 // max(1, tried)} %")


def main():
    seed = int(option("--seed", 1))
    part, parts = map(int, option("--part", "1/1").split("/"))
    if "--again" not in sys.argv:
        plant(seed)
        come_to()
    elif part == 1 and "--as-they-are" not in sys.argv:  # the source with its faults stays, tests may have changed
        copy(["tests", "docs", "examples"])
        if build().returncode:
            sys.exit("sweep: the tests do not build")
        come_to()
    try_faults(int(option("--count", 300)), int(option("--from", 0)), part, parts, seed)


if __name__ == "__main__":
    main()
