// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>

#include "core/analysis/solver.h"
#include "drawing/profile.h"
#include "support/networks.h"

using namespace culvert;

class TestDrawing : public QObject {
    Q_OBJECT
  private slots:
    void every_run_of_random_networks_can_be_drawn() {
        int jumps = 0, reaches = 0;
        for (unsigned seed = 1; seed <= 25; ++seed) {
            const Project p = testing::random_project({.pipes = 40, .seed = seed, .events = 1});
            const auto r = solve(p)[0];
            const Review rev = review(p, *r);
            for (const Structure& s : p.structures) {
                const Profile profile = profile_of(p, *r->network, r.get(), &rev, {Kind::Structure, s.id});
                if (profile.stations.size() < 2) continue;  // an outfall that nothing reaches
                QVERIFY(std::any_of(profile.stations.begin(), profile.stations.end(),
                                    [&](const ProfileStation& t) { return t.structure.value == s.id; }));
                QVERIFY(profile.low < profile.high && profile.length > 0);
                for (const ProfileReach& reach : profile.reaches) {
                    ++reaches;
                    QVERIFY(reach.hydraulic.size() >= 2);
                    for (std::size_t k = 1; k < reach.hydraulic.size(); ++k) {
                        QVERIFY(reach.hydraulic[k].x >= reach.hydraulic[k - 1].x - 1e-9);
                        jumps += reach.hydraulic[k].x - reach.hydraulic[k - 1].x < 1e-9 &&
                                 reach.hydraulic[k].y > reach.hydraulic[k - 1].y + 0.01;
                    }
                    for (const Point& q : reach.hydraulic) {
                        QVERIFY(std::isfinite(q.y));
                        QVERIFY(q.y >= profile.low - 1e-9 && q.y <= profile.high + 1e-9);
                    }
                }
                for (const Drawn& d : draw_profile(p, profile)) {
                    QVERIFY(!d.points.empty());
                    for (const Point& q : d.points) QVERIFY(std::isfinite(q.x) && std::isfinite(q.y));
                    if (d.type == Drawn::Type::Text) QVERIFY(!d.text.empty());
                }
            }
        }
        QVERIFY(reaches > 2000 && jumps > 50);
    }
    void geometry_alone_is_drawn_without_results() {
        const Project p = testing::random_project({.pipes = 10, .seed = 3, .events = 1});
        const Network n = compile(p);
        const Profile profile = profile_of(p, n, nullptr, nullptr, {});
        QVERIFY(!profile.empty());
        for (const ProfileReach& r : profile.reaches) {
            QVERIFY(r.hydraulic.empty());
            QCOMPARE(r.verdict, Verdict::Unknown);
        }
        QVERIFY(!draw_profile(p, profile).empty());
    }
    void a_pipe_without_inverts_leaves_a_gap() {
        Project p = testing::random_project({.pipes = 6, .seed = 3, .events = 1});
        const std::uint64_t id = p.pipes.begin()->id;
        p.pipes.change(id)->invert_to = not_given;
        const auto r = solve(p)[0];
        const Review rev = review(p, *r);
        const Profile profile = profile_of(p, *r->network, r.get(), &rev, {Kind::Pipe, id});
        for (const Drawn& d : draw_profile(p, profile))
            for (const Point& q : d.points) QVERIFY(std::isfinite(q.x) && std::isfinite(q.y));
    }
    void the_longest_run_is_shown_where_nothing_is_selected() {
        const Project p = testing::random_project({.pipes = 30, .seed = 8, .events = 1});
        const Network n = compile(p);
        const Profile whole = profile_of(p, n, nullptr, nullptr, {});
        for (const Structure& s : p.structures)
            QVERIFY(profile_of(p, n, nullptr, nullptr, {Kind::Structure, s.id}).length <= whole.length + 1e-9);
    }
};
QTEST_APPLESS_MAIN(TestDrawing)
#include "test_drawing.moc"
