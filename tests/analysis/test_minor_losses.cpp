// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/analysis/budget.h"
#include "core/analysis/explain_loss.h"
#include "core/analysis/solver.h"
#include "support/networks.h"
#include "support/rain.h"

using namespace culvert;
using culvert::testing::random_project;

namespace {

double head(double v) { return v * v / (2 * 9.81); }
bool close(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }
std::size_t node(const EventResult& r, std::uint64_t id) {
    return static_cast<std::size_t>(r.network->node_of(StructureId{id}));
}
std::size_t link(const EventResult& r, std::uint64_t id) {
    return static_cast<std::size_t>(r.network->link_of(PipeId{id}));
}

/// 1 – 2 – 3 along x, 60 m and 40 m, all full below a tailwater of 105; 2 is an inline joint, K = 0 there.
Project two(double upper, double lower, double flow) {
    Project p = new_project(UnitSystem::Si);
    for (const std::uint64_t i : {1, 2, 3}) {
        Structure s;
        s.id = i;
        s.name = "N" + std::to_string(i);
        s.kind = i == 1 ? StructureKind::Manhole : i == 2 ? StructureKind::Joint : StructureKind::Outfall;
        s.x = i == 1 ? 0 : i == 2 ? 60 : 100;
        s.y = 0;
        s.rim = 110;
        s.known_flow = i == 1 ? flow : 0;
        if (i == 3) s.tailwater = Tailwater::Level, s.tailwater_level = 105;
        p.structures.insert(s);
    }
    for (const std::uint64_t i : {11, 12}) {
        Pipe q;
        q.id = i;
        q.from = {i - 10};
        q.to = {i - 9};
        q.size = i == 11 ? upper : lower;
        q.invert_from = i == 11 ? 100 : 99.5;
        q.invert_to = i == 11 ? 99.6 : 99.3;
        p.pipes.insert(q);
    }
    p.events.insert(culvert::testing::ten_years());
    return p;
}
double area(double d) { return std::acos(-1.0) * d * d / 4; }
double slope_of_friction(double d, double q) {  // Manning, full
    const double k = area(d) * std::pow(d / 4, 2.0 / 3) / 0.013;
    return (q / k) * (q / k);
}

}  // namespace

/// Bends, and changes of section at inline joints, by hand.
class TestMinorLosses : public QObject {
    Q_OBJECT
    static void change_of_section(double upper, double lower) {
        const double q = 0.25;
        Project p = two(upper, lower, q);
        Settings* s = p.settings_rows.change(settings_id);
        s->expansion_loss = 0.3;
        s->contraction_loss = 0.1;
        const auto r = solve(p)[0];
        const double v1 = q / area(upper), v2 = q / area(lower);
        const double behind = 105 + 40 * slope_of_friction(lower, q) + head(v2);
        const double k = v1 > v2 ? 0.3 : 0.1;
        const double above = behind + k * std::abs(head(v1) - head(v2));
        QVERIFY(close(r->nodes[node(*r, 2)].level.energy, behind, 1e-9));
        QVERIFY2(close(99.6 + r->links[link(*r, 11)].level.head_down + head(v1), above, 1e-9),
                 qPrintable(QString::number(upper)));
        QVERIFY(
            close(r->nodes[node(*r, 1)].level.level, above + 60 * slope_of_friction(upper, q) + 0.2 * head(v1), 1e-9));
        bool named = false;
        for (const Step& step : explain_loss(p, *r, static_cast<int>(node(*r, 2)), static_cast<int>(link(*r, 12))))
            if (step.symbol == "ht") {
                named = true;
                QVERIFY(close(step.result, above - behind, 1e-9));
            }
        QCOMPARE(named, upper != lower);
    }

  private slots:
    /// 90 degrees in one corner, or in two of 45 to either side, are Kb = 0.297; the level rises by Kb V2/2g and no
    /// more.
    void setting_bend_loss() {
        const double q = 0.2, v = q / area(0.45);
        for (const bool two_corners : {false, true}) {
            Project p = two(0.45, 0.45, q);
            Pipe* b = p.pipes.change(11);
            b->length = 60;  // entered: friction is that of the straight pipe
            b->bends = two_corners ? std::vector<Point>{{20, 0}, {40, 20}} : std::vector<Point>{{0, 40}, {20, 40}};
            if (two_corners) p.structures.change(2)->y = 20;
            else {
                p.structures.change(2)->x = 20;
                p.structures.change(2)->y = 20;
            }
            // one corner: north, then east (90), then south (90 more): 180 in all; two corners: 45 and 45
            const double degrees = two_corners ? 90 : 180;
            Project straight = p;
            straight.settings_rows.change(settings_id)->bend_loss = 0;
            for (Project* x : {&p, &straight}) x->pipes.change(12)->length = 40;
            const auto with = solve(p)[0], without = solve(straight)[0];
            const double rise = with->nodes[node(*with, 1)].level.level - without->nodes[node(*without, 1)].level.level;
            QVERIFY2(close(rise, 0.0033 * degrees * head(v)), qPrintable(QString::number(rise)));
            QVERIFY(close(with->links[link(*with, 11)].level.bends, rise));
            QCOMPARE(with->nodes[node(*with, 2)].level.level, without->nodes[node(*without, 2)].level.level);
            const LevelBudget budget = level_budget(*with, {1});
            double sum = budget.start_level, pipe = 0;
            for (const BudgetPart& part : budget.parts) {
                sum += part.rise;
                if (part.element == ElementRef{Kind::Pipe, 11}) pipe += part.rise;
            }
            QVERIFY(close(sum, budget.level, 1e-9));
            QVERIFY(close(pipe, 60 * slope_of_friction(0.45, q) + rise, 1e-6));
            const Working w =
                explain_loss(p, *with, static_cast<int>(node(*with, 1)), static_cast<int>(link(*with, 11)));
            QVERIFY(close(w.back().result, with->nodes[node(*with, 1)].level.level, 1e-9));
            QCOMPARE(w.front().symbol, std::string("hb"));
        }
    }
    /// Where the level is set at the entrance of a steep pipe, its bends lie below that place.
    void bends_below_critical_depth_raise_nothing() {
        Project p = two(0.45, 0.45, 0.1);
        p.structures.change(3)->tailwater = Tailwater::Free;
        Pipe* q = p.pipes.change(11);
        q->invert_from = 103;
        q->bends = {{30, 30}};
        const auto r = solve(p)[0];
        p.settings_rows.change(settings_id)->bend_loss = 0;
        const auto none = solve(p)[0];
        QVERIFY(r->links[link(*r, 11)].level.control == Control::Entrance);
        QCOMPARE(r->nodes[node(*r, 1)].level.level, none->nodes[node(*none, 1)].level.level);
    }
    /// E above the joint = E behind it + K |V1^2 - V2^2|/2g, then friction and the manhole's own loss.
    void setting_expansion_loss() { change_of_section(0.45, 0.6); }
    void setting_contraction_loss() { change_of_section(0.6, 0.45); }
    void one_section_loses_nothing() { change_of_section(0.5, 0.5); }
    /// With bends and joints that lose: no rise of energy, and the same answer however pipes are drawn.
    void random_networks_keep_their_energy() {
        int bent = 0, lossy = 0;
        for (unsigned seed = 1; seed <= 400; ++seed) {
            Project p = random_project({.pipes = 40, .seed = seed});
            std::mt19937 random(seed);
            const auto uniform = [&](double a, double b) {
                return std::uniform_real_distribution<double>(a, b)(random);
            };
            Settings* s = p.settings_rows.change(settings_id);
            s->bend_loss = 0.0033;
            s->expansion_loss = seed % 2 ? 0.97 : 0.5;
            s->contraction_loss = 0.25;
            std::vector<std::uint64_t> ids;
            for (const Pipe& q : p.pipes) ids.push_back(q.id);
            for (const std::uint64_t id : ids) {
                Pipe* q = p.pipes.change(id);
                const Structure &a = *p.structures.find(q->from.value), &b = *p.structures.find(q->to.value);
                if (uniform(0, 1) < 0.5)
                    q->bends = {{(a.x + b.x) / 2 + uniform(-20, 20), (a.y + b.y) / 2 + uniform(-20, 20)}};
            }
            Project turned = p;
            for (const std::uint64_t id : ids) {
                Pipe* q = turned.pipes.change(id);
                std::swap(q->from, q->to);
                std::swap(q->invert_from, q->invert_to);
                std::reverse(q->bends.begin(), q->bends.end());
            }
            const auto r = solve(p)[0], t = solve(turned)[0];
            const Network& net = *r->network;
            for (std::size_t i = 0; i < net.links.size(); ++i) {
                const Link& l = net.links[i];
                const LinkResult& f = r->links[i];
                if (!l.solvable || std::isnan(f.level.head_up) || f.flow.flow < 1e-9 || f.flow.against) continue;
                const double up = l.invert_up + f.level.head_up + head(f.level.velocity_up),
                             down = l.invert_down + f.level.head_down + head(f.level.velocity_down);
                const NodeLevel &from = r->nodes[static_cast<std::size_t>(l.from)].level,
                                &to = r->nodes[static_cast<std::size_t>(l.to)].level;
                if (!from.held) QVERIFY2(from.energy >= up + f.level.bends - 1e-7, qPrintable(QString::number(seed)));
                QVERIFY2(up >= down - 1e-6, qPrintable(QString::number(seed)));
                if (net.nodes[static_cast<std::size_t>(l.to)].out != no_link && std::isfinite(to.energy)) {
                    QVERIFY2(down >= to.energy - 1e-6, qPrintable(QString::number(seed)));
                    lossy += net.nodes[static_cast<std::size_t>(l.to)].kind == StructureKind::Joint &&
                             down > to.energy + 1e-4;
                }
                bent += f.level.bends > 1e-6;
            }
            for (const Structure& x : p.structures) {
                const double a = r->nodes[node(*r, x.id)].level.level, b = t->nodes[node(*t, x.id)].level.level;
                QVERIFY2(std::abs(a - b) < 1e-9 || (std::isnan(a) && std::isnan(b)), qPrintable(QString::number(seed)));
            }
        }
        qInfo("%d pipes with bends that lose, %d joints that lose", bent, lossy);
        QVERIFY(bent > 500 && lossy > 50);
    }
};
QTEST_GUILESS_MAIN(TestMinorLosses)
#include "test_minor_losses.moc"
