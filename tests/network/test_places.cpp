// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <random>

#include "core/model/edit.h"
#include "core/network/network.h"
#include "support/networks.h"

using namespace culvert;

namespace {

/// Angle of a stretch, degrees.
double heading(Point a, Point b) { return std::atan2(b.y - a.y, b.x - a.x) * 180 / std::numbers::pi; }
const Fault* fault_of(const Network& n, Kind kind, std::uint64_t id, const char* title) {
    for (const Fault& f : n.faults)
        if (f.element == ElementRef{kind, id} && f.title == title) return &f;
    return nullptr;
}

}  // namespace

/// Angles at which pipes meet, what stands at the ends of a network, and which edits only put values in.
class TestPlaces : public QObject {
    Q_OBJECT
  private slots:
    /// 180 degrees straight through, 0 back on itself; whatever way a pipe was drawn, and by its last stretch.
    void angles_are_those_between_the_stretches_that_meet() {
        int turned = 0;
        for (unsigned seed = 1; seed <= 20; ++seed) {
            Project p = testing::random_project({.pipes = 30, .seed = seed, .events = 1, .awkward = false});
            p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
            std::mt19937 dice(seed);
            const auto some = [&] { return 10.0 * double(dice()) / 4294967296.0 - 5; };
            for (const Pipe& row : std::vector<Pipe>(p.pipes.begin(), p.pipes.end())) {
                const Structure &a = *p.structures.find(row.from.value), &b = *p.structures.find(row.to.value);
                Pipe& q = *p.pipes.change(row.id);
                for (std::size_t k = 0, n = dice() % 3; k < n; ++k) {
                    const double t = static_cast<double>(k + 1) / static_cast<double>(n + 1);
                    q.bends.push_back({a.x + t * (b.x - a.x) + some(), a.y + t * (b.y - a.y) + some()});
                }
            }
            const Network n = compile(p);
            // The line of a link, from its upper to its lower node.
            const auto line = [&](const Link& l) {
                const Pipe& q = *p.pipes.find(l.pipe.value);
                std::vector<Point> out;
                const Structure &a = *p.structures.find(q.from.value), &b = *p.structures.find(q.to.value);
                out.push_back({a.x, a.y});
                out.insert(out.end(), q.bends.begin(), q.bends.end());
                out.push_back({b.x, b.y});
                if (q.from != n.nodes[static_cast<std::size_t>(l.from)].structure) std::reverse(out.begin(), out.end());
                return out;
            };
            for (const Link& l : n.links) {
                const Node& to = n.nodes[static_cast<std::size_t>(l.to)];
                if (!to.access_hole || to.out == no_link) continue;
                const auto in = line(l), on = line(n.links[static_cast<std::size_t>(to.out)]);
                double between = std::fmod(heading(in[in.size() - 2], in.back()) - heading(on[0], on[1]) + 720, 360);
                if (between > 180) between = 360 - between;
                QVERIFY2(std::abs(l.turn - (180 - between)) < 1e-6,
                         qPrintable(QString("%1 for %2").arg(l.turn).arg(180 - between)));
                ++turned;
            }
        }
        QVERIFY(turned > 200);
    }
    void levels_of_events_stand_at_outfalls_only() {
        Project p = testing::random_project({.pipes = 10, .seed = 3, .events = 3});
        std::uint64_t outfall = 0, other = 0, row = 900;
        for (const Structure& s : p.structures) (s.kind == StructureKind::Outfall ? outfall : other) = s.id;
        const auto add = [&](std::uint64_t at, std::uint64_t event, double level) {
            OutfallLevel l;
            l.id = ++row;
            l.structure = {at};
            l.event = {event};
            l.level = level;
            p.outfall_levels.insert(l);
        };
        add(outfall, 12, 101.2);
        add(outfall, 10, 101);
        add(outfall, 11, not_given);
        add(outfall, 0, 103);
        add(other, 10, 104);
        add(31337, 10, 105);
        add(outfall, 11, 1e9);  // out of range
        const Network n = compile(p);
        QCOMPARE(n.tail_levels.size(), std::size_t{2});
        QVERIFY(n.tail_levels[0].event.value == 10 && n.tail_levels[0].level == 101);
        QVERIFY(n.tail_levels[1].event.value == 12 && n.tail_levels[1].level == 101.2);
        QCOMPARE(n.tail_levels[0].node, n.node_of(StructureId{outfall}));
    }
    void ratings_and_channels_at_fault_say_why() {
        Project p = testing::random_project({.pipes = 5, .seed = 3, .events = 1});
        std::uint64_t outfall = 0;
        for (const Structure& s : p.structures)
            if (s.kind == StructureKind::Outfall) outfall = s.id;
        Structure& s = *p.structures.change(outfall);
        s.tailwater = Tailwater::Rating;
        const auto rating = [&](std::vector<double> q, std::vector<double> z) {
            p.structures.change(outfall)->rating_flows = std::move(q);
            p.structures.change(outfall)->rating_levels = std::move(z);
            const Network n = compile(p);
            const Fault* f = fault_of(n, Kind::Structure, outfall, "tailwater rating at fault");
            const Node& node = n.nodes[static_cast<std::size_t>(n.node_of(StructureId{outfall}))];
            // At fault it is solved as a free outfall; else by its rating.
            if (f) return node.tailwater == Tailwater::Free && n.ratings.empty() ? f->detail : std::string("?");
            return n.ratings.size() == 1 && node.rating == 0 && node.tailwater == Tailwater::Rating ? std::string()
                                                                                                    : "?";
        };
        QVERIFY(rating({0, 1}, {100, 101}).empty());
        QVERIFY(rating({0.5}, {100}).empty());
        QVERIFY(rating({0, 1}, {100, 100}).empty());  // flat it may be
        QVERIFY(rating({}, {}).find("has 0 flows and 0 levels") != std::string::npos);
        QVERIFY(rating({0, 1}, {100}).find("has 2 flows and 1 levels") != std::string::npos);
        QVERIFY(rating({0, 1, 1}, {100, 101, 102}).find("does not rise from place 2") != std::string::npos);
        QVERIFY(rating({0, 1, 2}, {100, 99, 102}).find("does not rise from place 1") != std::string::npos);

        const auto channel = [&](double width, double sides, double slope) {
            Structure& row = *p.structures.change(outfall);
            row.channel_width = width, row.channel_sides = sides, row.channel_slope = slope;
            const Network n = compile(p);
            const Fault* f = fault_of(n, Kind::Structure, outfall, "receiving channel not complete");
            const Node& node = n.nodes[static_cast<std::size_t>(n.node_of(StructureId{outfall}))];
            if (f) return node.channel == none_of_list && n.channels.empty() ? f->field : std::string("?");
            if (node.channel == none_of_list) return std::string("none");
            const Channel& c = n.channels[static_cast<std::size_t>(node.channel)];
            return c.width == width && c.sides == sides && c.slope == slope ? std::string() : "?";
        };
        QCOMPARE(channel(not_given, 2, 0.01), std::string("none"));
        QCOMPARE(channel(0.5, 2, 0.01), std::string());
        QCOMPARE(channel(0, 2, 0.01), std::string());
        QCOMPARE(channel(0.5, 0, 0.01), std::string());
        QCOMPARE(channel(0.5, 2, not_given), std::string("channel_slope"));
        QCOMPARE(channel(0, 0, 0.01), std::string("channel_width"));
        // What is out of range: sides of 1 : 2 and n 0.03, no limits.
        Structure& row = *p.structures.change(outfall);
        row.channel_width = 0.5, row.channel_sides = -1, row.channel_slope = 0.01, row.channel_roughness = 0;
        row.channel_velocity = row.channel_shear = -1;
        const Network n = compile(p);
        QVERIFY(n.channels[0].sides == 2 && n.channels[0].roughness == 0.03);
        QVERIFY(std::isnan(n.channels[0].most_velocity) && std::isnan(n.channels[0].most_shear));
    }
    /// What is only a number is put into the network as it stands; what may change its shape is compiled anew.
    void numbers_of_a_tree_are_put_in_and_shapes_are_not() {
        using Change = std::function<void(Pipe&, Structure&)>;
        const std::vector<std::tuple<const char*, bool, Change>> cases{
            {"size", true, [](Pipe& q, Structure&) { q.size *= 1.2; }},
            {"roughness", true, [](Pipe& q, Structure&) { q.roughness = 0.02; }},
            {"shape", true, [](Pipe& q, Structure&) { q.shape = Shape::Egg; }},
            {"barrels", true, [](Pipe& q, Structure&) { q.barrels = 2; }},
            {"invert", true, [](Pipe& q, Structure&) { q.invert_from += 0.01; }},
            {"length", true, [](Pipe& q, Structure&) { q.length = 77; }},
            {"rim", true, [](Pipe&, Structure& s) { s.rim += 0.2; }},
            {"known flow", true, [](Pipe&, Structure& s) { s.known_flow += 0.01; }},
            {"loss", true, [](Pipe&, Structure& s) { s.loss = 0.9; }},
            {"sump", true, [](Pipe&, Structure& s) { s.sump = 0.3; }},
            {"bends", false,
             [](Pipe& q, Structure&) {
                 q.bends.push_back({1, 2});
             }},
            {"direction", false,
             [](Pipe& q, Structure&) { std::swap(q.from, q.to), std::swap(q.invert_from, q.invert_to); }},
            {"abandoned", false, [](Pipe& q, Structure&) { q.status = Status::Abandoned; }},
            {"place", false, [](Pipe&, Structure& s) { s.x += 1; }},
            {"place across", false, [](Pipe&, Structure& s) { s.y += 1; }},
            {"kind", false, [](Pipe&, Structure& s) { s.kind = StructureKind::Joint; }},
            {"type", false, [](Pipe&, Structure& s) { s.type = "other"; }},
            {"method", false, [](Pipe&, Structure& s) { s.loss_by = LossBy::AccessHole; }},
            {"rating", false, [](Pipe&, Structure& s) { s.tailwater = Tailwater::Rating; }},
            {"channel", false, [](Pipe&, Structure& s) { s.channel_width = 1; }},
            {"at fault", false, [](Pipe& q, Structure&) { q.size = -1; }},
        };
        const Project p = testing::random_project({.pipes = 20, .seed = 5, .events = 1, .awkward = false});
        const Network n = compile(p);
        QVERIFY(n.faults.empty());
        std::uint64_t manhole = 0;
        for (const Structure& s : p.structures)
            if (s.kind == StructureKind::Manhole) manhole = s.id;
        const std::uint64_t pipe = std::next(p.pipes.begin(), 7)->id;
        for (const auto& [name, put_in, change] : cases) {
            Project next = p;
            change(*next.pipes.change(pipe), *next.structures.change(manhole));
            const auto again = recompile(p, n, next);
            QVERIFY2(again.has_value() == put_in, name);
            if (!again) continue;
            const Network whole = compile(next);
            QVERIFY2(again->links == whole.links, name);
            for (std::size_t i = 0; i < whole.nodes.size(); ++i)
                QVERIFY2(again->nodes[i].rim == whole.nodes[i].rim && again->nodes[i].loss == whole.nodes[i].loss &&
                             again->nodes[i].known_flow == whole.nodes[i].known_flow &&
                             again->nodes[i].sump == whole.nodes[i].sump,
                         name);
        }
    }
};
QTEST_APPLESS_MAIN(TestPlaces)
#include "test_places.moc"
