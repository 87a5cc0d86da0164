// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/design/branches.h"
#include "core/model/lay.h"

using namespace culvert;

namespace {

/// A main M1..M4 to an outfall, a branch from B1 (with or without a pipe Z1 above it) to M1, M2 or M3.
struct Site {
    Project p = new_project(UnitSystem::Si);
    std::uint64_t joint = 0;
    bool above = false;
};
Site site_of(unsigned seed) {
    std::mt19937 random(seed);
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    Site s;
    Project& p = s.p;
    double rim = 30, invert = 27.5;
    const auto structure = [&](std::uint64_t id, const std::string& name, double x, double y, double z) {
        Structure row;
        row.id = id;
        row.name = name;
        row.x = x;
        row.y = y;
        row.rim = z;
        if (id == 5) row.kind = StructureKind::Outfall;
        p.structures.insert(row);
    };
    const auto pipe = [&](std::uint64_t id, std::uint64_t from, std::uint64_t to, double up, double down, bool turned) {
        Pipe row;
        row.id = id;
        row.from = {turned ? to : from};
        row.to = {turned ? from : to};
        row.size = 0.3;
        row.wall = 0.05;
        row.invert_from = turned ? down : up;
        row.invert_to = turned ? up : down;
        p.pipes.insert(row);
    };
    for (std::uint64_t i = 1; i <= 5; ++i) {
        structure(i, "M" + std::to_string(i), 60.0 * static_cast<double>(i), 0, to_mm(rim));
        rim -= uniform(0.2, 1.6);
    }
    for (std::uint64_t i = 1; i <= 4; ++i) {
        const double fall = 60 * uniform(0.004, 0.03);
        pipe(10 + i, i, i + 1, to_mm(invert), to_mm(invert - fall), uniform(0, 1) < 0.3);
        invert = to_mm(invert - fall) - 0.03;
    }
    s.joint = std::uniform_int_distribution<std::uint64_t>(1, 3)(random);
    const Structure& m = *p.structures.find(s.joint);
    const Pipe& on = *p.pipes.find(10 + s.joint);
    const double main_up = std::max(on.invert_from, on.invert_to);
    const double low = to_mm(main_up + uniform(-0.6, 0.9));
    const double high = to_mm(low + uniform(0.1, 1.0));
    structure(6, "B1", m.x + uniform(-10, 10), 40, to_mm(high + uniform(0.9, 2.1)));
    pipe(16, 6, s.joint, high, low, uniform(0, 1) < 0.3);
    s.above = uniform(0, 1) < 0.5;
    if (s.above) {
        structure(7, "Z1", m.x, 80, to_mm(high + 3));
        pipe(17, 7, 6, to_mm(high + 0.9), to_mm(high + uniform(0.0, 0.7)), false);
    }
    p.settings_rows.change(settings_id)->default_drop = 0.03;
    return s;
}
/// A pipe with its ends along the water.
struct Laid {
    const Pipe* row;
    bool turned;
    double up, down;
};
Laid laid(const Project& p, std::uint64_t id, std::uint64_t from) {
    const Pipe& row = *p.pipes.find(id);
    const bool turned = row.from.value != from;
    return {&row, turned, turned ? row.invert_to : row.invert_from, turned ? row.invert_from : row.invert_to};
}
double cover(const Structure& s, double invert) { return s.rim - invert - 0.3 - 0.05; }

}  // namespace

/// The ways out of a level that is wrong where a branch meets its main, against the same found by hand, over random
/// mains: which there are, where each lays the pipes, whether it keeps the cover, and in which order they stand.
class TestBranches : public QObject {
    Q_OBJECT
  private slots:
    void each_way_out_lays_what_its_words_say() {
        constexpr double drop = 0.03;
        int raised = 0, refused = 0, led = 0, lowered = 0, dropped = 0, steepened = 0, uncovered = 0;
        for (unsigned seed = 1; seed <= 400; ++seed) {
            Site s = site_of(seed);
            const bool limited = seed % 4 != 0;  // else the project's usual slope counts, and lowered pipes keep theirs
            for (const Limit& l : s.p.limits)
                if (!limited && l.kind == LimitKind::LeastSlope) s.p.limits.change(l.id)->active = false;
            s.p.settings_rows.change(settings_id)->default_slope = 0.005;
            const Project& p = s.p;
            const double asked = 0.9, flattest = limited ? 0.003 : 0.005;  // limits of a new project
            const BranchLevels levels = branch_levels(p, {16});
            const Laid branch = laid(p, 16, 6), on = laid(p, 10 + s.joint, s.joint);
            const Structure &head = *p.structures.find(6), &joint = *p.structures.find(s.joint);
            const double wanted = on.up + drop, l = length_of(p, *branch.row);
            QCOMPARE(levels.low, wanted - branch.down > 0.0005);
            QCOMPARE(levels.high, branch.down - wanted > 0.3);
            QVERIFY(std::abs(levels.gap - (wanted - branch.down)) < 1e-9);
            QVERIFY(levels.structure.value == s.joint && levels.main.value == 10 + s.joint &&
                    levels.branch.value == 16);
            const BranchAlternative *raise = nullptr, *lead = nullptr, *lower = nullptr, *fall = nullptr,
                                    *steepen = nullptr;
            for (const BranchAlternative& a : levels.alternatives) {
                (a.text.starts_with("raise")    ? raise
                 : a.text.starts_with("lead")   ? lead
                 : a.text.starts_with("lower")  ? lower
                 : a.text.starts_with("a drop") ? fall
                                                : steepen) = &a;
                QCOMPARE(a.edit.name, a.text);
                if (&a != lower) QVERIFY(a.text.find(" " + element_name(p, Kind::Pipe, 16) + " ") != std::string::npos);
            }
            const auto after = [&](const BranchAlternative* a) {
                Project q = p;
                apply(q, a->edit);
                return q;
            };
            const auto close = [](double a, double b) { return std::abs(a - b) < 0.00051; };
            // Raised: to what it should arrive at, and at its head as far as its least slope asks.
            const double top = std::max(branch.up, wanted + flattest * l);
            double enters = 1e300;
            if (s.above) enters = p.pipes.find(17)->invert_to;
            QCOMPARE(raise != nullptr, levels.low && top <= enters - drop + 1e-9);
            refused += levels.low && !raise;
            if (raise) {
                ++raised;
                const Project q = after(raise);
                const Laid now = laid(q, 16, 6);
                QVERIFY(close(now.up, top) && close(now.down, wanted));
                const double c = std::min(cover(head, top), cover(joint, wanted));
                QCOMPARE(raise->keeps_cover, c >= asked - 1e-9);
                const QString words = QString::fromStdString(raise->text);
                QCOMPARE(words.contains("cover"), !raise->keeps_cover);
                if (!raise->keeps_cover) {
                    ++uncovered;
                    const double said = words.section("cover ", 1).section(' ', 0, 0).toDouble();
                    QVERIFY2(std::abs(said - c) < 0.0051 && words.contains("where 0.90 m is asked"), qPrintable(words));
                }
            }
            // Led to the first structure below that lies low enough, straight.
            std::uint64_t target = 0;
            double arrives = 0;
            for (std::uint64_t i = s.joint + 1; levels.low && i <= 4 && !target; ++i) {
                const Structure& m = *p.structures.find(i);
                const double least = laid(p, 10 + i, i).up + drop;
                const double way = std::hypot(m.x - head.x, m.y - head.y);
                arrives = std::min(branch.up - flattest * way, m.rim - asked - 0.35);
                if (arrives >= least) target = i;
            }
            QCOMPARE(lead != nullptr, target != 0);
            if (lead) {
                ++led;
                const Project q = after(lead);
                const Laid now = laid(q, 16, 6);
                QCOMPARE((now.turned ? now.row->from : now.row->to).value, target);
                QVERIFY(close(now.down, arrives));
                QCOMPARE(now.up, branch.up);
                QVERIFY(lead->keeps_cover);
            }
            // The main lowered pipe by pipe, until one lies low enough.
            QCOMPARE(lower != nullptr, levels.low);
            if (lower) {
                ++lowered;
                const Project q = after(lower);
                double invert = branch.down - drop;
                std::size_t pipes = 0;
                bool outfall = false;
                for (std::uint64_t i = s.joint; i <= 4; ++i) {
                    const Laid was = laid(p, 10 + i, i), now = laid(q, 10 + i, i);
                    if (was.up <= invert + 1e-9) {
                        QVERIFY(now.up == was.up && now.down == was.down);
                        invert = 1e300;  // all below it stays
                        continue;
                    }
                    ++pipes;
                    const double falls = limited ? flattest : std::min((was.up - was.down) / 60, flattest);
                    const double end = std::min(was.down, invert - falls * 60);
                    QVERIFY(close(now.up, invert) && close(now.down, end));
                    if (i == 4) outfall = end < was.down - 1e-9;
                    invert = end - drop;
                }
                QVERIFY(lower->keeps_cover);  // it only becomes more
                const QString words = QString::fromStdString(lower->text);
                QVERIFY2(words.startsWith(QString("lower %1 pipe").arg(pipes)), qPrintable(words));
                QCOMPARE(words.contains("the outfall would lie lower too"), outfall);
                QCOMPARE(words.contains("pipes of"), pipes != 1);
            }
            // High: a drop at its end where the branch lies no deeper than it must, or one even slope.
            const double shallow = std::min(std::min(head.rim, joint.rim) - asked - 0.35, branch.up - flattest * l);
            QCOMPARE(fall != nullptr, levels.high && shallow > branch.down + 1e-9);
            if (fall) {
                ++dropped;
                const Project q = after(fall);
                QVERIFY(close(laid(q, 16, 6).down, shallow));
            }
            QCOMPARE(steepen != nullptr, levels.high);
            if (steepen) {
                ++steepened;
                const Project q = after(steepen);
                QVERIFY(close(laid(q, 16, 6).down, wanted));
            }
            for (std::size_t i = 1; i < levels.alternatives.size(); ++i) {
                const BranchAlternative &a = levels.alternatives[i - 1], &b = levels.alternatives[i];
                QVERIFY(a.keeps_cover != b.keeps_cover ? a.keeps_cover : a.excavation <= b.excavation);
            }
        }
        qInfo("raised %d (without cover %d, refused %d), led %d, lowered %d, dropped %d, steepened %d", raised,
              uncovered, refused, led, lowered, dropped, steepened);
        for (const int n : {raised, uncovered, refused, led, lowered, dropped, steepened}) QVERIFY(n >= 5);
    }
    /// A branch with a corner and a length of its own, led on, runs straight and is as long as it is drawn.
    void a_branch_that_is_led_on_runs_straight() {
        int led = 0;
        for (unsigned seed = 1; seed <= 40; ++seed) {
            Project p = site_of(seed).p;
            Pipe& branch = *p.pipes.change(16);
            branch.bends = {{p.structures.find(6)->x + 4, 20}};
            branch.length = 47;
            for (const BranchAlternative& a : branch_levels(p, {16}).alternatives) {
                Project q = p;
                apply(q, a.edit);
                const bool leads = a.text.starts_with("lead");
                led += leads;
                QCOMPARE(q.pipes.find(16)->bends.empty(), leads);
                QCOMPARE(std::isnan(q.pipes.find(16)->length), leads);
            }
        }
        QVERIFY(led >= 5);
    }
    /// Barrels side by side lie in one trench, a gap between them.
    void a_trench_holds_all_barrels() {
        const Site s = site_of(1);
        Project p = s.p;
        Pipe& row = *p.pipes.change(11);
        const double one = trench_volume(p, row);
        const double depth = one / (60 * (0.3 + 2 * 0.05 + 0.6));
        row.barrels = 3;
        QVERIFY(std::abs(trench_volume(p, row) - depth * 60 * (3 * 0.4 + 2 * 0.3 + 0.6)) < 1e-9);
        row.to = {99};
        QVERIFY(std::isnan(trench_volume(p, row)));
    }
};
QTEST_APPLESS_MAIN(TestBranches)
#include "test_branches.moc"
