// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/propose_design.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/analysis/budget.h"
#include "core/analysis/solver.h"
#include "core/base/contract.h"
#include "core/design/branches.h"
#include "core/design/pipe_fit.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

constexpr double slack = 1e-7;  ///< m: levels are multiples of a millimetre
constexpr int most_rounds = 24, settled_after = 8, most_growth = 200;

double floor_mm(double level) { return std::floor(level * 1000 + 1e-6) / 1000; }

/// What of a pipe may change.
struct Freedom {
    bool size = true, slope = true, up = true, down = true;
};
Freedom freedom_of(const Pipe& p, bool along, const DesignOptions& options) {
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
        for (int growth = 0; growth < most_growth; ++growth) {
            settle(stop);
            if (stop.stop_requested()) return false;
            if (!grow()) break;
        }
        return true;
    }
    [[nodiscard]] const Project& now() const { return now_; }
    [[nodiscard]] const EventResult& result() const { return *result_; }
    [[nodiscard]] const std::vector<Laid>& laid() const { return laid_; }
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
        for (int round = 0; round < most_rounds && !stop.stop_requested(); ++round) {
            ++rounds_;
            const Network& net = *result_->network;
            for (std::size_t i = 0; i < net.links.size(); ++i) {
                const double flow = result_->links[i].flow.flow;
                // Where rounds go to and fro between two designs the larger flow is held.
                flow_[i] = round < settled_after ? flow : std::max(flow_[i], flow);
            }
            std::vector<Laid> laid = lay(net);
            if (laid == laid_ && round > 0) return;
            laid_ = std::move(laid);
            apply(now_, edit_of(now_, net));
            if (!solve()) return;
        }
    }

    /// One pass from the heads down.
    std::vector<Laid> lay(const Network& net) {
        std::vector<Laid> laid(net.links.size());
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
        const Link& l = nth(net.links, link);
        const Node& node = nth(net.nodes, l.from);
        const double limit = limits_->limit(LimitKind::LeastDrop, pipe).value;
        const double drop = node.kind == StructureKind::Joint
                                ? 0
                                : std::max(drop_across(now_, node.structure), std::isnan(limit) ? 0 : limit);
        const double share = std::array{0.0, 0.8, 0.5, 1.0}[static_cast<std::size_t>(now_.settings().matching)];
        double most = 1e300;
        for (int in = node.first_in; in != no_link; in = nth(net.links, in).next_in) {
            const Laid& above = nth(laid, in);
            if (std::isnan(above.down)) continue;
            const double h_above = above.size ? above.size->size : height(nth(net.links, in).section);
            most = std::min({most, above.down - drop, above.down + share * (h_above - h)});
        }
        return most;
    }
    double smallest_above(const Network& net, int link, const std::vector<Laid>& laid) const {
        double largest = 0;
        const Node& node = nth(net.nodes, nth(net.links, link).from);
        for (int in = node.first_in; in != no_link; in = nth(net.links, in).next_in)
            if (const Laid& above = nth(laid, in); above.size) largest = std::max(largest, above.size->size);
            else largest = std::max(largest, height(nth(net.links, in).section));
        return largest;
    }

    struct Fit {
        Laid laid;
        double natural = 0, least = 0;  ///< slope the ground gives; least slope of the size
        bool ok = false;
    };
    /// Ends of a pipe with a size, as high as they may lie.
    Fit fit(const Network& net, int link, const Pipe& pipe, const PipeSize& size, const Freedom& free,
            const std::vector<Laid>& laid) const {
        const Link& l = nth(net.links, link);
        const Node &from = nth(net.nodes, l.from), &to = nth(net.nodes, l.to);
        const double cover_limit = limits_->limit(LimitKind::LeastCover, pipe.id).value;
        const double cover = !std::isnan(cover_limit) ? cover_limit : no_cover_ ? 0 : now_.settings().default_cover;
        const double above = cover + size.wall + size.size;
        SlopeRange range = slope_range(section_of_size(size), size.roughness,
                                       needs_of(*limits_, pipe.id, nth(flow_, link), net.peak_capacity));
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
        const auto list = sizes_.find({pipe.material, pipe.shape});
        static const std::vector<const PipeSize*> none;
        std::vector<const PipeSize*> sizes = list == sizes_.end() ? none : list->second;
        own_size_[pipe.id] = PipeSize{};
        PipeSize& own = own_size_[pipe.id];
        own.material = pipe.material;
        own.shape = pipe.shape;
        own.size = pipe.size;
        own.width = pipe.width;
        own.roughness = pipe.roughness;
        own.wall = pipe.wall;
        if (!free.size || sizes.empty()) sizes = {&own};
        const PipeNeeds needs = needs_of(*limits_, pipe.id, nth(flow_, link), net.peak_capacity);
        const double smallest = free.size ? std::max({std::isnan(needs.least_size) ? 0.0 : needs.least_size,
                                                      smallest_above(net, link, laid), floor_of(pipe.id)})
                                          : 0;
        // The smallest size that needs no steeper slope than the ground gives; else the one that needs the least.
        std::optional<Fit> best, worst;
        const char* why = "no size of the catalogue keeps its limits";
        for (const PipeSize* s : sizes) {
            if (s->size < smallest - 1e-9) continue;
            Fit f = fit(net, link, pipe, *s, free, laid);
            if (!worst || f.least < worst->least) worst = f;
            if (!f.ok) continue;
            if (f.least <= f.natural + slack) {
                best = f;
                why = f.natural > f.least + slack ? "follows the ground" : "least slope";
                break;
            }
            if (!best || f.least < best->least - slack) {
                best = f;
                why = "least slope that keeps its limits";
            }
        }
        if (!best) best = worst;
        if (!best) {  // the catalogue has nothing so large
            best = fit(net, link, pipe, sizes.empty() ? own : *sizes.back(), free, laid);
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
        for (std::size_t i = 0; i < net.links.size() && i < laid_.size(); ++i) {
            const Laid& l = laid_[i];
            const Pipe* p = base.pipes.find(net.links[i].pipe.value);
            if (!p) continue;
            const bool along = p->from == nth(net.nodes, net.links[i].from).structure;
            const Freedom free = freedom_of(*project_.pipes.find(p->id), along, options_);
            if (l.size && free.size &&
                (std::abs(l.size->size - p->size) > 1e-9 || (p->shape == Shape::Box && !(l.size->width == p->width)))) {
                e.set(Kind::Pipe, p->id, "size", l.size->size, origin);
                if (p->shape == Shape::Box) e.set(Kind::Pipe, p->id, "width", l.size->width, origin);
                e.set(Kind::Pipe, p->id, "roughness", l.size->roughness, Origin::Catalogue);
                e.set(Kind::Pipe, p->id, "wall", l.size->wall, Origin::Catalogue);
            }
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
    std::map<std::uint64_t, PipeSize> own_size_;
    std::map<std::uint64_t, double> floors_;  ///< sizes that the grade line asks for
    std::map<std::uint64_t, std::pair<double, double>>
        lowered_;  ///< starts that it asks for: where each lay first, and is to lie at most
    std::vector<double> flow_;
    std::vector<Laid> laid_;
    int rounds_ = 0;
    bool no_cover_ = false;  ///< tried without a least cover: then without any
};

/// Findings of pipes and levels beyond their limits: what a design can mend or break.
bool of_pipes(const Finding& f) {
    return f.check.verdict == Verdict::Beyond && f.check.rule != Rule::Data && stage_of(f.check.rule) != Stage::Streets;
}
int count_beyond(const Project& project, const EventResult& result) {
    const Review r = review(project, result);
    return static_cast<int>(std::count_if(r.findings.begin(), r.findings.end(), of_pipes));
}

double cost_of(const Project& project, const Pipe& p, double& volume) {
    volume = trench_volume(project, p);
    PipeSize size;
    size.shape = p.shape;
    size.size = p.size;
    size.width = p.width;
    const double pipe = p.status == Status::Proposed ? price_of_size(project, size) * length_of(project, p) : 0;
    return pipe + (p.status == Status::Proposed && volume > 0 ? volume * project.settings().excavation_price : 0);
}

/// Rows of before and after, upstream first.
void tell(DesignProposal& out, const Project& before, const Project& after, const EventResult& result,
          const std::vector<Laid>& laid) {
    const Network& net = *result.network;
    for (std::size_t i = 0; i < net.links.size(); ++i) {
        const Pipe *was = before.pipes.find(net.links[i].pipe.value), *is = after.pipes.find(net.links[i].pipe.value);
        if (!was || !is) continue;
        const bool along = was->from == nth(net.nodes, net.links[i].from).structure;
        DesignRow row;
        row.pipe = net.links[i].pipe;
        row.size_before = was->size;
        row.size_after = is->size;
        row.up_before = along ? was->invert_from : was->invert_to;
        row.up_after = along ? is->invert_from : is->invert_to;
        row.down_before = along ? was->invert_to : was->invert_from;
        row.down_after = along ? is->invert_to : is->invert_from;
        row.slope_before = (row.up_before - row.down_before) / net.links[i].length;
        row.slope_after = (row.up_after - row.down_after) / net.links[i].length;
        row.flow = result.links[i].flow.flow;
        row.cost_before = cost_of(before, *was, row.volume_before);
        row.cost_after = cost_of(after, *is, row.volume_after);
        if (i < laid.size()) row.reason = laid[i].reason;
        if (!std::isnan(row.cost_before)) out.cost_before += row.cost_before;
        if (!std::isnan(row.cost_after)) out.cost_after += row.cost_after;
        out.rows.push_back(std::move(row));
    }
}

/// Which limit stands in the way: each that is broken is left out in turn, and the whole designed again.
void explain_blocks(DesignProposal& out, const Project& project, EventId event, const DesignOptions& options,
                    const std::stop_token& stop) {
    std::map<LimitKind, DesignBlock> kinds;
    for (const Finding& f : out.findings) {
        if (!of_pipes(f) || static_cast<std::size_t>(f.check.rule) >= limit_count) continue;
        const auto kind = static_cast<LimitKind>(f.check.rule);
        DesignBlock& b = kinds.try_emplace(kind, DesignBlock{kind, f.element, f.check.limit}).first->second;
        (void)b;
    }
    // A limit that bounds another one's way may not be broken itself: the depth that a least slope digs to, for one.
    for (const LimitKind k :
         {LimitKind::MostDepth, LimitKind::LeastVelocity, LimitKind::MostVelocity, LimitKind::LeastCover,
          LimitKind::LeastSlope, LimitKind::MostSlope, LimitKind::MostSurcharge, LimitKind::LeastFreeboard,
          LimitKind::MostFlowRatio, LimitKind::MostFilledDepth})
        if (const Limit* l = find_limit(project, k, 0)) kinds.try_emplace(k, DesignBlock{k, {}, l->value});
    for (auto& [kind, block] : kinds) {
        if (stop.stop_requested()) return;
        DesignOptions relaxed = options;
        relaxed.explain_blocks = false;
        relaxed.without.push_back(kind);
        DesignProposal tried = propose_design(project, event, relaxed, stop);
        block.alone = tried.passes;
        if (!block.alone && !block.element.id) continue;
        // How near to the limit the design comes without it.
        Project with = project;
        apply(with, tried.edit);
        const Rule rule = static_cast<Rule>(kind);
        for (const auto& r : culvert::solve(with))
            if (r->event == event)
                for (const Finding& f : review(with, *r).findings)
                    if (f.check.rule == rule && f.check.verdict == Verdict::Beyond) {
                        const bool worse = std::isnan(block.nearest) || std::abs(f.check.value - f.check.limit) >
                                                                            std::abs(block.nearest - f.check.limit);
                        if (worse)
                            block.nearest = f.check.value, block.element = f.element, block.limit = f.check.limit;
                    }
        if (block.alone || block.element.id) out.blocks.push_back(block);
    }
    std::stable_sort(out.blocks.begin(), out.blocks.end(),
                     [](const DesignBlock& a, const DesignBlock& b) { return a.alone > b.alone; });
}

}  // namespace

bool DesignRow::changed() const {
    return std::abs(size_before - size_after) > 1e-9 || !(std::abs(up_before - up_after) < slack) ||
           !(std::abs(down_before - down_after) < slack);
}

DesignProposal propose_design(const Project& project, EventId event, const DesignOptions& options,
                              const std::stop_token& stop) {
    DesignProposal out;
    if (!project.events.find(event.value)) return out;
    Designer designer(project, event, options);
    if (!designer.run(stop)) return out;
    out.rounds = designer.rounds();
    out.edit = designer.edit_of(project, *designer.result().network);
    // What it keeps is said by a full solve of the project itself, with all its events and limits.
    Project after = project;
    apply(after, out.edit);
    Project held = after;
    for (const Limit& l : after.limits)
        if (std::find(options.without.begin(), options.without.end(), l.kind) != options.without.end())
            held.limits.change(l.id)->active = false;
    for (const auto& r : culvert::solve(project))
        (r->event == event ? out.beyond_before : out.others_before) += count_beyond(project, *r);
    for (const auto& r : culvert::solve(after)) {
        if (r->event != event) {
            out.others_after += count_beyond(held, *r);
            continue;
        }
        out.findings = review(held, *r).findings;
        for (Finding& f : out.findings) word(held, *r, f);
        out.beyond_after = static_cast<int>(std::count_if(out.findings.begin(), out.findings.end(), of_pipes));
        tell(out, project, after, *r, designer.laid());
    }
    out.passes = out.beyond_after == 0;
    if (!out.passes && options.explain_blocks) explain_blocks(out, project, event, options, stop);
    return out;
}

std::vector<std::string> block_words(const Project& project, const DesignProposal& proposal) {
    std::vector<std::string> out;
    const UnitSet u = units_of(project);
    if (!proposal.passes && proposal.blocks.empty() && proposal.beyond_after > 0)
        out.push_back("What is left has no single limit as its cause: see the findings.");
    for (const DesignBlock& b : proposal.blocks) {
        if (!b.alone &&
            !std::none_of(proposal.blocks.begin(), proposal.blocks.end(), [](const DesignBlock& o) { return o.alone; }))
            continue;
        const Quantity q = limit_quantity(b.kind);
        std::string words = "The limit " + std::string(limit_names()[static_cast<std::size_t>(b.kind)]) + " " +
                            u.text(b.limit, q) +
                            (!b.alone                          ? " cannot be kept with the others"
                             : b.kind == LimitKind::LeastCover ? " prevents it: with less the design passes"
                                                               : " prevents it: without it the design passes");
        if (b.element.id && !std::isnan(b.nearest))
            words += ", with " + u.text(b.nearest, q) + " at " + element_name(project, b.element.kind, b.element.id);
        out.push_back(words + ".");
    }
    return out;
}

}  // namespace culvert
