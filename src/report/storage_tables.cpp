// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/storage_tables.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/analysis/result_fields.h"
#include "core/analysis/way_flows.h"
#include "core/base/clock.h"
#include "core/base/contract.h"
#include "core/base/numbers.h"
#include "core/detention/pond_routing.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

using Q = Quantity;

/// A table that is built column by column.
class Columns {
  public:
    explicit Columns(const UnitSet& u) : u_(u) {}
    void words(std::string head) {
        t_.heads.push_back(std::move(head));
        t_.units.emplace_back();
        t_.left.push_back(true);
    }
    void numbers(std::string head, Q q) {
        t_.heads.push_back(std::move(head));
        t_.units.emplace_back(u_.unit(q).symbol);
        t_.left.push_back(false);
    }
    /// A time after the rain began, or how long a pond stands: hours and minutes where minutes are shown.
    void times(std::string head) {
        numbers(std::move(head), Q::Duration);
        if (by_clock(u_)) t_.units.back() = "h:min";
    }
    void put_time(double seconds) {
        put(seconds, Q::Duration);
        if (by_clock(u_) && seconds >= 0 && seconds < 1e9) t_.rows.back().back() = clock_text(seconds);
    }
    void row() {
        t_.rows.emplace_back();
        t_.si.emplace_back();
    }
    void put(std::string text) {
        t_.rows.back().push_back(std::move(text));
        t_.si.back().push_back(not_given);
    }
    void put(double v, Q q) {
        t_.rows.back().push_back(u_.number(v, q));
        t_.si.back().push_back(v);
    }
    TextTable take() { return std::move(t_); }

  private:
    const UnitSet& u_;
    TextTable t_;
};
/// Computing steps that stand together in a row of output.
std::size_t steps_of_output(const Project& project, double step) {
    const double interval = usable(project.settings(), &Settings::output_interval, step);
    return static_cast<std::size_t>(std::max(1.0, std::round(interval / std::max(step, 1e-9))));
}
/// Mean of the steps from one up to another; none where the series has ended.
double mean_of(const std::vector<double>& v, std::size_t from, std::size_t to) {
    double sum = 0;
    for (std::size_t k = from; k < to; ++k) sum += k < v.size() ? v[k] : 0;
    return sum / static_cast<double>(to - from);
}
std::string event_name(const Project& p, EventId id) {
    const RainEvent* e = p.events.find(id.value);
    return e ? e->name : "?";
}

}  // namespace

std::string way_name(const Project& project, const PondNode& pond, std::size_t way) {
    const bool pipe = pond.pipes[way] >= 0;
    return element_name(project, pipe ? Kind::Pipe : Kind::PondOutlet, pond.ways[way].row);
}

TextTable hydrograph_table(const Project& project, const SiteHydrographs& h) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.times("time");
    std::size_t count = 0;
    std::vector<Q> kinds;
    for (const Series& s : h.series) {
        count = std::max(count, s.values.size());
        kinds.push_back(s.key == "rain" ? Q::Intensity : s.key == "level" ? Q::Level : Q::Flow);
        c.numbers(s.key, kinds.back());
    }
    const std::size_t by = steps_of_output(project, h.step);
    for (std::size_t i = 0; i < count; i += by) {
        const std::size_t end = std::min(i + by, count);
        c.row();
        c.put_time(static_cast<double>(end) * h.step);
        for (std::size_t k = 0; k < h.series.size(); ++k) {
            const std::vector<double>& v = h.series[k].values;
            if (kinds[k] == Q::Level) {
                c.put(end <= v.size() ? v[end - 1] : not_given, Q::Level);
                continue;
            }
            c.put(mean_of(v, i, end), kinds[k]);
        }
    }
    return c.take();
}

TextTable catchment_series_table(const Project& project, const CatchmentSeries& s) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.times("time");
    for (const char* head : {"rain", "lost", "runs off"}) c.numbers(head, Q::Intensity);
    c.numbers("flow", Q::Flow);
    const std::size_t by = steps_of_output(project, s.step);
    for (std::size_t i = 0; i < s.flow.size(); i += by) {
        const std::size_t end = std::min(i + by, s.flow.size());
        c.row();
        c.put_time(static_cast<double>(end) * s.step);
        for (const auto* list : {&s.rain, &s.lost, &s.runoff}) c.put(mean_of(*list, i, end) / s.step, Q::Intensity);
        c.put(mean_of(s.flow, i, end), Q::Flow);
    }
    return c.take();
}

TextTable catchment_table(const Project& project, const EventResult& r) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("catchment");
    c.words("drains to");
    c.numbers("area", Q::Area);
    for (const ResultField& f : result_fields(ResultOn::Area))
        if (f.shown & in_table) c.numbers(std::string(f.head), f.quantity);
    if (!r.network->through_time) return c.take();
    const auto& areas = r.network->through_time->areas;
    std::vector<std::size_t> order(areas.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    const auto name = [&](std::size_t i) { return element_name(project, Kind::Catchment, areas[i].catchment.value); };
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return name(a) < name(b); });
    for (const std::size_t i : order) {
        c.row();
        c.put(name(i));
        c.put(element_name(project, Kind::Structure, nth(r.network->nodes, areas[i].node).structure.value));
        c.put(areas[i].area, Q::Area);
        for (const ResultField& f : result_fields(ResultOn::Area))
            if (f.shown & in_table) c.put(f.value(r, i), f.quantity);
    }
    return c.take();
}

TextTable pond_table(const Project& project, const Results& results) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("pond");
    c.words("event");
    c.numbers("peak in", Q::Flow);
    c.numbers("peak out", Q::Flow);
    c.numbers("allowed", Q::Flow);
    c.numbers("level", Q::Level);
    c.times("at");
    c.numbers("freeboard", Q::Length);
    c.numbers("stored", Q::Volume);
    c.numbers("in", Q::Volume);
    c.numbers("out", Q::Volume);
    c.numbers("soaked", Q::Volume);
    c.numbers("left", Q::Volume);
    c.times("drawdown");
    for (const auto& r : results) {
        if (!r->network->through_time) continue;
        for (std::size_t p = 0; p < r->ponds.size(); ++p) {
            const PondNode& n = r->network->through_time->ponds[p];
            const PondSummary& s = r->ponds[p];
            c.row();
            c.put(element_name(project, Kind::Pond, n.row));
            c.put(event_name(project, r->event));
            c.put(s.peak_inflow, Q::Flow);
            c.put(s.peak_outflow, Q::Flow);
            c.put(allowed_release(*r, static_cast<std::size_t>(n.node)), Q::Flow);
            c.put(s.level, Q::Level);
            c.put_time(s.level_time);
            c.put(n.crest - s.level, Q::Length);
            c.put(s.stored, Q::Volume);
            c.put(s.inflow_volume, Q::Volume);
            c.put(s.outflow_volume, Q::Volume);
            c.put(s.soaked, Q::Volume);
            c.put(s.left, Q::Volume);
            c.put_time(s.drawdown);
        }
    }
    return c.take();
}

TextTable rating_table(const Project& project, StructureId structure, int rows) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.numbers("level", Q::Level);
    c.numbers("area", Q::WaterArea);
    c.numbers("volume", Q::Volume);
    c.numbers("outflow", Q::Flow);
    const Network net = compile(project);
    const int node = net.node_of(structure);
    const int p = !net.through_time || node == no_node ? -1 : nth(net.through_time->pond_of, node);
    if (p < 0) return c.take();
    const PondNode& pond = nth(net.through_time->ponds, p);
    for (std::size_t w = 0; w < pond.ways.size(); ++w) {
        c.numbers(way_name(project, pond, w), Q::Flow);
        c.words("governed by");
    }
    const bool soaks = pond.soakage > 0;  // beside the ways out: it runs to no other place
    if (soaks) c.numbers("into the ground", Q::Flow);
    const double top = std::isnan(pond.crest) ? pond.storage.top() : std::max(pond.crest, pond.storage.top());
    for (const RatingRow& r : rating_of(pond.storage, pond.ways, pond.storage.bottom(), top, rows)) {
        c.row();
        c.put(r.level, Q::Level);
        c.put(r.area, Q::WaterArea);
        c.put(r.volume, Q::Volume);
        c.put(r.outflow, Q::Flow);
        for (const OutletFlow& f : r.ways) {
            c.put(f.flow, Q::Flow);
            c.put(std::string(control_text(f.control)));
        }
        if (soaks) c.put(pond.soakage * r.area, Q::Flow);
    }
    return c.take();
}

TextTable volume_table(const Project& project, const std::vector<RequiredVolume>& volumes,
                       const std::vector<CriticalStorm>& storms) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("event");
    c.numbers("allowed", Q::Flow);
    c.numbers("above the allowed flow", Q::Volume);
    c.numbers("above a rising line", Q::Volume);
    c.numbers("stored", Q::Volume);
    if (!storms.empty()) {
        c.numbers("modified rational", Q::Volume);
        c.numbers("its storm", Q::Duration);
    }
    for (const RequiredVolume& v : volumes) {
        c.row();
        c.put(event_name(project, v.event));
        c.put(v.allowed, Q::Flow);
        c.put(v.flat, Q::Volume);
        c.put(v.rising, Q::Volume);
        c.put(v.provided, Q::Volume);
        if (storms.empty()) continue;
        const auto at =
            std::find_if(storms.begin(), storms.end(), [&](const CriticalStorm& s) { return s.event == v.event; });
        c.put(at == storms.end() ? not_given : at->volume, Q::Volume);
        c.put(at == storms.end() ? not_given : at->duration, Q::Duration);
    }
    return c.take();
}

TextTable outlet_table(const Project& project, const OutletProposal& proposal) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("outlet");
    c.words("for");
    c.numbers("level", Q::Level);
    c.numbers("to", Q::Level);
    c.words("size or length");
    c.words("to");
    c.words("remark");
    for (const SizedOutlet& s : proposal.outlets) {
        const Q q = s.is_crest ? Q::Length : Q::Size;
        c.row();
        c.put(element_name(project, Kind::PondOutlet, s.outlet));
        c.put(event_name(project, s.event));
        c.put(s.level_before, Q::Level);
        c.put(s.level_after, Q::Level);
        c.put(u.text(s.size_before, q));
        c.put(u.text(s.size_after, q));
        c.put(s.why);
    }
    return c.take();
}
TextTable blocked_table(const Project& project, const std::vector<BlockedPond>& rows) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("event");
    c.numbers("level", Q::Level);
    c.numbers("freeboard", Q::Length);
    c.numbers("overflow", Q::Flow);
    c.words("remark");
    for (const BlockedPond& r : rows) {
        c.row();
        c.put(event_name(project, r.event));
        c.put(r.level, Q::Level);
        c.put(r.freeboard, Q::Length);
        c.put(r.outflow, Q::Flow);
        c.put(std::string(r.freeboard < 0 ? "over the bank" : r.above_curve ? "above the known space" : ""));
    }
    return c.take();
}
TextTable proof_table(const Project& project, const OutletProposal& proposal) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("event");
    c.numbers("allowed", Q::Flow);
    c.numbers("before", Q::Flow);
    c.numbers("after", Q::Flow);
    c.numbers("margin", Q::Flow);
    c.numbers("level before", Q::Level);
    c.numbers("after", Q::Level);
    c.numbers("freeboard", Q::Length);
    for (const ReleaseProof& p : proposal.proof) {
        c.row();
        c.put(event_name(project, p.event));
        c.put(p.allowed, Q::Flow);
        c.put(p.before, Q::Flow);
        c.put(p.after, Q::Flow);
        c.put(p.allowed - p.after, Q::Flow);
        c.put(p.level_before, Q::Level);
        c.put(p.level_after, Q::Level);
        c.put(p.freeboard_after, Q::Length);
    }
    return c.take();
}

TextTable before_after_table(const Project& after, const std::vector<BeforeAfter>& rows) {
    const UnitSet u = units_of(after);
    Columns c(u);
    c.words("outfall");
    c.words("event");
    c.numbers("before", Q::Flow);
    c.numbers("after", Q::Flow);
    c.numbers("allowed", Q::Flow);
    c.numbers("before", Q::Volume);
    c.numbers("after", Q::Volume);
    c.times("peak before");
    c.times("after");
    c.words("verdict");
    for (const BeforeAfter& r : rows) {
        c.row();
        c.put(r.name);
        c.put(r.event);
        c.put(r.before_peak, Q::Flow);
        c.put(r.after_peak, Q::Flow);
        c.put(r.allowed, Q::Flow);
        c.put(r.before_volume, Q::Volume);
        c.put(r.after_volume, Q::Volume);
        c.put_time(r.before_time);
        c.put_time(r.after_time);
        c.put(std::string(r.exceeds ? (std::isnan(r.allowed) ? "more than before" : "more than allowed") : "within"));
    }
    return c.take();
}

namespace {
/// Columns of ways out under their names, for reading.
void name_ways(const Project& project, const Network& network, StructureId structure, TextTable& table) {
    const int node = network.node_of(structure);
    const int pond = node == no_node || !network.through_time ? -1 : nth(network.through_time->pond_of, node);
    if (pond < 0) return;
    const PondNode& p = nth(network.through_time->ponds, pond);
    for (std::size_t w = 0; w < p.ways.size(); ++w)
        for (std::string& head : table.heads)
            if (head == "way " + std::to_string(w + 1)) head = way_name(project, p, w);
}
}  // namespace

std::string storage_report(const Project& project, StructureId structure) {
    const auto all = hydrographs_at(project, structure);
    const TextTable rating = rating_table(project, structure);
    if (all.empty() || rating.rows.empty()) return {};
    const Results results = solve(project);
    const std::string name = element_name(project, Kind::Structure, structure.value);
    std::string out = project.settings().title + ": storage at " + name + "\n";
    const auto part = [&](const std::string& title, const TextTable& t) {
        if (!t.rows.empty()) out += "\n" + title + "\n\n" + render(t);
    };
    TextTable ponds = pond_table(project, results);
    std::string pond;
    for (const Pond& p : project.ponds)
        if (p.structure == structure) pond = element_name(project, Kind::Pond, p.id);
    std::erase_if(ponds.rows, [&](const auto& row) { return row[0] != pond; });
    part("Allowed and achieved, by event", ponds);
    part("Storage asked for by the area above the release",
         volume_table(project, required_volumes(all, project.settings().release_cut),
                      critical_storms(project, structure)));
    part("Every way out blocked but the overflow", blocked_table(project, with_outlets_blocked(project, structure)));
    part("Space and outflow by level, free of the water below", rating);
    for (const SiteHydrographs& h : all) {
        TextTable routing = hydrograph_table(project, h);
        name_ways(project, *results.front()->network, structure, routing);
        part("Routing, " + event_name(project, h.event), routing);
    }
    for (const auto& r : results) {
        const Explanation x = explain(project, *r, {Kind::Structure, structure.value}, "release");
        if (x.error.empty()) out += "\n" + working_text(x);
    }
    return out;
}

std::string comma_separated(const TextTable& t) {
    std::string out;
    const auto line = [&](const std::vector<std::string>& cells) {
        for (std::size_t i = 0; i < cells.size(); ++i) {
            std::string cell = cells[i] == "–" ? "" : cells[i];
            if (cell.find_first_of(",\"\n") != std::string::npos) {
                std::string quoted = "\"";
                for (const char ch : cell) quoted += ch == '"' ? std::string("\"\"") : std::string(1, ch);
                cell = quoted + "\"";
            }
            out += (i ? "," : "") + cell;
        }
        out += "\n";
    };
    std::vector<std::string> heads = t.heads;
    for (std::size_t i = 0; i < heads.size() && i < t.units.size(); ++i)
        if (!t.units[i].empty()) heads[i] += " (" + t.units[i] + ")";
    line(heads);
    for (const auto& row : t.rows) line(row);
    return out;
}

TextTable way_table(const Project& project, const EventResult& r, StructureId structure) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("direction");
    c.words("way");
    c.words("from or to");
    c.numbers("flow", Q::Flow);
    c.numbers("volume", Q::Volume);
    const Network& net = *r.network;
    const int node = net.node_of(structure);
    if (node == no_node) return c.take();
    const auto add = [&](const Way& w, bool in) {
        const int other = in ? w.from : w.to;
        const WayFlow f = flow_of(r, w);
        c.row();
        c.put(in ? "in" : "out");
        c.put(way_name(project, net, w));
        c.put(other == no_node ? std::string("off the site")
                               : element_name(project, Kind::Structure, nth(net.nodes, other).structure.value));
        c.put(f.flow, Q::Flow);
        c.put(f.volume, Q::Volume);
    };
    for (const Way& w : ways_into(net, node)) add(w, true);
    for (const Way& w : ways_out_of(net, node)) add(w, false);
    return c.take();
}

TextTable reach_table(const Project& project, const Network& network, StructureId structure, bool above) {
    const UnitSet u = units_of(project);
    Columns c(u);
    c.words("structure");
    c.numbers("area", Q::Area);
    const int node = network.node_of(structure);
    if (node == no_node) return c.take();
    std::map<int, double> drained;
    for (const Catchment& k : project.catchments)
        if (const double a = usable(k, &Catchment::area, 0); a > 0)
            drained[network.node_of(target_of(project, k))] += a;
    const Ways ways(network);
    std::vector<std::pair<std::string, double>> rows;
    for (const int i : above ? ways.above(node) : ways.below(node)) {
        const auto at = drained.find(i);
        rows.emplace_back(element_name(project, Kind::Structure, nth(network.nodes, i).structure.value),
                          at == drained.end() ? 0 : at->second);
    }
    std::sort(rows.begin(), rows.end());
    for (const auto& [name, area] : rows) {
        c.row();
        c.put(name);
        c.put(area, Q::Area);
    }
    return c.take();
}

}  // namespace culvert
