// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

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

}  // namespace

/// Spacing against its own closed form, what it keeps free, and what it says.
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
