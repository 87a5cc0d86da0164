// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>
#include <unordered_map>

#include "core/analysis/solver.h"
#include "core/base/contract.h"
#include "core/design/branches.h"
#include "core/design/least_cost.h"
#include "core/design/pipe_fit.h"
#include "core/design/propose_design.h"
#include "core/model/lay.h"

/// How a design is found (propose_design.h says what it is): rounds of laying all pipes and solving, until both agree;
/// then steps against water that stands too high. Only propose_design.cpp includes this.
namespace culvert::designing {

constexpr double slack = 1e-7;    ///< m: levels are multiples of a millimetre
constexpr int most_searches = 6;  ///< for least cost: flows change little after
constexpr int most_rounds = 24, settled_after = 8, most_growth = 200;

/// What of a pipe may change.
struct Freedom {
    bool size = true, slope = true, up = true, down = true;
};
inline Freedom freedom_of(const Pipe& p, bool along, const DesignOptions& options) {
    static const std::size_t from_field = *field_index(Kind::Pipe, "invert_from"),
                             to_field = *field_index(Kind::Pipe, "invert_to");
    if (p.status != Status::Proposed) return {false, false, false, false};
    const auto free = [&](std::size_t field, double level) {
        return std::isnan(level) || p.origin[field] == Origin::Default || p.origin[field] == Origin::Proposed;
    };
    const bool from = free(from_field, p.invert_from), to = free(to_field, p.invert_to);
    Freedom f{options.sizes && !p.size_locked, !p.slope_locked, options.levels && (along ? from : to),
              options.levels && (along ? to : from)};
    return f;
}

/// A pipe as a round lays it.
struct Laid {
    const PipeSize* size = nullptr;
    double up = not_given, down = not_given;
    std::string reason;
    friend bool operator==(const Laid& a, const Laid& b) {
        return a.size == b.size && a.up == b.up && a.down == b.down;
    }
};

class Designer {
  public:
    Designer(const Project& project, EventId event, const DesignOptions& options)
        : project_(project), event_(event), options_(options), now_(project) {
        for (const Limit& l : project.limits)
            if (std::find(options.without.begin(), options.without.end(), l.kind) != options.without.end())
                now_.limits.change(l.id)->active = false;
        no_cover_ =
            std::find(options.without.begin(), options.without.end(), LimitKind::LeastCover) != options.without.end();
        for (const RainEvent& e : project.events)
            if (e.id != event.value) now_.events.erase(e.id);
        for (const PipeSize& s : project.sizes) sizes_[{s.material, s.shape}].push_back(&s);
        for (auto& [kind, list] : sizes_)
            std::sort(list.begin(), list.end(),
                      [](auto* a, auto* b) { return std::tie(a->size, a->id) < std::tie(b->size, b->id); });
    }

    bool run(const std::stop_token& stop) {
        if (!solve()) return false;
        limits_.emplace(now_, event_);
        flow_.assign(result_->links.size(), 0);
        settle(stop);
        for (int growth = 0; growth < most_growth && !stop.stop_requested(); ++growth) {
            if (grow()) {
                step(settled_after);  // one round for each change; flows are settled where no more is wanted
                continue;
            }
            settle(stop);
            if (!grow()) break;
        }
        return !stop.stop_requested();
    }
    [[nodiscard]] const Project& now() const { return now_; }
    [[nodiscard]] const EventResult& result() const { return *result_; }
    [[nodiscard]] std::map<std::uint64_t, std::string> reasons() const {
        std::map<std::uint64_t, std::string> out;
        for (std::size_t i = 0; i < laid_.size() && i < order_.size(); ++i) out[order_[i].value] = laid_[i].reason;
        return out;
    }
    [[nodiscard]] int rounds() const { return rounds_; }

  private:
    bool solve() {
        const Results all = solver_.solve(now_, 0, event_);
        if (all.empty()) return false;
        result_ = all.front();
        return true;
    }

    /// Lays all pipes and solves, until flows and design agree.
    void settle(const std::stop_token& stop) {
        for (int round = 0; round < most_rounds && !stop.stop_requested(); ++round)
            if (!step(round)) return;
    }
    /// Lays all pipes for the flows as they are, and solves. False where nothing changed by it.
    bool step(int round) {
        ++rounds_;
        const auto network = result_->network;  // that the pipes are laid by; solving makes another
        const Network& net = *network;
        std::vector<PipeId> order;
        for (const Link& l : net.links) order.push_back(l.pipe);
        if (order != order_) {  // levels turn the main way of a ring, and with it the order of the pipes
            order_ = std::move(order);
            laid_.clear();
            ranges_.clear();
            flow_.assign(net.links.size(), 0);
        }
        for (std::size_t i = 0; i < net.links.size(); ++i) {
            const double flow = result_->links[i].flow.flow;
            // Where rounds go to and fro between two designs the larger flow is held.
            flow_[i] = round < settled_after ? flow : std::max(flow_[i], flow);
        }
        std::vector<Laid> laid = lay(net);
        if (laid == laid_ && round > 0) return false;
        laid_ = std::move(laid);
        apply(now_, edit_of(now_, net));
        return solve();
    }

    /// One pass from the heads down.
    std::vector<Laid> lay(const Network& net) {
        std::vector<Laid> laid(net.links.size());
        if (options_.least_cost && options_.sizes && searches_ < most_searches) choose_by_cost(net);
        for (std::size_t i = 0; i < net.links.size(); ++i) {
            const Link& link = net.links[i];
            const Pipe& pipe = *now_.pipes.find(link.pipe.value);
            laid[i] = lay_pipe(net, static_cast<int>(i), pipe, laid);
        }
        return laid;
    }

    /// What a start may at most be below the pipes that enter, for a height of the section.
    double below_entering(const Network& net, int link, double h, const std::vector<Laid>& laid,
                          std::uint64_t pipe) const {
        const Node& node = nth(net.nodes, nth(net.links, link).from);
        const double drop = drop_below(net, link, pipe), share = matching_share();
        double most = 1e300;
        for (int in = node.first_in; in != no_link; in = nth(net.links, in).next_in) {
            const Laid& above = nth(laid, in);
            if (std::isnan(above.down)) continue;
            const double h_above = above.size ? above.size->size : height(nth(net.links, in).section);
            most = std::min({most, above.down - drop, above.down + share * (h_above - h)});
        }
        return most;
    }
    double drop_below(const Network& net, int link, std::uint64_t pipe) const {
        const Node& node = nth(net.nodes, nth(net.links, link).from);
        const double limit = limits_->limit(LimitKind::LeastDrop, pipe).value;
        return node.kind == StructureKind::Joint
                   ? 0
                   : std::max(drop_across(now_, node.structure), std::isnan(limit) ? 0 : limit);
    }
    double matching_share() const {
        return std::array{0.0, 0.8, 0.5, 1.0}[static_cast<std::size_t>(now_.settings().matching)];
    }
    double cover_of(std::uint64_t pipe) const {
        const double limit = limits_->limit(LimitKind::LeastCover, pipe).value;
        return !std::isnan(limit) ? limit : no_cover_ ? 0 : now_.settings().default_cover;
    }
    /// Sizes that a pipe may have: those of the catalogue of its kind, or its own alone.
    const std::vector<const PipeSize*>& sizes_for(const Pipe& pipe, const Freedom& free) {
        const auto list = sizes_.find({pipe.material, pipe.shape});
        if (free.size && list != sizes_.end()) return list->second;
        OwnSize& own = own_[pipe.id];
        own.size = size_of(pipe);
        own.list = {&own.size};
        return own.list;
    }
    double smallest_above(const Network& net, int link, const std::vector<Laid>& laid) const {
        double largest = 0;
        const Node& node = nth(net.nodes, nth(net.links, link).from);
        for (int in = node.first_in; in != no_link; in = nth(net.links, in).next_in)
            if (const Laid& above = nth(laid, in); above.size) largest = std::max(largest, above.size->size);
            else largest = std::max(largest, height(nth(net.links, in).section));
        return largest;
    }

    /// Sizes that cost least together for the flows of this round.
    void choose_by_cost(const Network& net) {
        std::vector<CostPipe> pipes(net.links.size());
        std::vector<std::vector<const PipeSize*>> sizes(net.links.size());
        for (std::size_t i = 0; i < net.links.size(); ++i) pipes[i] = cost_pipe(net, static_cast<int>(i), sizes[i]);
        const LeastCost found = least_cost(pipes);
        ++searches_;
        chosen_.clear();
        for (std::size_t i = 0; i < net.links.size(); ++i)
            if (found.size[i] >= 0) chosen_[net.links[i].pipe.value] = nth(sizes[i], found.size[i]);
    }
    CostPipe cost_pipe(const Network& net, int link, std::vector<const PipeSize*>& sizes) {
        const Link& l = nth(net.links, link);
        const Node &from = nth(net.nodes, l.from), &to = nth(net.nodes, l.to);
        const Pipe& pipe = *now_.pipes.find(l.pipe.value);
        const Freedom free = freedom_of(pipe, pipe.from == from.structure, options_);
        const bool proposed = pipe.status == Status::Proposed, outfall = to.kind == StructureKind::Outfall;
        const double deepest = limits_->limit(LimitKind::MostDepth, from.structure.value).value;
        CostPipe c;
        c.below = l.main && to.out != no_link ? to.out : -1;
        c.length = l.length;
        c.rim_up = from.rim;
        c.rim_down = to.rim;
        c.covered_below = !outfall && !std::isnan(to.rim);
        c.drop = drop_below(net, link, pipe.id);
        c.share = matching_share();
        if (!std::isnan(deepest)) c.most_depth = deepest;
        c.dig_price = proposed ? now_.settings().excavation_price : 0;
        c.fixed_up = !free.up;
        c.fixed_down = !free.down;
        c.up = l.invert_up;
        c.down = l.invert_down;
        const PipeNeeds needs = needs_of(*limits_, pipe.id, nth(flow_, link), net.peak_capacity);
        const double smallest = std::max(std::isnan(needs.least_size) ? 0.0 : needs.least_size, floor_of(pipe.id));
        for (const PipeSize* s : sizes_for(pipe, free)) {
            if (free.size && s->size < smallest - 1e-9) continue;
            SlopeRange range = range_of(link, *s, needs);
            if (!free.slope && l.slope > 0) range.least = range.most = l.slope;
            if (!free.up && !free.down) range.least = -1e9, range.most = 1e9;  // locked: it is as it is
            c.sizes.push_back({s->size, cover_of(pipe.id) + s->wall + s->size, range.least, range.most,
                               proposed ? price_of_size(now_, *s) : 0, trench_width(inside_width(*s), s->wall),
                               s->wall + trench_bedding});
            sizes.push_back(s);
        }
        return c;
    }

    /// Kept while the flow stays: most pipes carry the same from round to round.
    SlopeRange range_of(int link, const PipeSize& size, const PipeNeeds& needs) {
        Ranges& kept = ranges_[link];
        if (kept.flow != needs.flow) kept = {needs.flow, {}};
        for (const auto& [known, range] : kept.of)
            if (known == &size) return range;
        return kept.of.emplace_back(&size, slope_range(section_of_size(size), size.roughness, needs)).second;
    }

    struct Fit {
        Laid laid;
        double natural = 0, least = 0;  ///< slope the ground gives; least slope of the size
        bool ok = false;
    };
    /// Ends of a pipe with a size, as high as they may lie.
    Fit fit(const Network& net, int link, const Pipe& pipe, const PipeSize& size, const Freedom& free,
            const std::vector<Laid>& laid) {
        const Link& l = nth(net.links, link);
        const Node &from = nth(net.nodes, l.from), &to = nth(net.nodes, l.to);
        const double above = cover_of(pipe.id) + size.wall + size.size;
        SlopeRange range = range_of(link, size, needs_of(*limits_, pipe.id, nth(flow_, link), net.peak_capacity));
        if (!free.slope && l.slope > 0) range.least = range.most = l.slope;
        Fit out;
        out.laid.size = &size;
        out.least = range.least;
        const auto lowered = lowered_.find(pipe.id);
        const double up_most = std::min({below_entering(net, link, size.size, laid, pipe.id), from.rim - above,
                                         lowered == lowered_.end() ? 1e300 : lowered->second.second});
        const double down_most = to.kind == StructureKind::Outfall || std::isnan(to.rim) ? 1e300 : to.rim - above;
        out.natural = (up_most - std::min(down_most, up_most)) / l.length;
        double up = free.up ? floor_mm(up_most) : l.invert_up, down = l.invert_down;
        if (free.down) {
            down = floor_mm(std::min(down_most, up - range.least * l.length));
            if (free.up && up - down > range.most * l.length)
                up = floor_mm(down + range.most * l.length);  // a drop at its head
        } else if (free.up) up = floor_mm(std::min(up, down + range.most * l.length));
        out.laid.up = up;
        out.laid.down = down;
        const double tolerance = 0.0011 / l.length;  // of rounded levels
        const double slope = (up - down) / l.length;
        out.ok = std::isfinite(up) && std::isfinite(down) && range.least <= range.most &&
                 slope >= range.least - slack && slope <= range.most + tolerance &&
                 up <= up_most + slack + (free.up ? 0 : 1e300);
        return out;
    }

    Laid lay_pipe(const Network& net, int link, const Pipe& pipe, const std::vector<Laid>& laid) {
        const Link& l = nth(net.links, link);
        const bool along = pipe.from == nth(net.nodes, l.from).structure;
        const Freedom free = freedom_of(pipe, along, options_);
        Laid kept{nullptr, l.invert_up, l.invert_down, "locked"};
        if (!l.main || !(l.length > 0) || (!free.size && !free.up && !free.down)) return kept;
        const std::vector<const PipeSize*>& sizes = sizes_for(pipe, free);
        const PipeNeeds needs = needs_of(*limits_, pipe.id, nth(flow_, link), net.peak_capacity);
        const double smallest = free.size ? std::max({std::isnan(needs.least_size) ? 0.0 : needs.least_size,
                                                      smallest_above(net, link, laid), floor_of(pipe.id)})
                                          : 0;
        if (const auto at = chosen_.find(pipe.id); at != chosen_.end() && at->second->size >= smallest - 1e-9)
            if (Fit f = fit(net, link, pipe, *at->second, free, laid); f.ok) {
                f.laid.reason = "least cost together";
                return f.laid;
            }
        // The smallest size that needs no steeper slope than the ground gives; else the one that needs the least.
        std::optional<Fit> best, worst;
        const char* why = "no size of the catalogue keeps its limits";
        for (const PipeSize* s : sizes) {
            if (s->size < smallest - 1e-9) continue;
            Fit f = fit(net, link, pipe, *s, free, laid);
            if (!worst || f.least < worst->least) worst = f;
            if (!f.ok) continue;
            const bool follows = f.least <= f.natural + slack;  // a larger one lies deeper: its ground falls more
            if (follows && (!best || f.least < best->least - slack)) {
                why = f.natural > f.least + slack ? "follows the ground" : "least slope";
                best = f;
            }
            if (follows) break;
            if (!best || f.least < best->least - slack) {
                best = f;
                why = "least slope that keeps its limits";
            }
        }
        if (!best) best = worst;
        if (!best) {  // the catalogue has nothing so large
            best = fit(net, link, pipe, *sizes.back(), free, laid);
            why = "the catalogue has no larger size";
        }
        best->laid.reason = why;
        if (!std::isfinite(best->laid.up) || !std::isfinite(best->laid.down)) {
            kept.reason = "a rim is not given";
            return kept;
        }
        return best->laid;
    }
    double floor_of(std::uint64_t pipe) const {
        const auto at = floors_.find(pipe);
        return at == floors_.end() ? 0 : at->second;
    }

  public:
    /// What the laid pipes differ by from a project.
    Edit edit_of(const Project& base, const Network& net, Origin origin = Origin::Proposed) const {
        Editing e(base, "Propose a design");
        for (std::size_t i = 0; i < order_.size() && i < laid_.size(); ++i) {
            const Laid& l = laid_[i];
            const Pipe* p = base.pipes.find(order_[i].value);
            const int link = net.link_of(order_[i]);
            if (!p || link == no_link) continue;
            const bool along = p->from == nth(net.nodes, nth(net.links, link).from).structure;
            const Freedom free = freedom_of(*project_.pipes.find(p->id), along, options_);
            if (l.size && free.size &&
                (std::abs(l.size->size - p->size) > 1e-9 ||
                 (has_width(p->shape) &&
                  !(l.size->width == p->width || (std::isnan(l.size->width) && std::isnan(p->width))))))
                put_size(e, p->id, *l.size, origin);
            const auto level = [&](bool up, double now, double laid) {
                if (!(up ? free.up : free.down) || std::isnan(laid) || std::abs(now - laid) < slack) return;
                e.set(Kind::Pipe, p->id, up == along ? "invert_from" : "invert_to", laid, origin);
            };
            level(true, along ? p->invert_from : p->invert_to, l.up);
            level(false, along ? p->invert_to : p->invert_from, l.down);
        }
        return e.take();
    }

  private:
    /// Where water stands above its limit in the design event, what holds it up there changes by a step: a pipe below
    /// that runs full grows (of those that run full on from there, the one with most friction); where the pipe below
    /// has a free surface, the loss at its head is the cause, and its start is laid lower by as much.
    /// @return  whether anything changed
    bool grow() {
        const Network& net = *result_->network;
        bool changed = false;
        std::set<std::uint64_t> done;
        for (const Finding& f : review(now_, *result_).findings) {
            if (f.check.verdict != Verdict::Beyond || stage_of(f.check.rule) != Stage::Levels) continue;
            const int node = too_high_at(net, f);
            if (node == no_node || nth(net.nodes, node).out == no_link) continue;
            const double excess =
                f.check.rule == Rule::LeastFreeboard ? f.check.limit - f.check.value : f.check.value - f.check.limit;
            changed |= relieve(net, nth(net.nodes, node).out, excess, done);
        }
        return changed;
    }
    /// Node whose level is too high; of a pipe, that of the end that is worse.
    int too_high_at(const Network& net, const Finding& f) const {
        if (f.element.kind == Kind::Structure) return net.node_of(f.element);
        const int link = net.link_of(PipeId{f.element.id});
        if (link == no_link) return no_node;
        const LinkLevel& level = nth(result_->links, link).level;
        return level.head_down > level.head_up ? nth(net.links, link).to : nth(net.links, link).from;
    }
    bool relieve(const Network& net, int out, double excess, std::set<std::uint64_t>& done) {
        const auto full = [&](int link, bool up) {
            const LinkLevel& level = nth(result_->links, link).level;
            return (up ? level.head_up : level.head_down) > height(nth(net.links, link).section) * (1 - 1e-6);
        };
        const std::uint64_t id = nth(net.links, out).pipe.value;
        if (full(out, true)) {
            std::vector<std::pair<double, int>> causes;  // friction of what runs full on from here
            for (int link = out; link != no_link;) {
                const LinkLevel& level = nth(result_->links, link).level;
                const Link& l = nth(net.links, link);
                causes.emplace_back(level.head_up + l.invert_up - level.head_down - l.invert_down, link);
                link = full(link, false) ? nth(net.nodes, l.to).out : no_link;
            }
            std::sort(causes.begin(), causes.end(),
                      [](auto& a, auto& b) { return std::tie(b.first, a.second) < std::tie(a.first, b.second); });
            for (const auto& [friction, link] : causes) {
                const std::uint64_t pipe = nth(net.links, link).pipe.value;
                if (done.contains(pipe)) return true;
                if (options_.sizes && larger(net, pipe)) return done.insert(pipe), true;
            }
            return false;
        }
        if (done.contains(id)) return true;
        if (lower(net, out, std::max(excess, 0.001) + 0.002)) return done.insert(id), true;
        if (options_.sizes && larger(net, id)) return done.insert(id), true;
        return false;
    }
    bool lower(const Network& net, int link, double by) {
        constexpr double deepest = 3;  // m below where it would lie: more is no remedy
        const Link& l = nth(net.links, link);
        const Pipe* p = project_.pipes.find(l.pipe.value);
        if (!freedom_of(*p, p->from == nth(net.nodes, l.from).structure, options_).up) return false;
        const auto [at, fresh] = lowered_.try_emplace(p->id, std::pair{l.invert_up, l.invert_up});
        at->second.second = std::min(at->second.second, l.invert_up) - by;
        return at->second.first - at->second.second <= deepest;
    }
    bool larger(const Network& net, std::uint64_t id) {
        const Pipe* p = now_.pipes.find(id);
        const int link = net.link_of(PipeId{id});
        if (!p || link == no_link) return false;
        const bool along = p->from == nth(net.nodes, nth(net.links, link).from).structure;
        if (!freedom_of(*project_.pipes.find(id), along, options_).size) return false;
        const auto list = sizes_.find({p->material, p->shape});
        if (list == sizes_.end()) return false;
        for (const PipeSize* s : list->second)
            if (s->size > p->size + 1e-9) {
                floors_[id] = s->size;
                return true;
            }
        return false;
    }

    const Project& project_;
    EventId event_;
    const DesignOptions& options_;
    Project now_;
    Solver solver_;
    std::shared_ptr<const EventResult> result_;
    std::optional<LimitTable> limits_;
    std::map<std::pair<std::string, Shape>, std::vector<const PipeSize*>> sizes_;
    struct OwnSize {
        PipeSize size;
        std::vector<const PipeSize*> list;
    };
    std::map<std::uint64_t, OwnSize> own_;  ///< of pipes whose size is locked, or not in the catalogue
    struct Ranges {
        double flow = not_given;
        std::vector<std::pair<const PipeSize*, SlopeRange>> of;
    };
    std::unordered_map<int, Ranges> ranges_;           ///< by link
    std::map<std::uint64_t, const PipeSize*> chosen_;  ///< by least cost
    std::map<std::uint64_t, double> floors_;           ///< sizes that the grade line asks for
    std::map<std::uint64_t, std::pair<double, double>>
        lowered_;                ///< starts that it asks for: where each lay first, and is to lie at most
    std::vector<PipeId> order_;  ///< of the pipes, as they were laid
    std::vector<double> flow_;
    std::vector<Laid> laid_;
    int rounds_ = 0, searches_ = 0;
    bool no_cover_ = false;  ///< tried without a least cover: then without any
};

}  // namespace culvert::designing
