// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/streets/spacing.h"

using namespace culvert;

namespace {

const StreetConstants si = street_constants(Edition::Si);
bool close(double a, double b, double within) { return std::abs(a - b) <= within; }

SpacingTask street(StreetProfile profile, double load = 2.4e-4) {
    SpacingTask t;
    t.profile = std::move(profile);
    t.section = CompositeSection{0.5, 0.05, 0.02, 4};
    t.inlet = Grate{0.6, 0.45, 2.0};
    t.load = load;
    t.allowed_spread = 2;
    t.begin = t.profile.front().station;
    t.end = t.profile.back().station;
    t.constants = si;
    return t;
}

/// The same by walking a centimetre at a time: water is gathered, and an inlet stands where the spread is reached.
std::vector<double> by_walking(const SpacingTask& t, double from, double to) {
    std::vector<double> out;
    const double step = 0.01 * (to > from ? 1 : -1);
    double flow = 0;
    for (double s = from; std::abs(to - s) > 0.02; s += step) {
        const Gutter g{t.section, std::abs(grade_at(t.profile, s + step / 2)), t.n};
        flow += t.load * 0.01;
        if (gutter_flow(g, flow, t.constants).spread >= t.allowed_spread) {
            const Gutter before{t.section, std::abs(grade_at(t.profile, s - step / 2)), t.n};
            out.push_back(s + step);
            flow -= on_grade(t.inlet, before, flow, t.constants).captured;
        }
    }
    return out;
}

}  // namespace

/// Spacing against walking the street, against its own closed form, and the properties of a chain.
class TestSpacing : public QObject {
    Q_OBJECT
  private slots:
    /// One grade: the first inlet at Qa / q, all others at captured / q.
    void one_grade_is_a_closed_form() {
        const SpacingTask t = street({{0, 110}, {1500, 80}});
        const Spacing s = space_inlets(t);
        QVERIFY(s.fault.empty() && s.inlets.size() > 5);
        const Gutter g{t.section, 0.02, t.n};
        const double most = flow_of_depth(g, depth_of_spread(t.section, 2), si),
                     taken = on_grade(t.inlet, g, most, si).captured;
        QVERIFY(close(s.inlets[0].station, most / t.load, 1e-6));
        for (std::size_t i = 1; i < s.inlets.size(); ++i) {
            QVERIFY(close(s.inlets[i].station - s.inlets[i - 1].station, taken / t.load, 1e-6));
            QVERIFY(close(s.inlets[i].spread, 2, 1e-9));
            QVERIFY(close(s.inlets[i].depth, depth_of_spread(t.section, 2), 1e-9));
            QCOMPARE(s.inlets[i - 1].to, static_cast<int>(i));
        }
    }
    void any_profile_is_what_walking_gives() {
        std::mt19937 random(9);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int inlets = 0, sags = 0;
        for (int k = 0; k < 12; ++k) {
            StreetProfile p{{0, 100}};
            for (int i = 0; i < 6; ++i)
                p.push_back(
                    {p.back().station + uniform(60, 200), p.back().level + (i == 3 ? 1 : -1) * uniform(0.6, 5)});
            const SpacingTask t = street(p, uniform(4e-4, 1.2e-3));
            const Spacing s = space_inlets(t);
            std::vector<double> walked;
            for (const Run& r : runs_of(t.profile, t.begin, t.end)) {
                for (const double w : by_walking(t, r.high, r.low)) walked.push_back(w);
                sags += r.sag;
            }
            std::vector<double> found;
            for (const SpacedInlet& in : s.inlets)
                if (in.as == SpacedAs::OnGrade) found.push_back(in.station);
            std::sort(walked.begin(), walked.end());
            if (std::any_of(s.notes.begin(), s.notes.end(),
                            [](const std::string& n) { return n.starts_with("at station"); }))
                continue;  // where bypass alone spreads too far the walk knows no gap
            QCOMPARE(found.size(), walked.size());
            for (std::size_t i = 0; i < found.size(); ++i)
                QVERIFY2(close(found[i], walked[i], 0.05 + 0.02 * static_cast<double>(i)),
                         qPrintable(QString("%1: %2 %3").arg(k).arg(found[i]).arg(walked[i])));
            inlets += static_cast<int>(found.size());
        }
        QVERIFY2(inlets > 25 && sags >= 8, qPrintable(QString("%1 %2").arg(inlets).arg(sags)));
    }
    void stations_to_avoid_are_kept_free() {
        SpacingTask t = street({{0, 110}, {900, 92}});
        const double first = space_inlets(t).inlets[0].station;
        t.avoid = {{first - 4, first + 6}};
        const Spacing s = space_inlets(t);
        QVERIFY(close(s.inlets[0].station, first - 4, 1e-9) && s.inlets[0].spread < 2);
        for (const SpacedInlet& in : s.inlets) QVERIFY(in.spread <= 2 + 1e-9);
    }
    void what_cannot_be_spaced_says_why() {
        SpacingTask t = street({{0, 110}, {900, 92}});
        t.load = 0;
        QVERIFY(!space_inlets(t).fault.empty());
        t = street({{0, 110}, {900, 92}});
        t.allowed_spread = 0;
        QVERIFY(!space_inlets(t).fault.empty());
        t = street({{0, 110}});
        QVERIFY(!space_inlets(t).fault.empty());
        // A level street: every inlet stands at its least gap, and that is said.
        t = street({{0, 100}, {30, 100}});
        const Spacing s = space_inlets(t);
        QVERIFY(s.inlets.size() <= 31);
        // An inlet that takes nothing.
        t = street({{0, 110}, {300, 104}}, 9e-4);
        t.inlet = Grate{0.6, 0.45, 2, 0.5, 1.0};
        const Spacing none = space_inlets(t);
        QVERIFY(!none.notes.empty() && none.inlets.size() <= 301);
    }
};

QTEST_GUILESS_MAIN(TestSpacing)
#include "test_spacing.moc"
