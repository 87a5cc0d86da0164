// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/storage_study.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include "core/analysis/grade_line.h"
#include "core/analysis/parallel.h"
#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {

const Series* SiteHydrographs::of(std::string_view key) const {
    for (const Series& s : series)
        if (s.key == key) return &s;
    return nullptr;
}

std::vector<SiteHydrographs> hydrographs_at(const Project& project, StructureId structure, const std::stop_token& stop,
                                            const Results& known) {
    std::vector<SiteHydrographs> list;
    const auto network =
        !known.empty() && known.front() ? known.front()->network : std::make_shared<const Network>(compile(project));
    const Network& net = *network;
    const int node = net.node_of(structure);
    if (!net.through_time || node == no_node) return list;
    const auto events = events_in_order(project);
    list.resize(events.size());
    in_parallel(events.size(), [&](std::size_t i) {
        if (stop.stop_requested()) return;
        EventResult r;
        static_cast<Summaries&>(r) = Summaries(net);
        SiteHydrographs& h = list[i];
        h.event = {events[i]->id};
        set_tails(net, h.event, r);
        h.step = net.through_time->step;
        const auto of =
            std::find_if(known.begin(), known.end(), [&](const auto& k) { return k && k->event == h.event; });
        h.series = solve_through_time(net, rain_of(*events[i]), r,
                                      {{node}, false, true, of == known.end() ? nullptr : of->get()}, stop);
        h.flow = nth(r.nodes, node).flow;
        if (const int p = nth(net.through_time->pond_of, node); p >= 0) h.pond = nth(r.ponds, p);
        for (const AllowedRelease& a : net.releases)
            if (a.node == node && a.event == h.event) h.allowed = a.flow;
    });
    if (stop.stop_requested()) list.clear();
    return list;
}

std::vector<BlockedPond> with_outlets_blocked(const Project& project, StructureId structure,
                                              const std::stop_token& stop) {
    std::vector<BlockedPond> list;
    const Network net = compile(project);
    const int node = net.node_of(structure);
    const int at = !net.through_time || node == no_node ? -1 : nth(net.through_time->pond_of, node);
    if (at < 0) return list;
    const PondNode& pond = nth(net.through_time->ponds, at);
    std::vector<char> blocked;
    for (const WayOut& w : pond.ways) blocked.push_back(!w.overflow);
    for (const SiteHydrographs& h : hydrographs_at(project, structure, stop)) {
        const Series* in = h.of("inflow");
        if (!in) continue;
        PondInput input;
        input.storage = &pond.storage;
        input.ways = pond.ways;
        input.start_level = pond.start_level;
        input.soakage = pond.soakage;
        input.inflow = in->values;
        input.step = h.step;
        input.blocked = blocked;
        const PondRoute r = route_pond(input);
        list.push_back({h.event, r.peak_level, pond.crest - r.peak_level, r.peak_outflow, r.above_curve > 1e-6});
    }
    return list;
}

std::vector<CriticalStorm> critical_storms(const Project& project, StructureId structure) {
    std::vector<CriticalStorm> list;
    Editing rational(project, "rational");
    rational.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::Rational);
    const auto net = std::make_shared<const Network>(compile(rational.now()));
    const int node = net->node_of(structure);
    if (node == no_node) return list;
    constexpr double longest = 86400;
    for (const RainEvent* e : events_in_order(project)) {
        CriticalStorm c;
        c.event = {e->id};
        for (const AllowedRelease& a : net->releases)
            if (a.node == node && a.event == c.event) c.allowed = a.flow;
        const EventRain rain = rain_of(*e);
        if (std::isnan(c.allowed) || rain.curve.empty()) continue;
        const EventResult r = solve_one(net, rain);
        const NodeFlow& f = nth(r.nodes, node).flow;
        const double tc = std::max(f.time, 60.0);
        const auto flow = [&](double d) {
            return f.effective_area * rain.curve.intensity(d) * net->uplift + f.known_flow;
        };
        const auto volume = [&](double d) { return flow(d) * d - c.allowed * (d + tc) / 2; };
        // A table has corners: every length on a fine scale, then closer about the best.
        double best = tc;
        for (int i = 0; i <= 400; ++i)
            if (const double d = tc * std::pow(longest / tc, i / 400.0); volume(d) > volume(best)) best = d;
        double low = best / std::pow(longest / tc, 1 / 400.0), high = best * std::pow(longest / tc, 1 / 400.0);
        low = std::max(low, tc), high = std::min(high, longest);
        for (int i = 0; i < 60; ++i) {
            const double a = low + (high - low) / 3, b = high - (high - low) / 3;
            if (volume(a) < volume(b)) low = a;
            else high = b;
        }
        if (volume((low + high) / 2) > volume(best)) best = (low + high) / 2;
        c.duration = best;
        c.flow = flow(best);
        c.volume = c.flow > c.allowed ? std::max(0.0, volume(best)) : 0;
        list.push_back(c);
    }
    return list;
}

std::vector<RequiredVolume> required_volumes(const std::vector<SiteHydrographs>& hydrographs, ReleaseCut cut) {
    std::vector<RequiredVolume> list;
    for (const SiteHydrographs& h : hydrographs) {
        RequiredVolume v;
        v.event = h.event;
        v.allowed = h.allowed;
        v.provided = h.pond.level == h.pond.level ? h.pond.stored : not_given;
        if (const Series* in = h.of("inflow"); in && !std::isnan(h.allowed)) {
            v.flat = required_volume(in->values, h.step, h.allowed, ReleaseCut::Flat);
            v.rising = required_volume(in->values, h.step, h.allowed, ReleaseCut::Rising);
            v.asked = cut == ReleaseCut::Flat ? v.flat : v.rising;
        }
        list.push_back(v);
    }
    return list;
}

namespace {

bool has_opening(OutletKind k) { return k == OutletKind::CircularOrifice || k == OutletKind::BoxOrifice; }
bool has_crest(OutletKind k) {
    return k == OutletKind::SharpWeir || k == OutletKind::BroadWeir || k == OutletKind::Cipolletti;
}

/// Largest whole number in [low, high] for which `fits` holds; low - 1 where none does. Holds for all below it.
template <class Fits>
int largest(int low, int high, Fits fits) {
    if (!fits(low)) return low - 1;
    while (low < high) {
        const int middle = low + (high - low + 1) / 2;
        if (fits(middle)) low = middle;
        else high = middle - 1;
    }
    return low;
}

class OutletSizing {
  public:
    OutletSizing(const Project& project, StructureId structure, const PracticalSizes& sizes,
                 const std::stop_token& stop)
        : project_(project), structure_(structure), sizes_(sizes), stop_(stop), editing_(project, "Outlet sizes") {}

    OutletProposal run() {
        if (!prepare()) return std::move(out_);
        // What stands below the outlets hangs on what they let out: sized again until it agrees.
        constexpr int most_rounds = 4;
        for (int round = 0; round < most_rounds; ++round) {
            if (round > 0) take_events(hydrographs_at(editing_.now(), structure_, stop_));
            const std::vector<SizedOutlet> before = std::exchange(out_.outlets, {});
            one_round();
            if (stop_.stop_requested()) return {};
            put_into_project();
            const bool same = std::equal(before.begin(), before.end(), out_.outlets.begin(), out_.outlets.end(),
                                         [](const SizedOutlet& x, const SizedOutlet& y) {
                                             return x.size_after == y.size_after && x.level_after == y.level_after;
                                         });
            if (same || !any_below_) break;
        }
        prove();
        return std::move(out_);
    }

  private:
    struct Event {
        EventId id;
        double allowed = 0;
        std::vector<double> inflow;
        std::vector<std::vector<double>> below;
    };

    void one_round() {
        std::size_t k = 0;
        double above = not_given;  // highest level of the event before
        for (const Event& e : events_) {
            if (stop_.stop_requested()) return;
            // Outlets whose event comes later are shut: they will stand above the water of this one.
            std::vector<std::pair<WayOut*, double>> shut;
            for (std::size_t later = k + 1; later < std::min(rows_.size(), events_.size()); ++later)
                if (WayOut* w = way(rows_[later].id)) shut.emplace_back(w, std::exchange(w->count, 0));
            const SizedOutlet s = size(rows_[k], e, above);
            // The last outlet answers for all events that are left: the smallest size of them.
            if (out_.outlets.empty() || out_.outlets.back().outlet != s.outlet) out_.outlets.push_back(s);
            else if (s.size_after < out_.outlets.back().size_after || !s.why.empty()) out_.outlets.back() = s;
            put(rows_[k], out_.outlets.back());
            above = route(e).peak_level;
            for (const auto& [w, count] : shut) w->count = count;
            if (k + 1 < rows_.size()) ++k;
        }
    }
    void take_events(const std::vector<SiteHydrographs>& all) {
        events_.clear();
        any_below_ = false;
        for (const SiteHydrographs& h : all) {
            const Series* in = h.of("inflow");
            if (std::isnan(h.allowed) || !in) continue;
            // The water rises no more once nothing comes in.
            std::size_t end = in->values.size();
            while (end > 1 && in->values[end - 1] < 1e-7) --end;
            Event e{h.event,
                    h.allowed,
                    {in->values.begin(), in->values.begin() + static_cast<std::ptrdiff_t>(end)},
                    std::vector<std::vector<double>>(pond_.ways.size())};
            for (std::size_t w = 0; w < pond_.ways.size(); ++w)
                if (const Series* below = h.of("below " + std::to_string(w + 1))) {
                    e.below[w] = below->values;
                    any_below_ = true;
                }
            events_.push_back(std::move(e));
        }
    }

    bool prepare() {
        const std::vector<SiteHydrographs> all = hydrographs_at(project_, structure_, stop_);
        if (all.empty()) return no("the project has no hydrographs: choose runoff by unit hydrograph");
        const Network net = compile(project_);
        const int node = net.node_of(structure_);
        const int p = node == no_node ? -1 : nth(net.through_time->pond_of, node);
        if (p < 0) return no("the structure has no pond");
        pond_ = nth(net.through_time->ponds, p);
        step_ = net.through_time->step;
        take_events(all);
        if (events_.empty())
            return no("no release is allowed for any event: give one, or take those of the existing site");
        for (const PondOutlet& o : project_.outlets)
            if (o.structure == structure_ && !o.overflow && (has_opening(o.kind) || has_crest(o.kind)) &&
                o.behind.empty())
                rows_.push_back(o);
        // Openings before a way out behind them count too.
        for (const PondOutlet& o : project_.outlets)
            if (o.structure == structure_ && !o.overflow && (has_opening(o.kind) || has_crest(o.kind)) &&
                !o.behind.empty())
                rows_.push_back(o);
        if (rows_.empty()) return no("the pond has no orifice and no weir that could be sized");
        std::stable_sort(rows_.begin(), rows_.end(), [](const PondOutlet& a, const PondOutlet& b) {
            return std::tie(a.level, a.id) < std::tie(b.level, b.id);
        });
        for (const PondOutlet& o : rows_)
            if (std::isnan(o.level)) return no("the level of an outlet is not given");
        return true;
    }
    bool no(std::string why) {
        out_.why = std::move(why);
        return false;
    }
    WayOut* way(std::uint64_t row) {
        for (WayOut& w : pond_.ways)
            if (w.row == row) return &w;
        return nullptr;
    }
    void put_way(const PondOutlet& o) {
        WayOut* w = way(o.id);
        if (!w) return;
        const std::optional<WayOut> now = way_of(o, std::max(pond_.storage.top(), pond_.crest) + 2);
        if (!now) return;
        w->how = now->how;
        w->count = now->count;
    }
    PondRoute route(const Event& e, double against = 0) {
        ++out_.routings;
        PondInput in;
        in.storage = &pond_.storage;
        in.ways = pond_.ways;
        in.start_level = pond_.start_level;
        in.soakage = pond_.soakage;
        in.inflow = e.inflow;
        in.step = step_;
        in.below = e.below;
        in.against = against;
        return route_pond(in);
    }
    static PondOutlet with_size(PondOutlet o, double size) {
        (has_crest(o.kind) ? o.width : o.size) = size;
        return o;
    }
    SizedOutlet size(PondOutlet row, const Event& e, double above) {
        SizedOutlet s;
        s.outlet = row.id;
        s.event = e.id;
        s.is_crest = has_crest(row.kind);
        s.level_before = project_.outlets.find(row.id)->level;
        const PondOutlet& before = *project_.outlets.find(row.id);
        s.size_before = s.is_crest ? before.width : before.size;
        s.level_after = row.level;
        if (!std::isnan(above) && out_.outlets.size() > 0 && out_.outlets.back().outlet != row.id)
            s.level_after = std::ceil(above / sizes_.level_step - 1e-6) * sizes_.level_step;
        row.level = s.level_after;
        const double step = s.is_crest ? sizes_.crest_step : sizes_.opening_step;
        const double least = s.is_crest ? sizes_.crest_step : sizes_.least_opening;
        const int low = static_cast<int>(std::ceil(least / step - 1e-9)),
                  high = static_cast<int>(std::floor((s.is_crest ? 50.0 : 3.0) / step));
        const int found = largest(low, high, [&](int n) {
            put_way(with_size(row, n * step));
            return route(e, e.allowed).peak_outflow <= e.allowed * (1 + 1e-9);
        });
        if (found < low) s.why = "even the smallest practical size lets out more than is allowed";
        s.size_after = std::max(found, low) * step;
        if (found == high) s.why = "the largest size lets out less than is allowed";
        return s;
    }
    void put(PondOutlet& row, const SizedOutlet& s) {
        row.level = s.level_after;
        row = with_size(row, s.size_after);
        put_way(row);
    }

    void put_into_project() {
        for (const SizedOutlet& s : out_.outlets) {
            editing_.set(Kind::PondOutlet, s.outlet, "level", s.level_after);
            editing_.set(Kind::PondOutlet, s.outlet, s.is_crest ? "width" : "size", s.size_after);
        }
    }
    void prove() {
        const std::vector<SiteHydrographs> before = hydrographs_at(project_, structure_, stop_),
                                           after = hydrographs_at(editing_.now(), structure_, stop_);
        out_.meets = !after.empty();
        for (std::size_t i = 0; i < after.size() && i < before.size(); ++i) {
            ReleaseProof p;
            p.event = after[i].event;
            p.allowed = after[i].allowed;
            p.before = before[i].pond.peak_outflow;
            p.after = after[i].pond.peak_outflow;
            p.level_before = before[i].pond.level;
            p.level_after = after[i].pond.level;
            p.freeboard_after = pond_.crest - p.level_after;
            if (!std::isnan(p.allowed)) out_.meets &= p.after <= p.allowed * (1 + 1e-6);
            out_.proof.push_back(p);
        }
        out_.edit = editing_.take();
    }

    const Project& project_;
    StructureId structure_;
    PracticalSizes sizes_;
    const std::stop_token& stop_;
    Editing editing_;
    PondNode pond_;
    double step_ = 60;
    std::vector<Event> events_;
    std::vector<PondOutlet> rows_;
    bool any_below_ = false;
    OutletProposal out_;
};

}  // namespace

OutletProposal size_outlets(const Project& project, StructureId structure, const PracticalSizes& sizes,
                            const std::stop_token& stop) {
    return OutletSizing(project, structure, sizes, stop).run();
}

namespace {

struct Leaving {
    StructureId structure;
    double peak = 0, volume = 0, time = not_given, allowed = not_given;
};
/// What leaves at the ends of a project in an event, by name.
std::map<std::string, Leaving> leaving(const Project& project, const EventResult& r) {
    std::map<std::string, Leaving> list;
    const Network& net = *r.network;
    for (std::size_t i = 0; i < net.nodes.size(); ++i) {
        const Node& n = net.nodes[i];
        if (n.out != no_link) continue;
        const PondNode* pond = pond_node_at(r, i);
        const std::string name = element_name(project, Kind::Structure, n.structure.value);
        const NodeFlow& f = nth(r.nodes, i).flow;
        Leaving l{n.structure, f.flow, f.volume, f.peak_time, allowed_release(r, i)};
        if (pond) {  // what runs off the site there; where all runs on within the project it is no end of it
            const PondSummary& p = *pond_at(r, i);
            l.peak = l.volume = 0;
            for (std::size_t w = 0; w < pond->ways.size() && w < p.way_volumes.size(); ++w)
                if (pond->ways[w].target < 0 && pond->ways[w].behind < 0)
                    l.peak += p.way_peaks[w], l.volume += p.way_volumes[w];
            if (!(l.volume > 1e-6)) continue;
        }
        list[name] = l;
    }
    return list;
}

}  // namespace

std::vector<BeforeAfter> before_and_after(const Project& before, const Project& after,
                                          std::vector<std::string>* unmatched, const std::stop_token& stop) {
    std::vector<BeforeAfter> rows;
    Solver one, two;
    const Results a = one.solve(before, 0, {}, stop), b = two.solve(after, 0, {}, stop);
    const auto event_name = [](const Project& p, EventId id) { return p.events.find(id.value)->name; };
    const auto miss = [&](std::string what) {
        if (unmatched && std::find(unmatched->begin(), unmatched->end(), what) == unmatched->end())
            unmatched->push_back(std::move(what));
    };
    for (const auto& rb : b) {
        const std::string event = event_name(after, rb->event);
        const auto ra =
            std::find_if(a.begin(), a.end(), [&](const auto& r) { return event_name(before, r->event) == event; });
        if (ra == a.end()) {
            miss("event " + event);
            continue;
        }
        const auto was = leaving(before, **ra), is = leaving(after, *rb);
        for (const auto& [name, l] : is) {
            const auto w = was.find(name);
            if (w == was.end()) {
                miss("outfall " + name);
                continue;
            }
            BeforeAfter row;
            row.before = w->second.structure;
            row.after = l.structure;
            row.name = name;
            row.event = event;
            row.before_peak = w->second.peak;
            row.after_peak = l.peak;
            row.allowed = l.allowed;
            const bool both = (*ra)->source == ResultSource::ThroughTime && rb->source == ResultSource::ThroughTime;
            if (both) {
                row.before_volume = w->second.volume;
                row.after_volume = l.volume;
                row.before_time = w->second.time;
                row.after_time = l.time;
            }
            const double most = std::isnan(row.allowed) ? row.before_peak : row.allowed;
            row.exceeds = row.after_peak > most * (1 + 1e-6) + 1e-9;
            rows.push_back(row);
        }
        for (const auto& [name, l] : was)
            if (!is.contains(name)) miss("outfall " + name);
    }
    for (const auto& r : a) {
        const std::string event = event_name(before, r->event);
        if (std::none_of(b.begin(), b.end(), [&](const auto& o) { return event_name(after, o->event) == event; }))
            miss("event " + event);
    }
    return rows;
}

Edit releases_from(const Project& before, const Project& project, StructureId structure, double round_down,
                   const std::string& source) {
    Editing e(project, "Allowed releases");
    const std::string name = element_name(project, Kind::Structure, structure.value);
    Solver solver;
    for (const auto& r : solver.solve(before, 0)) {
        const RainEvent* rain = before.events.find(r->event.value);
        const RainEvent* same = nullptr;
        for (const RainEvent& o : project.events)
            if (o.name == rain->name) same = &o;
        // The same structure, or the one of its name, or the only end there was.
        int node = r->network->node_of(structure);
        if (node == no_node) {
            const ElementRef there = find_element(before, name);
            if (there.kind == Kind::Structure) node = r->network->node_of(StructureId{there.id});
        }
        if (node == no_node) {
            const auto ends = leaving(before, *r);
            if (ends.size() == 1) node = r->network->node_of(ends.begin()->second.structure);
        }
        if (!same || node == no_node) continue;
        double flow = released(*r, static_cast<std::size_t>(node));
        if (round_down > 0) flow = std::floor(flow / round_down + 1e-9) * round_down;
        const Release* had = nullptr;
        for (const Release& o : project.releases)
            if (o.structure == structure && o.event.value == same->id) had = &o;
        if (had) {
            e.set(Kind::Release, had->id, "flow", flow);
            e.set(Kind::Release, had->id, "source", source);
        } else {
            Release row;
            row.id = random_id();
            row.structure = structure;
            row.event = {same->id};
            row.flow = flow;
            row.source = source;
            e.insert(row);
        }
    }
    return e.take();
}

}  // namespace culvert
