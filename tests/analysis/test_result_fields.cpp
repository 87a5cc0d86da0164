// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <map>

#include "core/analysis/result_fields.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/lay.h"
#include "core/network/through_time.h"
#include "support/networks.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::PondSite;

namespace {

bool same(double a, double b) {
    return (std::isnan(a) && std::isnan(b)) || std::abs(a - b) <= 1e-9 * std::max({std::abs(a), std::abs(b), 1e-6});
}
using Told = std::map<std::string, std::function<double(std::size_t)>, std::less<>>;

/// Every field of a kind is told; the value of each at each element is what is told.
void compare(const EventResult& r, ResultOn on, std::size_t count, const Told& told, std::map<std::string, int>& seen) {
    for (const ResultField& f : result_fields(on)) {
        const auto at = told.find(f.key);
        QVERIFY2(at != told.end(), f.key.data());
        for (std::size_t i = 0; i < count; ++i) {
            const double shown = f.value(r, i), expected = at->second(i);
            QVERIFY2(same(shown, expected), qPrintable(QString("%1 of %2: %3 for %4")
                                                           .arg(f.key.data())
                                                           .arg(i)
                                                           .arg(shown, 0, 'g', 12)
                                                           .arg(expected, 0, 'g', 12)));
            seen[std::string(f.key)] += !std::isnan(shown);
        }
    }
}
/// A pipe with its ends along the water, as its row says.
struct Laid {
    const Pipe* row;
    const Structure *up, *down;
    double invert_up, invert_down;
};
Laid laid(const Project& p, const Network& net, std::size_t i) {
    const Link& l = net.links[i];
    const Pipe& row = *p.pipes.find(l.pipe.value);
    const bool along = row.from == net.nodes[static_cast<std::size_t>(l.from)].structure;
    return {&row, p.structures.find((along ? row.from : row.to).value),
            p.structures.find((along ? row.to : row.from).value), along ? row.invert_from : row.invert_to,
            along ? row.invert_to : row.invert_from};
}
Told links(const Project& p, const EventResult& r) {
    const auto lay = [&p, &r](std::size_t i) { return laid(p, *r.network, i); };
    const auto flow = [&r](std::size_t i) -> const LinkFlow& { return r.links[i].flow; };
    const auto level = [&r](std::size_t i) -> const LinkLevel& { return r.links[i].level; };
    const auto top = [lay](std::size_t i) { return height(section_of(*lay(i).row)); };
    const auto start = [&r, flow](std::size_t i) -> const NodeFlow& {
        const Link& l = r.network->links[i];
        return r.nodes[static_cast<std::size_t>(flow(i).against ? l.to : l.from)].flow;
    };
    const auto capacity = [&p, &r, lay](std::size_t i) {
        const double s = r.network->links[i].slope;
        return s > 0
                   ? full_capacity(section_of(*lay(i).row), lay(i).row->roughness, s) * r.network->links[i].barrels *
                         (p.settings().capacity_basis == CapacityBasis::Peak ? peak_ratio(section_of(*lay(i).row)) : 1)
                   : 0;
    };
    const auto cover = [top](const Laid& l, bool up, double h) {
        return (up ? l.up : l.down)->rim - (up ? l.invert_up : l.invert_down) - h - l.row->wall;
    };
    return {
        {"size", top},
        {"length", [&p, lay](std::size_t i) { return length_of(p, *lay(i).row); }},
        {"slope",
         [&p, lay](std::size_t i) { return (lay(i).invert_up - lay(i).invert_down) / length_of(p, *lay(i).row); }},
        {"effective_area", [flow](std::size_t i) { return flow(i).effective_area; }},
        {"known_flow", [flow](std::size_t i) { return flow(i).known_flow; }},
        {"time_of_concentration", [start](std::size_t i) { return start(i).time; }},
        {"intensity", [start](std::size_t i) { return start(i).intensity; }},
        {"flow", [flow](std::size_t i) { return flow(i).flow; }},
        {"capacity", capacity},
        {"flow_ratio",
         [capacity, flow](std::size_t i) { return capacity(i) > 0 ? flow(i).flow / capacity(i) : not_given; }},
        {"velocity", [flow](std::size_t i) { return flow(i).velocity; }},
        {"normal_depth", [flow](std::size_t i) { return flow(i).normal; }},
        {"filled_depth",
         [flow, top](std::size_t i) { return std::isnan(flow(i).normal) ? 1 : flow(i).normal / top(i); }},
        {"hgl_up", [lay, level](std::size_t i) { return lay(i).invert_up + level(i).head_up; }},
        {"hgl_down", [lay, level](std::size_t i) { return lay(i).invert_down + level(i).head_down; }},
        {"surcharge",
         [level, top](std::size_t i) { return std::max(level(i).head_up - top(i), level(i).head_down - top(i)); }},
        {"cover_up", [cover, lay, top](std::size_t i) { return cover(lay(i), true, top(i)); }},
        {"cover_down", [cover, lay, top](std::size_t i) { return cover(lay(i), false, top(i)); }},
        {"full_length", [level](std::size_t i) { return level(i).full_length; }},
        {"jump_at",
         [&p, level, lay](std::size_t i) {
             const double at = level(i).jump;
             return at > 0 && at < length_of(p, *lay(i).row) ? at : not_given;
         }},
        {"residence",
         [&p, &r, level, flow, lay](std::size_t i) {
             const Section s = section_of(*lay(i).row);
             const double q = flow(i).flow / r.network->links[i].barrels;
             if (!(q > 1e-12) || std::isnan(level(i).head_up)) return not_given;
             const auto area = [&](double y) { return y >= height(s) ? full_area(s) : wetted(s, y).area; };
             return (area(level(i).head_up) + area(level(i).head_down)) / 2 * length_of(p, *lay(i).row) / q;
         }},
    };
}
Told nodes(const Project& p, const EventResult& r) {
    const auto row = [&p, &r](std::size_t i) { return p.structures.find(r.network->nodes[i].structure.value); };
    const auto street = [&r](std::size_t i) -> const StreetFlow* {
        for (std::size_t k = 0; k < r.network->inlets.size(); ++k)
            if (r.network->inlets[k].node == static_cast<int>(i)) return &r.streets[k];
        return nullptr;
    };
    const auto of_street = [street](double StreetFlow::*m) {
        return [street, m](std::size_t i) { return street(i) ? street(i)->*m : not_given; };
    };
    const auto pond = [&p, &r, row](std::size_t i) -> std::pair<const PondSummary*, const Pond*> {
        if (!r.network->through_time) return {};
        for (std::size_t k = 0; k < r.ponds.size(); ++k)
            if (r.network->through_time->ponds[k].node == static_cast<int>(i))
                for (const Pond& s : p.ponds)
                    if (s.structure.value == row(i)->id) return {&r.ponds[k], &s};
        return {};
    };
    const auto of_pond = [pond](double PondSummary::*m) {
        return [pond, m](std::size_t i) { return pond(i).first ? pond(i).first->*m : not_given; };
    };
    const auto lowest = [&p, &r, row](std::size_t i) {
        double low = not_given;
        for (std::size_t k = 0; k < r.network->links.size(); ++k)
            if (r.network->links[k].from == static_cast<int>(i)) low = std::fmin(low, laid(p, *r.network, k).invert_up);
        return low;
    };
    // The side of the street from the curb to its crown: gutter and lane.
    const auto side = [&p, row](std::size_t i) {
        const Street* s = p.streets.find(row(i)->street.value);
        return s ? s->gutter_width + s->lane_width : not_given;
    };
    const auto allowed = [&p, &r, row](std::size_t i) {
        for (const Release& a : p.releases)
            if (a.structure.value == row(i)->id && a.event == r.event) return a.flow;
        return not_given;
    };
    const auto channel = [&r](std::size_t i, double ChannelState::*m) {
        return r.network->nodes[i].channel == none_of_list ? not_given : receiving(r, i).*m;
    };
    const auto flow = [&r](std::size_t i) -> const NodeFlow& { return r.nodes[i].flow; };
    return {
        {"rim", [row](std::size_t i) { return row(i)->rim; }},
        {"invert", lowest},
        {"hgl", [&r](std::size_t i) { return r.nodes[i].level.level; }},
        {"egl", [&r](std::size_t i) { return r.nodes[i].level.energy; }},
        {"freeboard", [&r, row](std::size_t i) { return row(i)->rim - r.nodes[i].level.level; }},
        {"time_of_concentration", [flow](std::size_t i) { return flow(i).time; }},
        {"intensity", [flow](std::size_t i) { return flow(i).intensity; }},
        {"flow", [flow](std::size_t i) { return flow(i).flow; }},
        {"depth",
         [&p, row, lowest](std::size_t i) {
             const StructureType* t = type_of(p, *row(i));
             return row(i)->rim - lowest(i) + (t ? t->sump : 0);
         }},
        {"approach", of_street(&StreetFlow::flow)},
        {"captured", of_street(&StreetFlow::captured)},
        {"bypass", of_street(&StreetFlow::bypass)},
        {"captured_share", of_street(&StreetFlow::efficiency)},
        {"spread", of_street(&StreetFlow::spread)},
        {"spread_share", [street, side](std::size_t i) { return street(i) ? street(i)->spread / side(i) : not_given; }},
        {"dry_width", [street, side](std::size_t i) { return street(i) ? side(i) - street(i)->spread : not_given; }},
        {"street_depth", of_street(&StreetFlow::depth)},
        {"street_velocity", of_street(&StreetFlow::velocity)},
        {"depth_velocity",
         [street](std::size_t i) { return street(i) ? street(i)->depth * street(i)->velocity : not_given; }},
        {"street_time", of_street(&StreetFlow::time)},
        {"channel_depth", [channel](std::size_t i) { return channel(i, &ChannelState::depth); }},
        {"channel_velocity", [channel](std::size_t i) { return channel(i, &ChannelState::velocity); }},
        {"channel_shear", [channel](std::size_t i) { return channel(i, &ChannelState::shear); }},
        {"peak_time", [flow](std::size_t i) { return flow(i).peak_time; }},
        {"volume", [&r, flow](std::size_t i) { return r.network->through_time ? flow(i).volume : not_given; }},
        {"pond_inflow", of_pond(&PondSummary::peak_inflow)},
        {"pond_outflow", of_pond(&PondSummary::peak_outflow)},
        {"pond_level", of_pond(&PondSummary::level)},
        {"pond_stored", of_pond(&PondSummary::stored)},
        {"pond_freeboard",
         [pond](std::size_t i) { return pond(i).first ? pond(i).second->crest - pond(i).first->level : not_given; }},
        {"drawdown", of_pond(&PondSummary::drawdown)},
        {"allowed", allowed},
        {"release_ratio",
         [pond, flow, allowed](std::size_t i) {
             return (pond(i).first ? pond(i).first->peak_outflow : flow(i).flow) / allowed(i);
         }},
    };
}
Told areas(const Project& p, const EventResult& r) {
    const auto row = [&p, &r](std::size_t i) {
        return p.catchments.find(r.network->through_time->areas[i].catchment.value);
    };
    const auto sum = [&r](std::size_t i) -> const RunoffSummary& { return r.runoffs[i]; };
    return {
        {"tc", [&p, row](std::size_t i) { return std::max(row(i)->time, p.settings().least_time); }},
        {"rain", [sum](std::size_t i) { return sum(i).rain; }},
        {"infiltrated", [sum](std::size_t i) { return sum(i).infiltrated; }},
        {"held", [sum](std::size_t i) { return sum(i).held; }},
        {"runoff", [sum](std::size_t i) { return sum(i).rain - sum(i).infiltrated - sum(i).held; }},
        {"runoff_share", [sum](std::size_t i) { return sum(i).rain > 0 ? sum(i).runoff / sum(i).rain : not_given; }},
        {"runoff_volume", [sum, row](std::size_t i) { return sum(i).runoff * row(i)->area; }},
        {"peak", [sum](std::size_t i) { return sum(i).peak; }},
        {"peak_time", [sum](std::size_t i) { return sum(i).peak_time; }},
        {"peak_rate", [sum, row](std::size_t i) { return sum(i).peak / row(i)->area; }},
    };
}

}  // namespace

/// The catalogue of results: each number that is shown is that of its words, told from the rows of the project and the
/// plain results.
class TestResultFields : public QObject {
    Q_OBJECT
  private slots:
    void every_number_is_that_of_its_words() {
        std::map<std::string, int> seen;
        const auto look = [&](const Project& p) {
            for (const auto& r : solve(p)) {
                compare(*r, ResultOn::Link, r->links.size(), links(p, *r), seen);
                compare(*r, ResultOn::Node, r->nodes.size(), nodes(p, *r), seen);
                compare(*r, ResultOn::Area, r->runoffs.size(), areas(p, *r), seen);
            }
        };
        for (unsigned seed = 1; seed <= 12; ++seed) look(testing::random_project({.pipes = 40, .seed = seed}));
        Project peak = testing::random_project({.pipes = 20, .seed = 3});
        peak.settings_rows.change(settings_id)->capacity_basis = CapacityBasis::Peak;
        look(peak);
        Project lane = street();
        look(lane);
        lane.structures.change(3)->channel_width = 1.2;
        lane.structures.change(3)->channel_slope = 0.004;
        lane.structures.change(3)->channel_roughness = 0.03;
        lane.pipes.change(12)->barrels = 2;
        look(lane);
        for (int seed = 0; seed < 4; ++seed) look(PondSite(true, seed).project);
        for (const ResultOn on : {ResultOn::Link, ResultOn::Node, ResultOn::Area})
            for (const ResultField& f : result_fields(on)) QVERIFY2(seen[std::string(f.key)] > 0, f.key.data());
    }
    /// Four classes between three bounds, the worst where it is worst; a value on a bound is still in the better one.
    void classes_rise_with_what_is_worse() {
        int coloured = 0;
        for (const ResultOn on : {ResultOn::Link, ResultOn::Node, ResultOn::Area})
            for (const ResultField& f : result_fields(on)) {
                if (f.classes.empty()) continue;
                ++coloured;
                const auto& b = f.classes.bounds;
                QVERIFY(b[0] < b[1] && b[1] < b[2]);
                const double at[] = {b[0] - 1e-6, (b[0] + b[1]) / 2, (b[1] + b[2]) / 2, b[2] + 1e-6};
                for (int k = 0; k < 4; ++k) QCOMPARE(f.classes.of(at[k]), f.classes.more_is_worse ? k : 3 - k);
                for (int k = 0; k < 3; ++k)
                    QCOMPARE(f.classes.of(b[static_cast<std::size_t>(k)]), f.classes.more_is_worse ? k : 3 - k);
                // What is a share has its bounds below one or at it; levels of water are worst above the crown or rim.
                if (f.quantity == Quantity::Ratio) QVERIFY(b[0] > 0 && b[2] <= 1);
            }
        QVERIFY(coloured >= 8);
        const auto bounds = [](ResultOn on, const char* key) { return result_field(on, key)->classes.bounds; };
        // Full is where the capacity, the crown, the rim or the allowed release is.
        QCOMPARE(bounds(ResultOn::Link, "flow_ratio")[2], 1.0);
        QCOMPARE(bounds(ResultOn::Link, "surcharge")[1], 0.0);
        QCOMPARE(bounds(ResultOn::Node, "freeboard")[0], 0.0);
        QCOMPARE(bounds(ResultOn::Node, "pond_freeboard")[0], 0.0);
        QCOMPARE(bounds(ResultOn::Node, "release_ratio")[2], 1.0);
        // Those of a new project's limits: velocity, filled depth, slope, freeboard.
        const Project p = new_project(UnitSystem::Si);
        const auto limit = [&](LimitKind kind) {
            for (const Limit& l : p.limits)
                if (l.kind == kind) return l.value;
            return not_given;
        };
        QCOMPARE(bounds(ResultOn::Link, "velocity")[0], limit(LimitKind::LeastVelocity));
        QCOMPARE(bounds(ResultOn::Link, "velocity")[2], limit(LimitKind::MostVelocity));
        QCOMPARE(bounds(ResultOn::Link, "filled_depth")[2], limit(LimitKind::MostFilledDepth));
        QCOMPARE(bounds(ResultOn::Link, "slope")[0], limit(LimitKind::LeastSlope));
        QCOMPARE(bounds(ResultOn::Node, "freeboard")[1], limit(LimitKind::LeastFreeboard));
    }
    void elements_find_their_results() {
        const Project p = PondSite().project;
        const auto r = solve(p)[0];
        for (const Pipe& q : p.pipes)
            QVERIFY(same(result_at(*r, *result_field(ResultOn::Link, "flow"), {Kind::Pipe, q.id}),
                         r->links[static_cast<std::size_t>(r->network->link_of(PipeId{q.id}))].flow.flow));
        for (const Structure& s : p.structures)
            QVERIFY(same(result_at(*r, *result_field(ResultOn::Node, "hgl"), {Kind::Structure, s.id}),
                         r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{s.id}))].level.level));
        for (const Catchment& c : p.catchments) {
            double rain = not_given;
            for (std::size_t i = 0; i < r->runoffs.size(); ++i)
                if (r->network->through_time->areas[i].catchment.value == c.id) rain = r->runoffs[i].runoff;
            QVERIFY(rain > 0 &&
                    same(result_at(*r, *result_field(ResultOn::Area, "runoff"), {Kind::Catchment, c.id}), rain));
        }
        QVERIFY(std::isnan(result_at(*r, *result_field(ResultOn::Area, "runoff"), {Kind::Catchment, 999})));
        QVERIFY(std::isnan(result_at(*r, *result_field(ResultOn::Area, "runoff"), {Kind::Pipe, 1})));
        QVERIFY(std::isnan(result_at(*r, *result_field(ResultOn::Link, "flow"), {Kind::Structure, 1})));
        QVERIFY(!result_field(ResultOn::Link, "no such"));
        QVERIFY(results_of(Kind::Pipe) == ResultOn::Link && results_of(Kind::Catchment) == ResultOn::Area &&
                results_of(Kind::Structure) == ResultOn::Node);
    }
};
QTEST_APPLESS_MAIN(TestResultFields)
#include "test_result_fields.moc"
