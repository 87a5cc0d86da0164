// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>

#include "core/design/site.h"
#include "core/model/lay.h"
#include "core/network/through_time.h"
#include "core/terrain/contours.h"

namespace culvert {
namespace {

constexpr double way_tolerance = 0.25;  ///< m, to which the drawn way of water is simplified
constexpr double never = 1e9;           ///< no depression is this deep: water runs over every lip

class PathFinder {
  public:
    PathFinder(const Project& project, const SiteGround& site, double reach)
        : project_(project), site_(site), reach_(reach) {
        for (const Structure& s : project.structures)
            if (takes_water(s) && placed(s)) inlets_.push_back(&s);
        for (const Street& street : project.streets) {
            StreetProfile profile = profile_of(street, site.ground);
            std::vector<MarkedPlace> marks = marked_places(profile, 0.05, 1e9);
            streets_[street.id] = {&street, std::move(profile), std::move(marks)};
        }
        for (const Structure* s : inlets_)
            if (streets_.contains(s->street.value)) on_street_[{s->street.value, s->offset > 0}].push_back(s);
        for (auto& [key, list] : on_street_)
            std::sort(list.begin(), list.end(), [](auto* a, auto* b) { return a->station < b->station; });
        std::sort(inlets_.begin(), inlets_.end(), [](auto* a, auto* b) { return a->name < b->name; });
    }
    [[nodiscard]] const std::vector<const Structure*>& inlets() const { return inlets_; }

    ProposedPath way_of(const Structure& s) const {
        ProposedPath out;
        out.from = {s.id};
        Point from{s.x, s.y};
        if (const auto street = streets_.find(s.street.value);
            street != streets_.end() && !street->second.profile.empty()) {
            Point end = from;
            if (along_street(street->second, s, out, end)) return out;
            from = end;
        }
        over_ground(s, from, out);
        return out;
    }

  private:
    struct Along {
        const Street* street;
        StreetProfile profile;
        std::vector<MarkedPlace> marks;
    };

    /// Down the curb to the next inlet on the same side. False: there is none before the low point or the street's end;
    /// `end` is there.
    bool along_street(const Along& a, const Structure& s, ProposedPath& out, Point& end) const {
        // Which way the street falls here, by its low and high points: small waves of the ground turn no water.
        const MarkedPlace *behind = nullptr, *ahead_of = nullptr;
        for (const MarkedPlace& m : a.marks) {
            if (m.mark == ProfileMark::GradeBreak) continue;
            if (m.mark == ProfileMark::Low && std::abs(m.station - s.station) <= reach_)
                return false;  // in the low point: over a lip
            if (m.station <= s.station) behind = &m;
            else if (!ahead_of) ahead_of = &m;
        }
        const bool falls_on = ahead_of ? ahead_of->mark == ProfileMark::Low
                              : behind ? behind->mark == ProfileMark::High
                                       : a.profile.back().level < a.profile.front().level;
        const int way = falls_on ? 1 : -1;
        double stop_at = way > 0 ? a.profile.back().station : a.profile.front().station;
        bool low = false;
        for (const MarkedPlace& m : a.marks) {
            if (m.mark != ProfileMark::Low) continue;
            const double ahead = (m.station - s.station) * way;
            if (ahead > 0.01 && ahead < (stop_at - s.station) * way) {
                stop_at = m.station;
                low = true;
            }
        }
        const Structure* next = nullptr;
        const double slack = low ? reach_ : 0.01;  // an inlet in the low point may stand a little beyond it
        for (const Structure* o : on_street_.at({s.street.value, s.offset > 0})) {
            const double ahead = (o->station - s.station) * way;
            if (o == &s || ahead <= 0.01 || ahead > (stop_at - s.station) * way + slack) continue;
            if (!next || ahead < (next->station - s.station) * way) next = o;
        }
        const double to = next ? next->station : stop_at;
        std::vector<Point> curb;
        const auto line = std::span<const Point>(a.street->line);
        double at = 0;
        for (std::size_t i = 1; i + 1 < line.size(); ++i) {
            at += distance(line[i - 1], line[i]);
            if ((at - s.station) * way > 0.01 && (to - at) * way > 0.01) curb.push_back(point_at(line, at, s.offset));
        }
        if (way < 0) std::reverse(curb.begin(), curb.end());
        if (!next) {
            end = point_at(line, stop_at, s.offset);
            out.bends = curb;
            out.bends.push_back(end);
            return false;
        }
        out.to = {next->id};
        out.bends = curb;
        out.way = ProposedPath::Way::Street;
        out.reason = "along " + a.street->name + " to " + next->name;
        return true;
    }

    void over_ground(const Structure& s, Point from, ProposedPath& out) const {
        if (!site_.drainage) {
            out.bends.clear();
            out.reason = "there is no surface and no street that would show its way";
            return;
        }
        const Trace trace = site_.drainage->trace(from, never);
        if (trace.line.empty() || trace.end == TraceEnd::OffSurface) {
            out.bends.clear();
            out.reason = "the surface does not reach it";
            return;
        }
        std::vector<Point> way;
        double gone = 0;
        const Structure* found = nullptr;
        for (std::size_t i = 0; i < trace.line.size() && !found; ++i) {
            const Point p{trace.line[i].x, trace.line[i].y};
            if (!way.empty()) {
                // The first inlet that the way passes, past the reach of where it began.
                double first = 1e300;
                const Point q = way.back();
                const double step = distance(q, p);
                for (const Structure* o : inlets_) {
                    if (o == &s || distance({o->x, o->y}, {s.x, s.y}) < 0.01) continue;
                    if (distance_to_segment({o->x, o->y}, q, p) > reach_) continue;
                    const Point leg[]{q, p};
                    const double along = step > 0 ? station_of(leg, {o->x, o->y}).station : 0;
                    if (along < first) {
                        first = along;
                        found = o;
                    }
                }
                gone += step;
            }
            if (!found) way.push_back(p);
        }
        std::vector<Point> bends = simplified(way, way_tolerance);
        if (!bends.empty()) bends.erase(bends.begin());
        out.bends.insert(out.bends.end(), bends.begin(), bends.end());
        for (Point& p : out.bends) p = to_mm(p);
        out.way = ProposedPath::Way::Ground;
        if (found) {
            out.to = {found->id};
            out.reason = "down the ground to " + found->name;
        } else if (trace.end == TraceEnd::LeftSurface) out.reason = "down the ground and off the site";
        else {
            out.way = ProposedPath::Way::None;
            out.reason = "its water stays in a hollow without an inlet";
        }
    }

    const Project& project_;
    const SiteGround& site_;
    double reach_;
    std::vector<const Structure*> inlets_;
    std::map<std::uint64_t, Along> streets_;
    std::map<std::pair<std::uint64_t, bool>, std::vector<const Structure*>> on_street_;
};

}  // namespace

StreetProfile profile_of(const Street& street, const Ground& ground) {
    StreetProfile out = entered_profile(street);
    if (!street.levels.empty()) return out;
    for (const auto& p : ground.section(street.line))
        if (!std::isnan(p.level) && (out.empty() || p.distance > out.back().station))
            out.push_back({p.distance, p.level});
    return out;
}

StreetPathProposal propose_street_paths(const Project& project, const SiteGround& site, double reach,
                                        const std::stop_token& stop) {
    StreetPathProposal out;
    const PathFinder finder(project, site, reach);
    const std::size_t to_field = *field_index(Kind::StreetPath, "to");
    std::unordered_map<std::uint64_t, const StreetPath*> kept;
    Editing e(project, "Propose street paths");
    for (const StreetPath& p : project.street_paths)
        if (p.origin[to_field] != Origin::Proposed) kept[p.from.value] = &p;
    std::unordered_map<std::uint64_t, std::uint64_t> next;
    for (const auto& [from, path] : kept) next[from] = path->to.value;
    for (const Structure* s : finder.inlets()) {
        if (stop.stop_requested()) return {};
        if (kept.contains(s->id)) {
            ++out.kept;
            continue;
        }
        out.paths.push_back(finder.way_of(*s));
        if (out.paths.back().to) next[s->id] = out.paths.back().to.value;
    }
    // Rings: of the proposed paths that close one, that which rises most leaves.
    const auto rim = [&](std::uint64_t id) {
        const Structure* s = project.structures.find(id);
        return s ? s->rim : not_given;
    };
    for (const ProposedPath& p : out.paths) {
        std::vector<std::uint64_t> way{p.from.value};
        for (auto at = next.find(p.from.value); at != next.end() && at->second; at = next.find(at->second)) {
            if (const auto ring = std::find(way.begin(), way.end(), at->second); ring != way.end()) {
                std::uint64_t worst = 0;
                double most = -1e300;
                for (auto i = ring; i != way.end(); ++i) {
                    const double rise = rim(next[*i]) - rim(*i);
                    if (!kept.contains(*i) && (rise > most || worst == 0)) {
                        most = rise;
                        worst = *i;
                    }
                }
                if (!worst) break;
                next[worst] = 0;
                for (ProposedPath& q : out.paths)
                    if (q.from.value == worst) {
                        q.to = {};
                        q.bends.clear();
                        q.way = ProposedPath::Way::None;
                        q.reason = "its way (" + q.reason + ") would run round in a ring";
                    }
                break;
            }
            way.push_back(at->second);
        }
    }
    for (const StreetPath& p : project.street_paths)
        if (p.origin[to_field] == Origin::Proposed) e.remove(Kind::StreetPath, p.id);
    for (const ProposedPath& p : out.paths) {
        if (p.way == ProposedPath::Way::None) {
            ++out.none;
            continue;
        }
        StreetPath row;
        row.id = random_id();
        row.name = element_name(project, Kind::Structure, p.from.value) +
                   (p.to ? " to " + element_name(project, Kind::Structure, p.to.value) : " off the site");
        row.from = p.from;
        row.to = p.to;
        row.bends = p.bends;
        row.note = p.reason;
        for (const char* key : {"name", "from", "to", "bends", "note"})
            row.origin[*field_index(Kind::StreetPath, key)] = Origin::Proposed;
        e.insert(std::move(row));
        ++(p.to ? out.found : out.leaving);
    }
    out.edit = e.take();
    return out;
}

}  // namespace culvert
